"""Intake and exhaust as groups: one length each, from the measured valves.

Source: one length a kind is common practice.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.rods.preload import Bias, Candidate, Choice, Lifter, choose_length, rod_fit


@dataclass(frozen=True)
class MeasuredValve:
    """A valve whose zero-lash length is known: inches, standard uncertainty."""

    cylinder: int
    kind: ValveKind
    zero_lash_in: float
    u_in: float


@dataclass(frozen=True)
class GroupOrder:
    """One group's rods: how many, the choice, and what the builder took.

    ``taken`` is the candidate to order: the builder's own length when one was
    picked, else the best one; None when nothing fits or nothing is measured.
    ``corners_left``: some of the heads' corners are not measured.
    """

    kind: ValveKind
    quantity: int
    measured: tuple[MeasuredValve, ...]
    choice: Choice | None
    taken: Candidate | None
    picked: bool
    corners_left: bool = False

    def at_limit(self, lifter: Lifter) -> bool:
        """Whether the length taken misses the window by no more than is known (k = 2)."""
        if self.taken is None or self.taken.inside:
            return False
        return self.taken.beyond_in(lifter) <= 2 * max(v.u_in for v in self.measured)

    @property
    def short_of_measured(self) -> int:
        return self.quantity - len(self.measured)


def group_order(
    kind: ValveKind,
    quantity: int,
    measured: Sequence[MeasuredValve],
    lifter: Lifter,
    step_in: float,
    bias: Bias,
    *,
    offset_in: float = 0.0,
    picked_in: float | None = None,
    corners_left: bool = False,
    shelf: Sequence[tuple[float, int]] = (),
    lengths_in: Sequence[float] = (),
) -> GroupOrder:
    """Choose one length for all valves of a kind (inches; see ``choose_length``).

    ``shelf`` holds (length, count) of the shop's own rods; those too few are not weighed.
    """
    own = tuple(v for v in measured if v.kind == kind)
    if not own:
        return GroupOrder(kind, quantity, (), None, None, False, corners_left)
    zeros = [v.zero_lash_in for v in own]
    enough = [length for length, count in shelf if count >= quantity]
    choice = choose_length(
        zeros, lifter, step_in, bias, offset_in=offset_in, shelf_in=enough,
        lengths_in=lengths_in, u_in=max(v.u_in for v in own),
    )  # fmt: skip
    if picked_in is None:
        return GroupOrder(kind, quantity, own, choice, choice.best, False, corners_left)
    fits = tuple(rod_fit(picked_in - offset_in, z, lifter) for z in zeros)
    worst = max(abs(f.preload_in - lifter.target_in) for f in fits)
    taken = Candidate(picked_in, fits, picked_in - choice.exact_in, worst)
    return GroupOrder(kind, quantity, own, choice, taken, True, corners_left)
