"""Verdicts and opened figures as the interface gives them."""

from pydantic import BaseModel

from vivid_arm.core.said.verdicts import State


class VerdictOut(BaseModel):
    """What, why, what next; ``{names}`` are filled from the two tables of inches."""

    state: State
    what: str
    why: str
    then: str
    lengths: dict[str, float]
    smalls: dict[str, float]


class ExplanationOut(BaseModel):
    """How a figure came about; ``{names}`` are filled from the three tables of inches."""

    title: str
    formula: str
    numbers: str
    source_kind: str
    source: str
    lengths: dict[str, float]
    smalls: dict[str, float]
    pitches: dict[str, float]
    notes: list[str]
