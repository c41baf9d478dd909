"""How a build's rods are decided: its plan, the valves known or inferred, the shop's box."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, cast

from vivid_arm.core.conventions import Convention, convert
from vivid_arm.core.decide import (
    LENGTH_TOLERANCE_IN,
    REACH_TURNS,
    Aim,
    Decision,
    Mode,
    ValveKnown,
    decide,
)
from vivid_arm.core.engine import KINDS, ValveKind, valve_name
from vivid_arm.core.grouping import Strategy
from vivid_arm.core.growth import PartName, Stack, stack_of, starting_stack
from vivid_arm.core.infer import inferred
from vivid_arm.core.preload import Bias
from vivid_arm.core.spread import placed

from .models import BoxRod, Build
from .setup import lifter_of

if TYPE_CHECKING:
    from .state import BuildState

_USUAL_ROD_IN = 7.4


@dataclass(frozen=True)
class Plan:
    """How rods are decided; ``stack`` is None while the engine's materials are not said."""

    strategy: Strategy
    tolerance_in: float
    reach_turns: float
    stack: Stack | None
    own_parts: frozenset[PartName]


def plan_of(build: Build) -> Plan:
    """The build's plan with usual figures for what is not entered. Raises InputError."""
    kept: dict[str, Any] = build.plan or {}
    stack: dict[PartName, Any] | None = None
    own: Any = {}
    if kept.get("block") and kept.get("head"):
        stack = starting_stack(kept["block"], kept["head"], _USUAL_ROD_IN)
        own = stack_of(kept.get("parts") or {})
        stack |= own
    return Plan(
        kept.get("strategy") or "kinds",
        LENGTH_TOLERANCE_IN if kept.get("tolerance_in") is None else kept["tolerance_in"],
        kept.get("reach_turns") or REACH_TURNS,
        stack,
        frozenset(own),
    )


def mode_of(build: Build) -> Mode:
    """Whether the rod's length or an adjuster sets preload or lash."""
    if build.lifter_kind == "solid":
        return "lash"
    return "adjuster" if build.mount in ("stud", "shaft_adjustable") else "length"


def aim_of(build: Build) -> Aim:
    """What a rod of this build shall give. Raises InputError for a lash not entered."""
    plan = plan_of(build)
    lash: dict[ValveKind, float] = {
        "intake": float(build.lash_intake_in or 0),
        "exhaust": float(build.lash_exhaust_in or 0),
    }
    mode = mode_of(build)
    return Aim(
        mode,
        None if mode == "lash" else lifter_of(build),
        lash,
        float(build.fastener_pitch_in),
        build.mount == "stud",
        plan.tolerance_in,
        plan.reach_turns,
    )


def known_valves(state: BuildState) -> list[ValveKnown]:
    """Every valve of the engine in the order's convention, those nobody measured inferred.

    A valve that is not believable is inferred from the others of its kind. Valves of a
    kind nobody measured are left out.
    """
    believed = {
        (m.cylinder, m.kind): m for kind in KINDS for m in state.believed(kind)
    }  # fmt: skip
    known = placed(
        state.engine,
        [(m.cylinder, m.kind, m.zero_lash_in, m.u_in) for m in believed.values()],
    )
    where = {c: (h.bank, h.place(c)) for h in state.engine.heads for c in h.cylinders}
    wanted = wanted_by_geometry(state)
    found = []
    for valve in state.valves:
        cylinder, kind = valve.valve.cylinder, valve.kind
        own = believed.get((cylinder, kind))
        source = own or inferred(cylinder, kind, *where[cylinder], known, state.spread.slopes)
        if source is None:
            continue
        ratio = state.ratios[kind]
        found.append(
            ValveKnown(
                valve_name(cylinder, kind),
                kind,
                source.zero_lash_in + state.offset_in,
                source.u_in,
                ratio.value,
                ratio.half_width,
                own is None,
                wanted.get(kind),
            )
        )
    return found


def wanted_by_geometry(state: BuildState) -> dict[ValveKind, float]:
    """The length a stud's rockers ask for by kind, in the order's convention."""
    if state.build.mount != "stud":
        return {}
    found: dict[ValveKind, float] = {}
    for valve in state.valves:
        if valve.kind in found or not valve.arm.tries or valve.arm.contradiction is not None:
            continue
        exact = valve.arm.correction.exact_in
        if exact is not None:
            found[valve.kind] = exact + valve.arm.order_offset_in
    return found


def decision_of(state: BuildState) -> Decision | None:
    """The build's rods decided; None while nothing is measured. Raises InputError."""
    valves = known_valves(state)
    if not valves:
        return None
    build, plan = state.build, state.plan
    aim = aim_of(build)
    if aim.mode == "length":
        picked = {g.kind: g.taken.length_in for g in state.groups if g.taken is not None}
    else:
        own = {"intake": build.picked_intake_in, "exhaust": build.picked_exhaust_in}
        picked = {cast(ValveKind, k): float(v) for k, v in own.items() if v is not None}
    return decide(
        aim,
        valves,
        float(build.stock_step_in),
        cast(Bias, build.bias),
        plan.strategy,
        box=shelf_of(state),
        stack=plan.stack,
        picked=picked,
    )


def shelf_of(state: BuildState) -> list[tuple[float, int]]:
    """(length, count) of the usable shelf rods in the order's convention, shortest first."""
    found: dict[float, int] = {}
    for rod in usable_box(state):
        length = box_length_in(state, rod)
        found[length] = found.get(length, 0) + rod.count
    return sorted(found.items())


def box_length_in(state: BuildState, rod: BoxRod) -> float:
    """A shelf rod's length in the order's convention, by this build's ends."""
    given = cast(Convention, rod.convention)
    return round(convert(float(rod.length_in), given, state.ordering, state.ends), 6)


def usable_box(state: BuildState) -> list[BoxRod]:
    """Shelf rods with this build's ends and diameter."""
    build = state.build
    wanted = float((build.rod or {}).get("diameter_in") or 0)
    return [
        r
        for r in state.box
        if r.count
        and (r.lifter_end, r.rocker_end) == (build.lifter_end, build.rocker_end)
        and (not wanted or abs(float(r.diameter_in) - wanted) < 1e-4)
    ]
