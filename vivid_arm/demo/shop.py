"""Tinker's Row Engine Shop: eleven invented builds at different stages of the job.

Shop, engines and figures are made up for the demo.
"""

from collections.abc import Mapping
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Literal, cast
from uuid import UUID, uuid5

from sqlalchemy.orm import Session

from vivid_arm.core.engine.layout import ValveKind, valve_name
from vivid_arm.core.entry.instruments import CheckingRod
from vivid_arm.core.entry.lengths import format_turns
from vivid_arm.core.rocker.seen import End
from vivid_arm.core.zero_lash.bracket import Feel
from vivid_arm.documents import order_data
from vivid_arm.records.database import shop_id
from vivid_arm.records.entries import CountBackIn, FindingIn, MarkIn, MeasureIn, TrialIn
from vivid_arm.records.rows.builds import count_builds, get_build
from vivid_arm.records.settings import BuildSettings
from vivid_arm.records.shapes import RodFigures
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.load import build_states
from vivid_arm.records.state.orders import Purpose, sorted_rods
from vivid_arm.records.state.setup import rod_of
from vivid_arm.records.state.sign_off import Point, sign_off_state
from vivid_arm.records.tables import Build, Instrument, Order, Valve
from vivid_arm.records.writes import marks, orders, readings, setup, sign_off

_SHOP: ContextVar[UUID] = ContextVar("shop")
_BY = "Tess"
_ROD: dict[str, Any] = RodFigures(hardened=True).model_dump()


@dataclass(frozen=True)
class _Try:
    """One trial as a builder would enter it."""

    setting: str
    feel: Feel
    gap: str = ""


def _id(*words: object) -> UUID:
    """An id of this shop's own, the same each time: nobody else can know it."""
    return uuid5(_SHOP.get(), "/".join(str(w) for w in words))


def load(session: Session) -> int:
    """Make the sample shop; return how many builds it has. Safe to repeat."""
    _SHOP.set(shop_id(session))
    short, long, caliper = _instruments(session)
    # The last one stands first on the board: what shows most.
    _pump_single(session)
    _shift_four(session, caliper)
    _hop_four(session, long)
    _harbour_v8(session, long)
    _towpath_v8(session, long)
    _fairground_twin(session, short)
    _orchard_flat_four(session, caliper)
    _courier_six(session, short)
    _dockside_v8(session, long)
    _sawmill_six(session, short)
    _ferry_v6(session, short)
    _quarry_v8(session, long, caliper)
    return count_builds(session)


def _instruments(session: Session) -> tuple[Instrument, Instrument, Instrument]:
    rods = [
        setup.new_instrument(
            session,
            {
                "id": _id("rod", name),
                "kind": "checking_rod",
                "name": name,
                "convention": "theoretical",
                "closed_in": closed,
                "pitch_in": 0.041667,
                "most_turns": 20.0,
                "accuracy_in": 0.001,
            },
        )
        for name, closed in (
            ("Checking rod A, 5.925 closed", 5.925),
            ("Checking rod B, 7.150 closed", 7.15),
        )
    ]
    caliper = setup.new_instrument(
        session,
        {
            "id": _id("caliper"),
            "kind": "caliper",
            "name": "Caliper, 12 inch",
            "convention": "measured",
            "low_in": 0.0,
            "high_in": 12.0,
            "accuracy_in": 0.001,
        },
    )
    return rods[0], rods[1], caliper


def _indicator(session: Session) -> Instrument:
    return setup.new_instrument(
        session,
        {
            "id": _id("indicator"),
            "kind": "indicator",
            "name": "Indicator, 0.0005",
            "convention": "theoretical",
            "accuracy_in": 0.0005,
            "resolution_in": 0.0005,
        },
    )


def _lobe(advertised: float, at_050: float, lift: float) -> dict[str, float]:
    return {
        "advertised_deg": advertised,
        "advertised_at_in": 0.006,
        "duration_050_deg": at_050,
        "lobe_lift_in": lift,
        "base_circle_in": 1.25,
    }


def _cam(
    intake: dict[str, float], exhaust: dict[str, float], icl: float, lsa: float
) -> dict[str, object]:
    return {"intake": intake, "exhaust": exhaust, "icl_deg": icl, "lsa_deg": lsa}


def _build(session: Session, name: str, **settings: object) -> Build:
    defaults = BuildSettings(name=name).model_dump()
    return setup.new_build(session, {"id": _id("build", name), **defaults, **settings})


def _measure(
    session: Session, build: Build, cylinder: int, kind: ValveKind, *trials: _Try
) -> Valve:
    kept = get_build(session, build.id)
    assert kept is not None
    valve = next(v for v in kept.valves if v.cylinder == cylinder and v.kind == kind)
    for n, t in enumerate(trials):
        key = _id(kept.name, cylinder, kind, n)
        entry = TrialIn(key=key, setting=t.setting, feel=t.feel, gap=t.gap, by=_BY)
        readings.add_trial(session, valve, entry)
    return valve


def _dockside_v8(session: Session, rod: Instrument) -> None:
    """Both kinds measured and settled: the order sheet is ready."""
    build = _build(
        session, "Dockside loader V8", layout="v", cylinders=8, instrument_id=rod.id,
        preload_low_in=0.050, preload_high_in=0.100, preload_target_in=0.070, travel_in=0.200,
        lifter_hole_in=0.100, rocker_hole_in=0.100,
        cam=_cam(_lobe(268, 214, 0.302), _lobe(274, 220, 0.310), 107, 112),
        prior={
            "convention": "theoretical",
            "intake": {"rod_in": 7.640, "preload_in": 0.060, "within_in": 0.005},
            "exhaust": {"rod_in": 7.640, "preload_in": 0.060, "within_in": 0.005},
            "changes": {
                "base_circle": {"intake_in": -0.044, "exhaust_in": -0.044, "within_in": 0.002},
                "head": {"intake_in": 0.006, "exhaust_in": 0.006, "within_in": 0.002},
            },
        },
    )  # fmt: skip
    valve = _measure(
        session, build, 1, "intake", _Try("9", "loose", "0.120"), _Try("10 1/2", "loose", "0.020")
    )
    counted = CountBackIn(key=_id("count", build.id), turns="10 1/2", by=_BY)
    readings.add_count_back(session, valve, counted)
    _measure(
        session, build, 1, "exhaust",
        _Try("11", "tight"), _Try("9", "loose", "0.098"), _Try("10 3/8", "loose", ".006"),
    )  # fmt: skip


def _courier_six(session: Session, rod: Instrument) -> None:
    """Intake settled; the exhaust has its first trial."""
    build = _build(
        session, "Courier van inline six", layout="inline", cylinders=6, instrument_id=rod.id,
        ratio_intake=1.5, ratio_exhaust=1.5, gaps=False, preload_low_in=0.030,
        preload_target_in=0.045, rocker_end="cup", stock_step_in=0.050, mount="shaft",
        cam=_cam(_lobe(252, 198, 0.270), _lobe(252, 198, 0.270), 110, 112),
    )  # fmt: skip
    _measure(
        session, build, 1, "intake",
        _Try("12", "loose"), _Try("13", "tight"), _Try("12 1/2", "loose"),
        _Try("12 3/4", "tight"), _Try("12 5/8", "zero"),
    )  # fmt: skip
    _measure(session, build, 1, "exhaust", _Try("12 1/2", "loose"), _Try("13 1/2", "tight"))


def _orchard_flat_four(session: Session, caliper: Instrument) -> None:
    """Measured with a caliper: the intake's gap is read, the next trial is due."""
    build = _build(
        session, "Orchard sprayer flat four", layout="flat", cylinders=4,
        instrument_id=caliper.id, ratio_intake=1.4, ratio_exhaust=1.4,
        preload_low_in=0.040, preload_high_in=0.060, preload_target_in=0.050, travel_in=0.120,
        lifter_hole_in=0.080, rocker_hole_in=0.080, order_convention="gauge",
        stock_step_in=0.005, mount="stands", lifter_foot="roller",
        cam=_cam(_lobe(264, 208, 0.340), _lobe(264, 208, 0.340), 106, 110),
    )  # fmt: skip
    valve = _measure(session, build, 2, "intake", _Try("8.315", "loose", "0.064"))
    setup.expect_length(session, valve, valve.version, "8.380", "in")


def _fairground_twin(session: Session, rod: Instrument) -> None:
    """Two trials contradict each other on the exhaust."""
    build = _build(
        session, "Fairground organ V-twin", layout="v", cylinders=2, instrument_id=rod.id,
        ratio_intake=1.6, ratio_exhaust=1.7, mount="shaft", lifter_foot="roller",
        cam=_cam(_lobe(286, 226, 0.347), _lobe(294, 234, 0.347), 105, 108),
    )  # fmt: skip
    _measure(
        session, build, 1, "intake", _Try("9 1/2", "loose", "0.037"), _Try("10", "loose", ".004")
    )
    _measure(
        session,
        build,
        1,
        "exhaust",
        _Try("10", "loose"),
        _Try("11", "loose"),
        _Try("10 1/2", "tight"),
    )


def _pump_single(session: Session) -> None:
    """Just opened: nothing is chosen yet."""
    _build(session, "Mill pump single", layout="single", cylinders=1, gaps=False)


# Zero lash of each valve, thou over 7.620 or over 6.480; made up for the demo.
_QUARRY = {
    "1I": 18, "1E": 43, "3I": 21, "3E": 41, "5I": 17, "5E": 46, "7I": 20, "7E": 44,
    "2I": 22, "2E": 45, "4I": 19, "4E": 42, "6I": 1, "6E": 44, "8I": 18, "8E": 40,
}  # fmt: skip
_SAWMILL = {
    "1I": 10, "1E": 12, "2I": 14, "2E": 15, "3I": 16, "3E": 20,
    "4I": 22, "4E": 22, "5I": 25, "5E": 28, "6I": 30, "6E": 31,
}  # fmt: skip

_FERRY = {
    "1I": 90, "1E": 62, "2I": 92, "2E": 60, "3I": 88, "3E": 64,
    "4I": 91, "4E": 61, "5I": 29, "5E": 63, "6I": 89, "6E": 65,
}  # fmt: skip


# The rod opened until it just carries, read with a caliper three times; made up for the demo.
_SHIFT = (
    ("1I", "Tess", "7.7015 7.7010 7.7015"),
    ("1I", "Olm", "7.7035 7.7040 7.7025"),
    ("1E", "Tess", "7.7300 7.7300 7.7300"),
    ("1E", "Olm", "7.7320 7.7320 7.7330"),
    ("4I", "Tess", "7.7025 7.7035 7.7030"),
    ("4I", "Olm", "7.7055 7.7045 7.7035"),
    ("4E", "Tess", "7.7285 7.7280 7.7285"),
    ("4E", "Olm", "7.7300 7.7300 7.7300"),
)


def _shift_four(session: Session, caliper: Instrument) -> None:
    """The four corners, read by two people: the shop learns how they differ."""
    build = _build(
        session, "Shift change inline four", layout="inline", cylinders=4,
        instrument_id=caliper.id, ratio_intake=1.5, ratio_exhaust=1.5,
        cam=_cam(_lobe(268, 212, 0.333), _lobe(268, 212, 0.333), 107, 110),
    )  # fmt: skip
    kept = get_build(session, build.id)
    assert kept is not None
    by_name = {valve_name(v.cylinder, cast(ValveKind, v.kind)): v for v in kept.valves}
    for name, who, lengths in _SHIFT:
        entry = MeasureIn(
            key=_id(build.id, name, who), method="extend", reading=lengths,
            instrument_id=caliper.id, by=who,
        )  # fmt: skip
        readings.add_measure(session, by_name[name], entry)


def _quarry_v8(session: Session, rod: Instrument, caliper: Instrument) -> None:
    """Every valve measured; the stem of 6 intake stands 0.030 tall, and two ways say so."""
    build = _build(
        session, "Quarry crusher V8", layout="v", cylinders=8, instrument_id=rod.id,
        ratio_intake=1.6, ratio_exhaust=1.6, preload_low_in=0.020, preload_high_in=0.060,
        fastener_pitch_in=0.049213,
        cam=_cam(_lobe(286, 226, 0.347), _lobe(286, 226, 0.347), 105, 109),
        plan={"strategy": "kinds", "block": "aluminium", "head": "aluminium", "parts": {}},
        rod=_ROD | {"spring_lbf": 330.0, "others": [
            {"diameter_in": 0.34375, "wall_in": 0.080, "form": "one_piece"},
            {"diameter_in": 0.375, "wall_in": 0.080, "form": "one_piece"},
        ], "trial_diameter_in": 0.3125, "clearance_in": 0.066},
    )  # fmt: skip
    for name, thou in _QUARRY.items():
        _gauge(session, build, rod, name, 7.620 + thou / 1000)
    kept = get_build(session, build.id)
    assert kept is not None
    valve = next(v for v in kept.valves if (v.cylinder, v.kind) == (6, "intake"))
    readings.add_measure(session, valve, MeasureIn(
        key=_id(build.id, "6I", "gap"), method="gap_short",
        reading="0.040 + 0.041", rod="7.570", instrument_id=caliper.id, by=_BY,
    ))  # fmt: skip
    readings.add_measure(session, valve, MeasureIn(
        key=_id(build.id, "6I", "indicator"), method="indicator",
        reading="0.0485", rod="7.670", instrument_id=_indicator(session).id, by=_BY,
    ))  # fmt: skip
    _trial_rods(session, build)


def _trial_rods(session: Session, build: Build) -> None:
    """A size up and down, ordered by hand, tried and put into the box; the set is drafted."""
    trial_id, set_id = _id(build.id, "trial"), _id(build.id, "set")
    if session.get(Order, trial_id) is not None:
        return
    trial = _drafted(session, build, trial_id, "trial")
    orders.ask(session, trial)
    orders.placed(session, trial, None)
    lengths = " ".join(f"{line.length_in + 0.0006:.4f}" for line in trial.lines)
    orders.receive(session, trial, lengths, "theoretical", "in")
    orders.move(session, trial, "trial")
    orders.give_back(session, build, trial)
    _drafted(session, build, set_id, "set")


def _drafted(session: Session, build: Build, order_id: UUID, purpose: Purpose) -> Order:
    state = _state(session, build)
    sheet = order_data.to_dict(order_data.order_sheet(state, datetime.now(UTC)))
    return orders.draft(session, state, order_id, purpose, "", sheet, _BY)


def _state(session: Session, build: Build) -> BuildState:
    session.flush()
    return build_states(session, [build.id])[0]


def _fitted_and_signed(session: Session, build: Build) -> None:
    """The set ordered by hand, measured, fitted, checked and signed with one point open."""
    set_id = _id(build.id, "set")
    if session.get(Order, set_id) is not None:
        return
    order = _drafted(session, build, set_id, "set")
    orders.ask(session, order)
    orders.placed(session, order, None)
    off = (0.0005, -0.0004, 0.0011, 0.0002)
    lengths = [line.length_in for line in order.lines for _ in range(line.quantity)]
    text = " ".join(f"{c + off[i % len(off)]:.4f}" for i, c in enumerate(lengths))
    orders.receive(session, order, text, "theoretical", "in")
    orders.move(session, order, "fitted")
    state = _state(session, build)
    finish = sign_off_state(session, state)
    preload = {r.valve: r.preload_in or 0.04 for r in sorted_rods(state, order)}
    for point in finish.points:
        _check(session, state, point, preload)
    finish = sign_off_state(session, _state(session, build))
    reason = "Seal of 1 intake is trimmed before the head goes back on"
    sign_off.sign(session, finish, _id(build.id, "signed"), _BY, reason)


def _check(
    session: Session, state: BuildState, point: Point, preload: Mapping[str | None, float]
) -> None:
    """One check as it would be found; the seal of 1 intake is too close."""
    name, valve = point.check.name, point.valve.name
    found: dict[str, Any] = {"text": "0.058" if (name, valve) == ("seal", "1I") else "0.115"}
    if point.check.yes_no:
        found = {"yes": True}
    elif name == "preload":
        gap = (float(state.build.travel_in) - preload[valve]) * point.valve.ratio
        found = {"way": "gap", "text": f"{gap:.3f}"}
    elif name == "piston":
        found["way"] = "clay"
    key = _id(state.build.id, "check", name, valve)
    entry = FindingIn(key=key, name=name, valve=valve, by=_BY, **found)
    sign_off.add_finding(session, state, point.valve, entry)


def _sawmill_six(session: Session, rod: Instrument) -> None:
    """Every valve measured; the head was not cut square."""
    build = _build(
        session, "Sawmill tractor inline six", layout="inline", cylinders=6,
        instrument_id=rod.id, ratio_intake=1.5, ratio_exhaust=1.5, mount="shaft",
        cam=_cam(_lobe(252, 198, 0.270), _lobe(252, 198, 0.270), 110, 112),
        plan={"strategy": "fewest", "block": "iron", "head": "iron", "parts": {}},
        torque={"fasteners": [
            {"name": "Rocker shaft bolts", "note": "oiled threads, from the middle outwards",
             "stages": [{"value": 12.0, "unit": "lbf_ft", "angle_deg": None},
                        {"value": 22.0, "unit": "lbf_ft", "angle_deg": None}]},
            {"name": "Head bolts", "note": "maker's sheet, three stages",
             "stages": [{"value": 40.0, "unit": "N_m", "angle_deg": None},
                        {"value": 70.0, "unit": "N_m", "angle_deg": None},
                        {"value": None, "unit": "N_m", "angle_deg": 90.0}]},
        ]},
    )  # fmt: skip
    for name, thou in _SAWMILL.items():
        _gauge(session, build, rod, name, 6.480 + thou / 1000)
    _fitted_and_signed(session, build)


def _ferry_v6(session: Session, rod: Instrument) -> None:
    """Every valve measured; the intake of 5 was felt with its lifter on the lobe."""
    build = _build(
        session, "Ferry generator V6", layout="v", cylinders=6, instrument_id=rod.id,
        ratio_intake=1.6, ratio_exhaust=1.6, mount="stud", fastener_pitch_in=0.041667,
        cam=_cam(_lobe(260, 204, 0.280), _lobe(266, 210, 0.285), 108, 111),
    )  # fmt: skip
    for name, thou in _FERRY.items():
        _gauge(session, build, rod, name, 6.300 + thou / 1000)


def _towpath_v8(session: Session, rod: Instrument) -> None:
    """Rockers on studs: the first rod was short, the second is nearly right."""
    build = _build(
        session, "Towpath tug V8", layout="v", cylinders=8, instrument_id=rod.id, mount="stud",
        stock_step_in=0.025, lifter_foot="roller", fastener_pitch_in=0.05,
        cam=_cam(_lobe(282, 224, 0.330), _lobe(286, 228, 0.330), 107, 110),
        geometry={
            "intake": {
                "tip": "roller", "stem_in": 0.3415, "lifter_deg": 0.0, "offset_in": 0.0,
                "net_lift_in": None, "school": "mid_lift", "shim_step_in": 0.005,
                "measured": {"tip_radius_in": {"value": 0.25, "u": 0.002}},
            },
            "exhaust": None,
        },
    )  # fmt: skip
    _mark(session, build, 1, rod="7.700", inboard="-0.027", outboard="0.024")
    _mark(session, build, 2, rod="7.800", inboard="-0.007", outboard="0.031")


def _harbour_v8(session: Session, rod: Instrument) -> None:
    """Rockers on a shaft that stands too low: shims are needed, and the schools differ."""
    build = _build(
        session, "Harbour dredger V8", layout="v", cylinders=8, instrument_id=rod.id, mount="shaft",
        ratio_intake=1.7, ratio_exhaust=1.7, lifter_kind="solid", lifter_foot="roller",
        cam=_cam(_lobe(292, 238, 0.345), _lobe(296, 242, 0.345), 106, 110),
        geometry={
            "intake": {
                "tip": "roller", "stem_in": 0.3125, "lifter_deg": 0.0, "offset_in": 0.0,
                "net_lift_in": None, "school": "mid_lift", "shim_step_in": 0.005,
                "measured": {
                    "arm_in": {"value": 1.62, "u": 0.005},
                    "bend_deg": {"value": 12.0, "u": 1.0},
                    "lean_deg": {"value": 2.5, "u": 0.5},
                },
            },
            "exhaust": None,
        },
    )  # fmt: skip
    _mark(
        session, build, 1, inboard="0.147", outboard="0.190", measured_from="edge",
        closed_end="inboard", shim="0", lift="0.607",
    )  # fmt: skip
    _mark(session, build, 2, angle="1.4", shim="0")


def _hop_four(session: Session, rod: Instrument) -> None:
    """Shoe tips: a wide mark is theirs, the fulcrum stands a little high."""
    build = _build(
        session, "Hop picker inline four", layout="inline", cylinders=4, instrument_id=rod.id,
        mount="stands", ratio_intake=1.45, ratio_exhaust=1.45,
        cam=_cam(_lobe(254, 200, 0.270), _lobe(254, 200, 0.270), 110, 112),
        geometry={
            "intake": {
                "tip": "shoe", "stem_in": 0.3415, "lifter_deg": 0.0, "offset_in": 0.0,
                "net_lift_in": None, "school": "mid_lift", "shim_step_in": 0.005,
                "measured": {"tip_radius_in": {"value": 0.38, "u": 0.01}},
            },
            "exhaust": None,
        },
    )  # fmt: skip
    _mark(session, build, 1, inboard="-0.062", outboard="0.044", shim="0", angle="-0.8")


def _mark(
    session: Session,
    build: Build,
    number: int,
    *,
    measured_from: Literal["middle", "edge"] = "middle",
    closed_end: End | None = None,
    **typed: str,
) -> None:
    """One try on the intake of cylinder 1."""
    kept = get_build(session, build.id)
    assert kept is not None
    marks.add_mark(session, kept.valves[0], MarkIn(
        key=_id("mark", kept.name, number), by=_BY,
        measured_from=measured_from, closed_end=closed_end, **typed,
    ))  # fmt: skip


def _gauge(session: Session, build: Build, rod: Instrument, name: str, zero_lash: float) -> None:
    """Two loose trials with their gaps, as a builder with feelers makes them."""
    kind: ValveKind = "intake" if name[-1] == "I" else "exhaust"
    ratio = float(build.ratio_intake)
    tool = rod_of(rod)
    assert isinstance(tool, CheckingRod)
    near = tool.adjuster.snap(zero_lash - 0.002, -1)
    tries = [
        _Try(format_turns(tool.turns_for(length)), "loose", f"{ratio * (zero_lash - length):.3f}")
        for length in (near - tool.pitch_in, near)
    ]
    _measure(session, build, int(name[:-1]), kind, *tries)
