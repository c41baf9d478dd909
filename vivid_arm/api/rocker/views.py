"""A valve's rocker geometry as the interface gives it."""

from collections.abc import Sequence
from dataclasses import replace
from math import isfinite
from typing import Any, TypeVar, cast

import numpy as np

from vivid_arm.api.board.views import valve_summary
from vivid_arm.api.rocker.schemas import (
    CorrectionOut,
    DimensionOut,
    HuntPointOut,
    KeptRocker,
    LiftHuntOut,
    MarkOut,
    MotionOut,
    NextReadingOut,
    PredictedOut,
    RatioPointOut,
    RivalOut,
    RockerOut,
    SchoolsConflictOut,
    SettingsOut,
)
from vivid_arm.api.said.schemas import ExplanationOut, VerdictOut
from vivid_arm.api.setup.views import build_summary
from vivid_arm.core.arrays import Floats
from vivid_arm.core.engine.cam import Profile, profile_of
from vivid_arm.core.entry.conventions import Convention
from vivid_arm.core.rocker.correction import Correction, NextReading, settings_row, stocked
from vivid_arm.core.rocker.marks import MarksFit, outputs_at, untold
from vivid_arm.core.rocker.mechanism import Motion, move
from vivid_arm.core.rocker.ratio import deflection, measured_ratio
from vivid_arm.core.rocker.seen import SeenMark
from vivid_arm.core.rocker.sheet import DIMENSIONS, UNKNOWNS
from vivid_arm.core.rocker.sweep import durations, least_width
from vivid_arm.core.said.cautions import MARKING
from vivid_arm.core.said.explanations import Explanation
from vivid_arm.core.said.rocker import (
    direction_words,
    explain_correction,
    explain_error,
    explain_r0,
    reading_words,
    school_words,
)
from vivid_arm.core.said.verdicts import Verdict
from vivid_arm.core.words import say, say_all
from vivid_arm.records.shapes import GeometryFigures, SeenFigures
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.rocker import MOST_TRIES, Mark, RockerState, entered_of, fitted
from vivid_arm.records.state.setup import cam_of
from vivid_arm.records.state.valve import ValveState

VALVE_LIFTS_IN = (0.050, 0.100, 0.200)
LIFT_POINTS = 61
Said = TypeVar("Said", Verdict, Explanation)


def rocker_out(state: BuildState, valve: ValveState) -> RockerOut:
    """Everything the station shows, settings in the order's convention."""
    arm = valve.rocker
    found = arm.fit
    values = np.nan_to_num(outputs_at(found, arm.now_in, "angle", "lift")[0])
    following = arm.next_readings
    ratio, ratio_u = arm.ratio
    own = entered_of(state.build, valve.kind)
    return RockerOut(
        build_id=state.build.id,
        valve=valve_summary(valve, state),
        stud=arm.stud,
        tip=arm.sheet.tip,
        convention=cast(Convention, state.build.order_convention),
        figures=own or GeometryFigures(),
        entered=own is not None,
        sheet=_sheet(arm),
        marks=_marks(arm),
        now_in=arm.now_in + arm.order_offset_in,
        error_in=found.best.error_in,
        error_u_in=found.best.error_u_in,
        angle_deg=float(values[0]),
        decided=found.decided,
        rivals=rivals_out(found),
        ratio=ratio,
        ratio_u=ratio_u,
        ratio_used=valve.ratio_known.geometry,
        catalogue=arm.sheet.ratio.value,
        lift_in=float(values[1]),
        corrections=[_correction(arm, c) for c in arm.corrections.values()],
        conflict=SchoolsConflictOut.model_validate(arm.conflict, from_attributes=True)
        if arm.conflict
        else None,
        next_readings=[_next(arm, r) for r in following[:4]],
        untold=_untold(found),
        verdict=VerdictOut.model_validate(_shown(arm, arm.verdict), from_attributes=True),
        finding="conflict" if arm.contradiction else arm.judged.finding,
        settled_in=_settled(arm),
        across=_remark(arm.across),
        over_lift=_remark(arm.over_lift),
        direction=direction_words(found, arm.now_in) if found.tries else "",
        hunt=_hunt(arm),
        explanations=_explanations(arm, float(values[1])),
        cautions=say_all(MARKING),
    )


def _remark(said: Verdict | None) -> VerdictOut | None:
    return VerdictOut.model_validate(said, from_attributes=True) if said else None


def kept_rocker(state: BuildState, valve: ValveState) -> KeptRocker:
    """The answer to a try on a valve."""
    return KeptRocker(**dict(rocker_out(state, valve)), build=build_summary(state))


def _settled(arm: RockerState) -> float | None:
    """The setting the tries settle, in the order's convention."""
    settled = None if arm.contradiction else arm.judged.settled
    return None if settled is None else settled.setting_in + arm.order_offset_in


def _hunt(arm: RockerState) -> LiftHuntOut | None:
    hunt = arm.hunt
    if hunt is None:
        return None
    shift = arm.rod_offset_in if hunt.by == "rod" else 0.0
    return LiftHuntOut(
        by=hunt.by,
        points=[HuntPointOut(setting_in=x + shift, lift_in=y) for x, y in hunt.points],
        best_in=hunt.best_in + shift,
        most_in=hunt.most_in,
        peak_in=None if hunt.peak_in is None else hunt.peak_in + shift,
        rising=hunt.rising,
        expected_in=hunt.expected_in,
        lost_in=hunt.lost_in,
    )


def _shown(arm: RockerState, said: Said) -> Said:
    """The same with rod lengths in the order's convention."""
    return replace(said, lengths=arm.shown(said.lengths))


def rivals_out(found: MarksFit) -> list[RivalOut]:
    return [RivalOut.model_validate(r, from_attributes=True) for r in found.rivals]


def _sheet(arm: RockerState) -> list[DimensionOut]:
    worth = {r.dimension: r.u_after_in for r in arm.next_readings if r.dimension}
    return [
        DimensionOut(
            name=name,
            words=say(field.words),
            how=say(field.how),
            value=arm.sheet.known(name).value,
            u=arm.sheet.known(name).u,
            measured=arm.sheet.known(name).measured,
            measured_u=field.measured_u,
            setting_u_in=worth.get(name),
        )
        for name, field in DIMENSIONS.items()
    ]


def _untold(found: MarksFit) -> list[str]:
    """Dimensions the marks say nothing about, in words."""
    names = [n for n in untold(found) if n in DIMENSIONS]
    measured = found.sheet.measured
    return [say(DIMENSIONS[n].words) for n in names if n not in measured]


_TOLD_OF, _FITTED = 24, 300
"""So many tries back it is told what was expected of each: every one of them is a fit.

Fewer where there are many tries, so that all these fits together look at no more than so many.
"""


def _marks(arm: RockerState) -> list[MarkOut]:
    """Every try; of the latest also what those before expected, and what it made known."""
    found: list[MarkOut] = []
    told: list[SeenMark] = []
    weighed = min(len(arm.marks), MOST_TRIES)
    early = len(arm.marks) - min(_TOLD_OF, _FITTED // max(weighed, 1))
    for number, mark in enumerate(arm.marks):
        before = after = None
        if mark.struck_by is None and mark.attempt is not None:
            if number >= early:
                before, _ = fitted(arm.sheet, told[-MOST_TRIES:], mark.setting_in)
            told.append(mark.attempt)
            if number >= early:
                after, _ = fitted(arm.sheet, told[-MOST_TRIES:], mark.setting_in)
        found.append(_mark(arm, mark, before, after))
    return found


def _mark(arm: RockerState, mark: Mark, before: MarksFit | None, after: MarksFit | None) -> MarkOut:
    row, seen = mark.row, mark.row.seen or SeenFigures()
    attempt = mark.attempt
    light, real = seen.lift_in, seen.real_lift_in
    return MarkOut(
        id=row.id,
        number=mark.number,
        setting_in=mark.setting_in + arm.order_offset_in,
        raw=row.raw,
        raw_rod=row.raw_rod,
        inboard_in=attempt.inboard_in if attempt else None,
        outboard_in=attempt.outboard_in if attempt else None,
        width_in=attempt.width_in if attempt else None,
        off=seen.off,
        at_rest=seen.at_rest,
        place=seen.place,
        wide=seen.wide,
        across_in=seen.across_in,
        sink_in=seen.sink_in,
        screw=seen.screw,
        closed_end=seen.closed_end,
        angle_deg=seen.angle_deg,
        angle_by=seen.angle_by,
        lift_in=light,
        lost_in=deflection(light, real) if light is not None and real is not None else None,
        ratios=ratio_points(seen.pairs),
        photo=seen.photo,
        predicted=_predicted(before, mark.setting_in) if before and before.tries else None,
        error_in=after.best.error_in if after else None,
        error_u_in=after.best.error_u_in if after else None,
        struck=mark.struck_by is not None,
        struck_reason=mark.struck_by.reason if mark.struck_by else None,
        restorable=mark.struck_by is not None and mark.struck_by.kind == "void",
        by=row.taken_by,
        at=row.taken_at,
    )


def ratio_points(pairs: Sequence[tuple[float, float]]) -> list[RatioPointOut]:
    points = measured_ratio(pairs) if pairs else ()
    return [RatioPointOut.model_validate(p, from_attributes=True) for p in points]


def _predicted(before: MarksFit, setting_in: float) -> PredictedOut | None:
    values, us, _ = outputs_at(before, setting_in, "inboard", "outboard", "angle", "lift")
    if not np.isfinite(values).all():
        return None
    inboard, outboard, angle, lift = map(float, values)
    u_in, u_out, u_angle, u_lift = map(float, us)
    return PredictedOut(
        inboard_in=inboard, outboard_in=outboard, inboard_u_in=u_in, outboard_u_in=u_out,
        angle_deg=angle, angle_u_deg=u_angle, lift_in=lift, lift_u_in=u_lift,
    )  # fmt: skip


def _correction(arm: RockerState, done: Correction) -> CorrectionOut:
    shift = arm.order_offset_in
    at, now = (done.at if done.told else None), done.now
    ends = done.end_u_in if at else (None, None)

    def of(name: str) -> float | None:
        value = float(getattr(at, name)[0]) if at else None
        return value if value is not None and isfinite(value) else None

    def moved(name: str) -> float | None:
        value = of(name)
        return None if value is None else value - float(getattr(now, name)[0])

    def shown(setting_in: float | None) -> float | None:
        return setting_in + shift if done.told and setting_in is not None else None

    return CorrectionOut(
        school=done.school,
        words=school_words(done.school, arm.sheet.tip),
        exact_in=shown(done.exact_in),
        u_in=done.u_in if done.told else None,
        rounded_in=shown(done.rounded_in),
        change_in=done.change_in if done.told else None,
        refused=done.refused,
        told=done.told,
        inboard_in=of("inboard_in"),
        outboard_in=of("outboard_in"),
        inboard_u_in=ends[0],
        outboard_u_in=ends[1],
        width_in=of("width_in"),
        error_in=of("error_in"),
        angle_deg=of("angle_deg"),
        angle_u_deg=done.angle_u_deg if at else None,
        lift_in=of("lift_in"),
        lift_change_in=moved("lift_in"),
        rod_change_in=moved("rod_in"),
    )


def _next(arm: RockerState, reading: NextReading) -> NextReadingOut:
    words, smalls, lengths = reading_words(reading, arm.stud)
    return NextReadingOut(
        kind=reading.kind,
        words=words,
        lengths=arm.shown(lengths),
        smalls=smalls,
        setting_u_in=reading.u_after_in,
        decides=reading.decides,
        chance=reading.chance,
    )


def _explanations(arm: RockerState, lift_in: float) -> dict[str, ExplanationOut]:
    ratio, u = arm.ratio
    found = {
        "error": explain_error(arm.fit, lift_in),
        "ratio": explain_r0(ratio, u, arm.sheet.ratio.value),
        **{f"to_{school}": explain_correction(arm.fit, c) for school, c in arm.corrections.items()},
    }
    return {
        name: ExplanationOut.model_validate(_shown(arm, said), from_attributes=True)
        for name, said in found.items()
        if said is not None
    }


def motion_out(state: BuildState, valve: ValveState) -> MotionOut:
    """The dense batch the screens move inside: 81 settings by 61 lifts."""
    arm = valve.rocker
    card = cam_of(state.build)
    profile = profile_of(card.lobe(valve.kind)) if card else None
    return batch(arm.fit, arm.grid_in, arm.now_in, arm.step_in, arm.order_offset_in, profile)


def batch(
    found: MarksFit,
    grid_in: Floats,
    now_in: float,
    step_in: float,
    shift_in: float,
    profile: Profile | None,
) -> MotionOut:
    """Settings by lifts of the best understanding; settings shown with ``shift_in`` added."""
    sheet = found.sheet
    row = settings_row(found, grid_in)
    mechanism = sheet.mechanism(found.unknowns)
    link = mechanism.at_rods(grid_in) if sheet.stud else mechanism.at_shims(grid_in)
    lobe = np.linspace(0.0, _unknown(found, "lobe_lift_in"), LIFT_POINTS)
    motion = move(link, lobe)
    lifts = np.array(VALVE_LIFTS_IN)
    open_deg = durations(motion, profile, lifts) if profile else np.empty((len(grid_in), 0))
    least = (
        float(least_width(np.asarray(mechanism.arm_in), motion.valve_in[len(grid_in) // 2, -1]))
        if sheet.tip == "roller"
        else float(np.nanmin(row.slide_in))
    )
    return MotionOut(
        tip=sheet.tip,
        stud=sheet.stud,
        arm_in=mechanism.arm_in,
        cup_in=mechanism.cup_in,
        bend_deg=mechanism.bend_deg,
        tip_radius_in=mechanism.tip_radius_in,
        stem_in=mechanism.stem_in,
        seat_x_in=mechanism.seat_x_in,
        seat_y_in=mechanism.seat_y_in,
        lifter_deg=mechanism.lifter_deg,
        offset_in=mechanism.offset_in,
        axis_deg=mechanism.axis_deg,
        film_in=_unknown(found, "film_in"),
        least_in=least,
        valve_lifts_in=list(VALVE_LIFTS_IN) if profile else [],
        stocked_in=[
            x + shift_in
            for x in stocked(now_in, step_in, shift_in, 41)
            if grid_in[0] <= x <= grid_in[-1]
        ],
        lobe_in=_flat(lobe),
        settings=SettingsOut(
            setting_in=_flat(grid_in + shift_in),
            fulcrum_in=_flat(np.broadcast_to(link.fulcrum, grid_in.shape)),
            height_in=_flat(np.broadcast_to(link.height, grid_in.shape)),
            **{
                name: _flat(getattr(row, name))
                for name in SettingsOut.model_fields
                if name not in ("setting_in", "fulcrum_in", "height_in", "refused", "durations_deg")
            },
            durations_deg=[
                [float(x) if isfinite(x) else None for x in lift] for lift in open_deg.T
            ],
            refused=list(row.refused),
        ),
        **_motion(motion),
    )


def _unknown(found: MarksFit, name: str) -> float:
    return float(found.unknowns[UNKNOWNS.index(name)])


def _flat(values: Floats) -> list[float]:
    """Plain figures to a millionth; what cannot be is held at the last place that can."""
    return cast(list[float], np.nan_to_num(np.round(values, 6)).tolist())


def _motion(motion: Motion) -> dict[str, Any]:
    names = ("valve_in", "contact_in", "arm_deg", "ratio")
    return {name: np.nan_to_num(np.round(getattr(motion, name), 5)).tolist() for name in names}
