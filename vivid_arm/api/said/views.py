"""Verdicts and opened figures, from the core."""

from vivid_arm.api.said.schemas import ExplanationOut, VerdictOut
from vivid_arm.core.said.explanations import Explanation
from vivid_arm.core.said.verdicts import Verdict


def verdict_out(verdict: Verdict) -> VerdictOut:
    return VerdictOut.model_validate(verdict, from_attributes=True)


def _explained(found: dict[str, Explanation | None]) -> dict[str, ExplanationOut]:
    return {
        name: ExplanationOut.model_validate(explanation, from_attributes=True)
        for name, explanation in found.items()
        if explanation is not None
    }
