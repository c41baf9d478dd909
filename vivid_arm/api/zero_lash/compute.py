"""Stateless: the bracket, other methods, predictions, several combined."""

from fastapi import APIRouter

from vivid_arm.api.deps import checked
from vivid_arm.api.zero_lash.schemas import (
    BracketIn,
    BracketOut,
    ChangeTermOut,
    CombineIn,
    CombineOut,
    ComponentOut,
    MethodIn,
    MethodOut,
    PredictIn,
    PredictOut,
)
from vivid_arm.core.entry.instruments import CheckingRod
from vivid_arm.core.zero_lash.bracket import Trial, next_trial, read_bracket
from vivid_arm.core.zero_lash.combine import combine
from vivid_arm.core.zero_lash.methods import (
    Component,
    Measure,
    Source,
)
from vivid_arm.core.zero_lash.predict import Amount, predict
from vivid_arm.core.zero_lash.ways import MEASURING_WAYS, Figures

router = APIRouter(prefix="/api/compute", tags=["compute"])


@router.post("/bracket")
def bracket(body: BracketIn) -> BracketOut:
    """What trials say, and the next one. Example: one zero at 8.551 gives 8.551, settled."""
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
        within_in=found.within_in,
        within_probability=found.within_probability,
        settled=found.settled,
        contradictions=[c.sentence for c in found.contradictions],
        next_in=step.length_in if step else None,
        next_turns=rod.turns_for(step.length_in) if step else None,
        next_reason=step.reason if step else None,
    )


@router.post("/method")
def method(body: MethodIn) -> MethodOut:
    """One measurement by a method beside the bracket.

    Example: a rod of 7.500, gap 0.065 at ratio 1.6 gives zero lash 7.540625.
    """
    source = Source("", checked("accuracy", body.accuracy_in) or 0.0, body.resolution_in)
    checked("travel", body.travel_in)
    figures = Figures(
        body.ratio, tuple(body.readings_in), body.turns, body.push_in, body.gap_in, body.pitch_in,
        body.travel_in, body.rod_in, source, source,
    )  # fmt: skip
    found = MEASURING_WAYS[body.method].worked_out(figures)
    return MethodOut(
        zero_lash_in=found.zero_lash_in,
        preload_in=found.preload_in,
        plain_in=found.plain_in,
        u_in=found.u_in,
        components=[ComponentOut(words=c.words, u_in=abs(c.u_in)) for c in found.components],
    )


@router.post("/predict")
def predicted(body: PredictIn) -> PredictOut:
    """Zero lash to expect after changes.

    Example: 7.300, base circle 0.040 smaller, head milled 0.010: 7.310.
    """
    checked("rod_length", body.zero_lash_in)
    changes = {change: Amount(by, within) for change, (by, within) in body.changes.items()}
    found = predict(body.zero_lash_in, changes, body.mount, body.ratio, body.within_in)
    return PredictOut(
        zero_lash_in=found.zero_lash_in,
        u_in=found.u_in,
        terms=[
            ChangeTermOut(change=t.change, factor=t.factor, effect_in=t.effect_in)
            for t in found.terms
        ],
    )


@router.post("/combine")
def combined(body: CombineIn) -> CombineOut:
    """One zero-lash length from several. Example: 8.600 and 8.603, u 0.001 and 0.002: 8.6006."""
    measures = [
        Measure(
            "extend",
            number,
            checked("rod_length", m.zero_lash_in),
            None,
            tuple(Component(p.key, p.u_in, "") for p in m.parts),
        )
        for number, m in enumerate(body.measures, 1)
    ]
    found = combine(measures)
    assert found is not None
    return CombineOut(
        estimate_in=found.estimate_in,
        u_in=found.u_in,
        probability=found.probability,
        weights=list(found.weights),
        odd=found.odd.number if found.odd else None,
    )
