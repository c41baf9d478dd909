"""Stateless geometry: the figures of the rocker's station, without a build."""

import numpy as np
from fastapi import APIRouter

from vivid_arm.api.deps import checked
from vivid_arm.api.rocker.schemas import (
    MarksIn,
    MarksOut,
    MechanismIn,
    MechanismOut,
    MidLiftIn,
    MidLiftOut,
    RatioIn,
    RatioOut,
    SeenMarkIn,
)
from vivid_arm.api.rocker.views import ratio_points, rivals_out
from vivid_arm.core.entry.lengths import format_small
from vivid_arm.core.errors import within
from vivid_arm.core.rocker.correction import conflict, correct, next_readings
from vivid_arm.core.rocker.doubt import lift_hunt
from vivid_arm.core.rocker.judged import judged
from vivid_arm.core.rocker.marks import fit_marks, outputs_at
from vivid_arm.core.rocker.mechanism import Mechanism, run
from vivid_arm.core.rocker.ratio import deflection
from vivid_arm.core.rocker.seen import ANGLE_U_DEG, SeenMark
from vivid_arm.core.rocker.sheet import UNKNOWNS, starting_sheet, with_measured
from vivid_arm.core.rocker.sweep import sweep
from vivid_arm.core.said.rocker import reading_words
from vivid_arm.core.said.rocker_verdict import rocker_verdict
from vivid_arm.core.said.verdicts import fill
from vivid_arm.core.words import say

router = APIRouter(prefix="/api/compute", tags=["compute"])

THERE_WITHIN_IN = 0.001


@router.post("/mechanism")
def mechanism(body: MechanismIn) -> MechanismOut:
    """Move one rocker through lobe lifts.

    Example: A 1.42, B 0.86, bend 13, r 0.27, fulcrum 1.4 away at -0.015, seat at
    (-2.2, -7.6), lobe lift 0.331: net lift 0.560953, sweep 0.028894 wide.
    """
    found = Mechanism(**body.model_dump(exclude={"lobe_in"}))
    lobe = np.array([0.0, *body.lobe_in])
    for lift in (lobe.min(), lobe.max()):
        within("lobe_in", say("Lobe lift"), float(lift), 0, 1, " in")
    motion = run(found, lobe)
    swept = sweep(found.linkage, motion.valve_in.max(), found.tip, found.stem_in)
    return MechanismOut(
        rod_in=found.rod_in,
        valve_in=motion.valve_in[1:].tolist(),
        contact_in=motion.contact_in[1:].tolist(),
        arm_deg=motion.arm_deg[1:].tolist(),
        rod_deg=motion.rod_deg[1:].tolist(),
        ratio=motion.ratio[1:].tolist(),
        sweep_inboard_in=float(swept.inboard_in),
        sweep_outboard_in=float(swept.outboard_in),
        sweep_width_in=float(swept.width_in),
        sweep_centre_in=float(swept.centre_in),
        least_width_in=float(swept.least_in),
        error_in=float(swept.error_in),
        mid_angle_deg=float(swept.angle_deg),
        roll_in=float(swept.roll_in),
        slide_in=float(swept.slide_in),
        side_load=float(swept.side_load),
    )


@router.post("/marks")
def marks(body: MarksIn) -> MarksOut:
    """Where the fulcrum stands after some tries, and the setting a school asks for.

    Example: a mark from 0.018 to 0.066 with the closed end inboard on a stud says
    that the fulcrum is too low by 0.04, and asks for a longer rod.
    """
    sheet = starting_sheet(
        body.rocker,
        body.catalogue_ratio,
        stem_in=checked("tip_diameter", body.stem_in) or 0.0,
        rod_in=checked("rod_length", body.rod_in) or 0.0,
        lobe_lift_in=body.lobe_lift_in,
        net_lift_in=body.net_lift_in,
        lifter_deg=body.lifter_deg,
        offset_in=checked("offset", body.offset_in) or 0.0,
        fulcrum_in=body.fulcrum_in,
    )
    sheet = with_measured(sheet, {name: (k.value, k.u) for name, k in body.measured.items()})
    sheet.mechanism(sheet.prior[0])
    found = fit_marks(sheet, [_seen(t) for t in body.tries], body.now_in)
    now = found.at_in
    done = correct(found, body.school, now, body.step_in)
    ratio, ratio_u, _ = outputs_at(found, now, "ratio")
    following = next_readings(found, now)
    first = following[0] if following else None
    words, smalls, lengths = reading_words(first, sheet.stud)
    hunt = lift_hunt([(t.setting_in, t.lift_in) for t in found.tries if t.lift_in is not None],
                     sheet.expected_lift_in, "rod" if sheet.stud else "shim")  # fmt: skip
    judgement = judged(found, done, first, body.step_in, hunt)
    said = rocker_verdict(found, done, conflict(found, done), judgement)
    told = done.told
    us = np.sqrt(np.diag(found.covariance))
    return MarksOut(
        error_in=found.best.error_in,
        error_u_in=found.best.error_u_in,
        rivals=rivals_out(found),
        ratio=float(ratio[0]),
        ratio_u=float(ratio_u[0]),
        exact_in=done.exact_in if told else None,
        exact_u_in=done.u_in if told else None,
        rounded_in=done.rounded_in if told else None,
        refused=done.refused,
        finding=judgement.finding,
        settled_in=judgement.settled.setting_in if judgement.settled else None,
        what=fill(said.what, said.lengths, said.smalls),
        next_reading=fill(words, lengths, smalls),
        unknowns=dict(zip(UNKNOWNS, found.unknowns.tolist(), strict=True)),
        us=dict(zip(UNKNOWNS, us.tolist(), strict=True)),
    )


def _seen(body: SeenMarkIn) -> SeenMark:
    figures = body.model_dump(exclude={"angle_by"})
    return SeenMark(**figures, angle_u_deg=ANGLE_U_DEG[body.angle_by])


@router.post("/ratio")
def ratio(body: RatioIn) -> RatioOut:
    """Measured ratio from pairs of lobe and valve lift, and the lift lost to real springs.

    Example: 0.429 and 0.742 give 1.730; 0.742 light and 0.722 real lose 0.020.
    """
    lost = None
    if body.light_in is not None and body.real_in is not None:
        lost = deflection(body.light_in, body.real_in)
    return RatioOut(points=ratio_points(body.pairs), lost_in=lost)


@router.post("/mid-lift")
def mid_lift(body: MidLiftIn) -> MidLiftOut:
    """Where the gauge at the retainer must stand at half lift. Example: 0.722 gives 0.361."""
    half = (checked("net_lift", body.net_lift_in) or 0.0) / 2
    if body.gauge_in is None:
        return MidLiftOut(mid_lift_in=half, off_in=None, there=False, sentence="")
    off = half - body.gauge_in
    there = abs(off) <= THERE_WITHIN_IN
    way = say("open") if off > 0 else say("close")
    sentence = (
        say("Half lift: look square across fulcrum and axle now.")
        if there
        else say(
            "{off} to go: turn the engine on to {way} the valve.",
            off=format_small(abs(off)),
            way=way,
        )
    )
    return MidLiftOut(mid_lift_in=half, off_in=off, there=there, sentence=sentence)
