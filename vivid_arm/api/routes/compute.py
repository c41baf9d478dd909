"""Stateless computation: the same figures the screens use, without a build."""

from fastapi import APIRouter

from vivid_arm.core.bracket import Trial, next_trial, read_bracket
from vivid_arm.core.conventions import RodEnd, RodEnds, convert
from vivid_arm.core.instruments import CheckingRod
from vivid_arm.core.lengths import FIELDS, format_length, format_turns, parse_length, parse_turns
from vivid_arm.core.preload import Lifter, choose_length

from ..schemas import (
    BracketIn,
    BracketOut,
    CandidatesIn,
    CandidatesOut,
    CheckingRodIn,
    ConvertIn,
    LengthOut,
    ParseIn,
    ParseOut,
    TurnsIn,
    TurnsOut,
    checked,
)
from ..views import candidates_out

router = APIRouter(prefix="/api/compute", tags=["compute"])


@router.post("/length")
def read_length(body: ParseIn) -> ParseOut:
    """Read a typed length. Example: "188.15 mm" as rod_length gives 7.40748 in."""
    inches = float(parse_length(body.text, FIELDS[body.field], body.unit).inches)
    return ParseOut(
        inches=inches, in_words=format_length(inches), mm_words=format_length(inches, "mm")
    )


@router.post("/turns")
def read_turns(body: TurnsIn) -> TurnsOut:
    """Read a typed count of turns. Example: "10 1/4" gives 10.25."""
    turns = parse_turns(body.text)
    return TurnsOut(turns=turns, words=format_turns(turns))


@router.post("/convention")
def convert_length(body: ConvertIn) -> LengthOut:
    """Carry a rod length from one convention to another.

    Example: 7.400 theoretical, two 5/16 balls with 0.100 holes: measured 7.383568.
    """
    checked("rod_length", body.length_in)
    ends = RodEnds(
        RodEnd(body.lifter.kind, body.lifter.ball_in, body.lifter.oil_hole_in),
        RodEnd(body.rocker.kind, body.rocker.ball_in, body.rocker.oil_hole_in),
        body.gauge_circle_in,
    )
    return LengthOut(
        length_in=convert(body.length_in, body.given, body.wanted, ends), convention=body.wanted
    )


@router.post("/checking-rod")
def set_checking_rod(body: CheckingRodIn) -> float:
    """Length of a checking rod in inches. Example: 6.800 + 10.25 x 0.050 = 7.3125."""
    checked("closed_length", body.closed_in)
    checked("thread_pitch", body.pitch_in)
    return CheckingRod(body.closed_in, body.pitch_in, body.most_turns).length_in(body.turns)


@router.post("/bracket")
def bracket(body: BracketIn) -> BracketOut:
    """What trials say, and the next one. Example: one zero at 7.3125 gives 7.3125, settled."""
    checked("closed_length", body.closed_in)
    checked("thread_pitch", body.pitch_in)
    checked("rod_length", body.expected_in)
    trials = [
        Trial(number, checked("rod_length", t.length_in) or 0.0, t.feel, t.gap_in)
        for number, t in enumerate(body.trials, 1)
    ]
    rod = CheckingRod(body.closed_in, body.pitch_in, body.most_turns)
    rod.length_in(0)
    found = read_bracket(trials, body.ratio)
    step = next_trial(
        trials, found, rod.adjuster, body.ratio, gaps=body.gaps, expected_in=body.expected_in
    )
    return BracketOut(
        longest_loose_in=found.longest_loose.length_in if found.longest_loose else None,
        shortest_tight_in=found.shortest_tight.length_in if found.shortest_tight else None,
        estimate_in=found.estimate_in,
        u_in=found.u_in,
        low_in=found.low_in,
        high_in=found.high_in,
        within_probability=found.within_probability,
        settled=found.settled,
        contradictions=[c.sentence for c in found.contradictions],
        next_in=step.length_in if step else None,
        next_turns=rod.turns_for(step.length_in) if step else None,
        next_reason=step.reason if step else None,
    )


@router.post("/candidates")
def candidates(body: CandidatesIn) -> CandidatesOut:
    """Lengths that can be bought. Example: 8.460, target 0.060, step 0.025 gives 8.525."""
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
