"""From measured valves to order lines: intake and exhaust groups, one length each."""

from collections.abc import Sequence
from dataclasses import dataclass

from .engine import KINDS, ValveKind
from .preload import Bias, Candidate, Choice, Lifter, choose_length, fit


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
    """

    kind: ValveKind
    quantity: int
    measured: tuple[MeasuredValve, ...]
    choice: Choice | None
    taken: Candidate | None
    picked: bool

    @property
    def short_of_measured(self) -> int:
        return self.quantity - len(self.measured)


@dataclass(frozen=True)
class OrderLine:
    """One length on the order sheet, inches in the order's convention."""

    length_in: float
    quantity: int
    kinds: tuple[ValveKind, ...]


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
    shelf: Sequence[tuple[float, int]] = (),
) -> GroupOrder:
    """Choose one length for all valves of a kind (inches; see ``choose_length``).

    ``shelf`` holds (length, count) of the shop's own rods; those too few are not weighed.
    """
    own = tuple(v for v in measured if v.kind == kind)
    if not own:
        return GroupOrder(kind, quantity, (), None, None, False)
    zeros = [v.zero_lash_in for v in own]
    enough = [length for length, count in shelf if count >= quantity]
    choice = choose_length(zeros, lifter, step_in, bias, offset_in=offset_in, shelf_in=enough)
    if picked_in is None:
        return GroupOrder(kind, quantity, own, choice, choice.best, False)
    fits = tuple(fit(picked_in - offset_in, z, lifter) for z in zeros)
    worst = max(abs(f.preload_in - lifter.target_in) for f in fits)
    taken = Candidate(picked_in, fits, picked_in - choice.exact_in, worst)
    return GroupOrder(kind, quantity, own, choice, taken, True)


def order_lines(groups: Sequence[GroupOrder]) -> tuple[OrderLine, ...]:
    """Lines of the order, shortest first; groups of the same length share a line."""
    by_length: dict[float, list[GroupOrder]] = {}
    for group in groups:
        if group.taken is not None:
            by_length.setdefault(round(group.taken.length_in, 6), []).append(group)
    return tuple(
        OrderLine(
            length,
            sum(g.quantity for g in members),
            tuple(k for k in KINDS if any(g.kind == k for g in members)),
        )
        for length, members in sorted(by_length.items())
    )
