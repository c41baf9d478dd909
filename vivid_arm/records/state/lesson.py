"""What one build tells the shop: kept beside its row of the board."""

from vivid_arm.core.arrays import Floats
from vivid_arm.core.engine.layout import KINDS, ValveKind
from vivid_arm.records.shapes import KindLesson, Lesson
from vivid_arm.records.state.heads import HeadsState
from vivid_arm.records.state.setup import Ratio, catalogue_ratio

MOST_ENGINES = 5000
"""The shop learns from so many of its engines, those that changed last."""
_OPEN = 0.6
_SURE = 0.03
"""A ratio from pairs of gaps counts where they alone tell it within this share."""


def lesson_of(state: HeadsState) -> Lesson:
    """What a build tells. Raises what makes a build one that cannot be computed."""
    readers = {r.taken_by for log in state.logs.values() for r in log.measuring}
    felt: list[Floats] = state.hands_told
    hand: Floats | None = sum(felt[1:], felt[0]) if felt else None
    return Lesson(
        **{kind: _of_kind(state, kind) for kind in KINDS},
        hand=[] if hand is None else [round(float(x - hand.max()), 3) for x in hand],
        person=readers.pop() if len(readers) == 1 else "",
    )


def _of_kind(state: HeadsState, kind: ValveKind) -> KindLesson:
    sound = [
        v.estimate_in
        for v in state.valves
        if v.kind == kind and v.measured is not None and v.name not in state.suspicions
    ]
    predicted = state.predictions.get(kind)
    known = _alone(state, kind)
    return KindLesson(
        lengths_in=[round(x, 5) for x in sound if x is not None],
        predicted_in=predicted.zero_lash_in if predicted else None,
        predicted_u_in=predicted.u_in if predicted else None,
        catalogue=catalogue_ratio(state.build, kind).value,
        r0=known.value if known else None,
        r0_u=known.value * known.half_width / 3**0.5 if known else None,
    )


def _alone(state: HeadsState, kind: ValveKind) -> Ratio | None:
    """R0 by what this build tells of it, and by nothing known beforehand."""
    known = state.ratios[kind]
    if known.measured or known.geometry:
        return known
    gaps = Ratio(catalogue_ratio(state.build, kind).value, _OPEN, geometry=False).learned(
        [log.told for log in state.logs.values() if log.kind == kind]
    )
    return gaps if gaps.half_width / 3**0.5 <= _SURE else None
