"""What a build asks of its rods: the plan, the mode, the aim."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.rods.chance import ODD_ONE_IN
from vivid_arm.core.rods.decide import LENGTH_TOLERANCE_IN, REACH_TURNS, Aim, Mode
from vivid_arm.core.rods.grouping import Strategy
from vivid_arm.core.rods.growth import Part, PartName, Stack, stack_of, starting_stack
from vivid_arm.records.shapes import RodPlanFigures
from vivid_arm.records.state.setup import lifter_of
from vivid_arm.records.tables import Build

_USUAL_ROD_IN = 7.4


@dataclass(frozen=True)
class RodPlan:
    """How rods are decided; ``stack`` is None while the engine's materials are not said."""

    strategy: Strategy
    tolerance_in: float
    reach_turns: float
    stack: Stack | None
    own_parts: frozenset[PartName]
    lengths_in: tuple[float, ...] = ()
    grown_in: Mapping[ValveKind, float] = field(default_factory=dict)
    odd_one_in: int = ODD_ONE_IN


def plan_of(build: Build) -> RodPlan:
    """The build's plan with usual figures for what is not entered. Raises InputError."""
    kept = build.plan or RodPlanFigures()
    stack: dict[PartName, Part] | None = None
    own: Stack = {}
    if kept.block and kept.head:
        stack = starting_stack(kept.block, kept.head, _USUAL_ROD_IN)
        own = stack_of({name: part.model_dump() for name, part in kept.parts.items()})
        stack |= own
    return RodPlan(
        kept.strategy,
        LENGTH_TOLERANCE_IN if kept.tolerance_in is None else kept.tolerance_in,
        kept.reach_turns or REACH_TURNS,
        stack,
        frozenset(own),
        tuple(sorted(set(kept.lengths_in))),
        kept.grown_in,
        kept.odd_one_in or ODD_ONE_IN,
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
        plan.odd_one_in,
    )
