"""Intake and exhaust rods, length by length, as the interface gives them."""

from vivid_arm.api.decide.schemas import CandidateOut, GroupOut
from vivid_arm.api.said.schemas import ExplanationOut
from vivid_arm.api.said.views import _explained, verdict_out
from vivid_arm.core.rods.groups import GroupOrder
from vivid_arm.core.rods.preload import Candidate, Choice, exact_length_in
from vivid_arm.core.said.explanations import (
    Explanation,
    explain_exact,
    explain_fit,
    explain_order_length,
)
from vivid_arm.records.state.build import BuildState


def candidate_out(candidate: Candidate, choice: Choice | None, offset_in: float) -> CandidateOut:
    preloads = [f.preload_in for f in candidate.fits]
    return CandidateOut(
        length_in=candidate.length_in,
        axis_in=candidate.length_in - offset_in,
        preload_low_in=min(preloads),
        preload_high_in=max(preloads),
        off_bottom_in=min(f.off_bottom_in for f in candidate.fits),
        inside=candidate.inside,
        miss_in=candidate.miss_in,
        errs=candidate.errs,
        best=choice is not None and candidate == choice.best,
    )


def candidates_out(choice: Choice, offset_in: float) -> list[CandidateOut]:
    return [candidate_out(c, choice, offset_in) for c in choice.candidates]


def group_out(state: BuildState, group: GroupOrder) -> GroupOut:
    choice, taken = group.choice, group.taken
    return GroupOut(
        kind=group.kind,
        quantity=group.quantity,
        measured=[f"{v.cylinder}{'I' if v.kind == 'intake' else 'E'}" for v in group.measured],
        exact_in=choice.exact_in if choice else None,
        candidates=candidates_out(choice, state.offset_in) if choice else [],
        taken=candidate_out(taken, choice, state.offset_in) if taken else None,
        picked=group.picked,
        verdict=verdict_out(state.group_verdict(group)),
        explanations=_group_explanations(state, group),
    )


def _group_explanations(state: BuildState, group: GroupOrder) -> dict[str, ExplanationOut]:
    if group.choice is None:
        return {}
    zeros = [v.zero_lash_in for v in group.measured]
    middle = (min(zeros) + max(zeros)) / 2
    exact = exact_length_in(middle, state.lifter.target_in)
    found: dict[str, Explanation | None] = {"exact": explain_exact(middle, state.lifter.target_in)}
    if state.measuring != state.ordering:
        found["order"] = explain_order_length(exact, state.measuring, state.ordering, state.ends)
    if group.taken is not None:
        found["fit"] = explain_fit(
            group.taken.length_in - state.offset_in,
            zeros[0],
            group.taken.fits[0],
            state.lifter.travel_in,
        )
    return _explained(found)
