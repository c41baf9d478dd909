"""Stateless: lengths that can be bought, a whole engine decided, the strength of a rod."""

from fastapi import APIRouter

from vivid_arm.api.decide.groups import candidates_out
from vivid_arm.api.decide.schemas import (
    CandidatesIn,
    CandidatesOut,
    CountOut,
    DecidedOut,
    DecidedRow,
    DecideIn,
    StrengthIn,
    StrengthOut,
)
from vivid_arm.api.decide.views import strength_out
from vivid_arm.api.deps import checked
from vivid_arm.core.rods.decide import Aim, ValveKnown, decide
from vivid_arm.core.rods.growth import starting_stack
from vivid_arm.core.rods.preload import Lifter, choose_length
from vivid_arm.core.rods.strength import Duty, Tube, strength
from vivid_arm.core.sign_off.checks import kind_of

router = APIRouter(prefix="/api/compute", tags=["compute"])


@router.post("/candidates")
def candidates(body: CandidatesIn) -> CandidatesOut:
    """Lengths that can be bought. Example: 8.551, target 0.045, step 0.025 gives 8.600."""
    for value in body.zero_lash_in:
        checked("rod_length", value)
    checked("travel", body.travel_in)
    checked("stock_step", body.stock_step_in)
    lifter = Lifter(
        body.preload_low_in, body.preload_high_in, body.preload_target_in, body.travel_in
    )
    choice = choose_length(body.zero_lash_in, lifter, body.stock_step_in, body.bias)
    return CandidatesOut(
        exact_in=choice.exact_in,
        best_in=choice.best.length_in if choice.best else None,
        candidates=candidates_out(choice, 0.0),
    )


@router.post("/decide")
def compute_decision(body: DecideIn) -> DecidedOut:
    """Rods for a whole engine with fixed rockers: the same figures as the decide page."""
    lifter = Lifter(
        body.preload_low_in, body.preload_high_in, body.preload_target_in, body.travel_in
    )
    valves = [
        ValveKnown(v.name, kind_of(v.name), v.zero_lash_in, v.u_in, v.ratio, inferred=v.inferred)
        for v in body.valves
    ]
    stack = starting_stack(body.block, body.head) if body.block and body.head else None
    found = decide(
        Aim("length", lifter, {}, 0.05, False, body.tolerance_in),
        valves,
        body.stock_step_in,
        body.bias,
        body.strategy,
        stack=stack,
    )
    return DecidedOut(
        lengths_in=list(found.chosen.different_in),
        worst_miss_in=found.chosen.worst_miss_in,
        outside=list(found.chosen.outside),
        rows=[
            DecidedRow(
                name=r.valve.name,
                length_in=r.length_in,
                preload_in=r.preload_in,
                inside=r.inside,
                hot_in=r.hot_in,
                chance_cold=r.chances.cold,
                chance_hot=r.chances.hot,
            )
            for r in found.rows
        ],
        gains=[CountOut(lengths=n, worst_miss_in=m) for n, m in found.fewest.worst_by_count],
    )


@router.post("/rod")
def compute_rod(body: StrengthIn) -> StrengthOut:
    """Static load, Euler load, shortening, lift lost and mass of a rod (lengths: centre)."""
    tube = Tube(body.diameter_in, body.wall_in, body.length_in, body.form)
    return strength_out(strength(tube, Duty(body.spring_lbf, body.ratio)))
