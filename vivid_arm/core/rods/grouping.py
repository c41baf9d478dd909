"""The fewest different lengths that put every valve inside its window, exactly.

On the axis of rod length every valve is a closed span with a target in it, every
length that can be bought a point. A valve takes the point nearest its target that
lies in its span, so what it misses by depends only on the chosen neighbours to the
left and right of its target; a chain over pairs of neighbours is therefore exact.

Source: derived above; held against every subset and an integer program in the tests.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import inf
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from vivid_arm.core.arrays import Floats
from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.errors import InputError
from vivid_arm.core.rods.preload import Bias
from vivid_arm.core.words import Saying, figure, say

Strategy = Literal["kinds", "one", "fewest", "best"]
STRATEGIES: dict[Strategy, Saying] = {
    "fewest": Saying("Fewest lengths"),
    "kinds": Saying("Intake and exhaust"),
    "one": Saying("One length"),
    "best": Saying("Best possible"),
}
_TOLERANCE_IN = 1e-6


@dataclass(frozen=True)
class Need:
    """The lengths that serve a valve: closed span and target, inches in the order's convention.

    Raises InputError when the target lies outside the span.
    """

    name: str
    kind: ValveKind
    low_in: float
    high_in: float
    target_in: float

    def __post_init__(self) -> None:
        if not self.low_in - _TOLERANCE_IN <= self.target_in <= self.high_in + _TOLERANCE_IN:
            raise InputError(
                "preload_target",
                say(
                    "{name}: target {target} in is outside {low} to {high} in",
                    name=self.name,
                    target=figure(self.target_in, ".4f"),
                    low=figure(self.low_in, ".4f"),
                    high=figure(self.high_in, ".4f"),
                ),
                received=self.target_in,
                code="window",
            )

    def serves(self, length_in: float) -> bool:
        return self.low_in - _TOLERANCE_IN <= length_in <= self.high_in + _TOLERANCE_IN


@dataclass(frozen=True)
class Grouping:
    """A length for every valve, in the order of the needs; ``outside`` names those it fails."""

    strategy: Strategy
    lengths_in: tuple[float, ...]
    outside: tuple[str, ...]
    worst_miss_in: float

    @property
    def different_in(self) -> tuple[float, ...]:
        """The different lengths, shortest first."""
        return tuple(sorted(set(self.lengths_in)))


@dataclass(frozen=True)
class Fewest:
    """The exact answer: the chosen lengths, and what more lengths would gain.

    ``worst_by_count`` holds (number of lengths, smallest worst miss in inches) from
    the fewest on, as long as another length gains something. ``infeasible`` valves
    are served by no length at all.
    """

    chosen_in: tuple[float, ...]
    infeasible: tuple[str, ...]
    worst_by_count: tuple[tuple[int, float], ...]


def fewest_lengths(needs: Sequence[Need], lengths_in: Sequence[float], bias: Bias) -> Fewest:
    """The fewest lengths inside every window, then the smallest worst miss, then the least sum.

    Valves that no length serves are named and left out; ties go to ``bias``.
    Complexity O(valves x lengths² + counts x lengths²).
    """
    points = np.unique(np.asarray(lengths_in, dtype=np.float64))
    served = [n for n in needs if any(n.serves(p) for p in points)]
    infeasible = tuple(n.name for n in needs if n not in served)
    if not served:
        return Fewest((), infeasible, ())
    worst, total = _between_neighbours(served, points)
    by_count = _chain(worst)
    fewest, best = by_count[0]
    chosen = _least_sum(worst, total, fewest, best, points, bias)
    return Fewest(tuple(float(points[i]) for i in chosen), infeasible, tuple(by_count))


def _between_neighbours(needs: Sequence[Need], points: Floats) -> tuple[Floats, Floats]:
    """Worst and summed miss of the targets between chosen neighbours a < b.

    (m + 1) x (m + 1): row 0 stands for no neighbour below, the last column for none
    above; row a + 1 and column b for the points.
    """
    m = len(points)
    worst = np.zeros((m + 1, m + 1))
    total = np.zeros((m + 1, m + 1))
    for need in needs:
        serves = (points >= need.low_in - _TOLERANCE_IN) & (points <= need.high_in + _TOLERANCE_IN)
        miss = np.where(serves, np.abs(points - need.target_in), inf)
        cut = int(np.searchsorted(points, need.target_in, side="right"))
        below = np.concatenate(([inf], miss[:cut]))
        above = np.concatenate((miss[cut:], [inf]))
        pair = np.minimum(below[:, None], above[None, :])
        block = (slice(0, cut + 1), slice(cut, m + 1))
        np.maximum(worst[block], pair, out=worst[block])
        total[block] += pair
    return worst, total


def _chain(worst: Floats) -> list[tuple[int, float]]:
    """(count, smallest worst miss) from the fewest points on, while more of them gain."""
    m = worst.shape[0] - 1
    pairs = np.where(np.triu(np.ones((m, m), dtype=bool), 1), worst[1:, :m], inf)
    layer = worst[0, :m].copy()
    found: list[tuple[int, float]] = []
    best = inf
    for count in range(1, m + 1):
        reached = float(np.min(np.maximum(layer, worst[1:, m])))
        if reached < best - _TOLERANCE_IN:
            found.append((count, reached))
            best = reached
        elif found:
            break
        layer = np.min(np.maximum(layer[:, None], pairs), axis=0)
    return found


def _least_sum(
    worst: Floats, total: Floats, count: int, limit: float, points: Floats, bias: Bias
) -> list[int]:
    """Indices of ``count`` points within the worst miss ``limit`` with the least summed miss."""
    m = len(points)
    sign = -1.0 if bias == "longer" else 1.0
    tie = sign * 1e-7 * (points - points[0])
    cost = np.where(worst <= limit + _TOLERANCE_IN, total, inf)
    pairs = np.where(np.triu(np.ones((m, m), dtype=bool), 1), cost[1:, :m], inf)
    layer = cost[0, :m] + tie
    backs: list[NDArray[np.intp]] = []
    for _ in range(count - 1):
        steps = layer[:, None] + pairs
        back = np.argmin(steps, axis=0)
        backs.append(back)
        layer = steps[back, np.arange(m)] + tie
    at = int(np.argmin(layer + cost[1:, m]))
    chosen = [at]
    for back in reversed(backs):
        at = int(back[at])
        chosen.append(at)
    return chosen[::-1]


def share_out(
    needs: Sequence[Need], chosen_in: Sequence[float], strategy: Strategy, bias: Bias
) -> Grouping:
    """Give every valve the chosen length nearest its target, inside its window where one is.

    Raises InputError without a length.
    """
    if not chosen_in:
        raise InputError("lengths", say("No length can be bought"), code="empty")
    sign = -1 if bias == "longer" else 1

    def nearest(need: Need) -> float:
        return min(
            chosen_in,
            key=lambda c: (not need.serves(c), round(abs(c - need.target_in), 6), sign * c),
        )

    lengths = tuple(float(nearest(n)) for n in needs)
    pairs = list(zip(needs, lengths, strict=True))
    return Grouping(
        strategy,
        lengths,
        tuple(n.name for n, c in pairs if not n.serves(c)),
        max(abs(c - n.target_in) for n, c in pairs),
    )


def one_length(needs: Sequence[Need], lengths_in: Sequence[float], bias: Bias) -> float:
    """The single length that leaves the fewest valves outside, then misses least at worst."""
    sign = -1 if bias == "longer" else 1

    def judged(c: float) -> tuple[int, float, float]:
        return (
            sum(not n.serves(c) for n in needs),
            round(max(abs(c - n.target_in) for n in needs), 6),
            sign * c,
        )

    return min(lengths_in, key=judged)


def grouping(
    strategy: Strategy, needs: Sequence[Need], lengths_in: Sequence[float], bias: Bias
) -> Grouping:
    """One way of buying rods for all valves.

    ``kinds`` takes one length for the intakes and one for the exhausts, ``one`` the same
    for all, ``best`` the nearest length for each valve, ``fewest`` the exact fewest.
    Raises InputError without a length or a valve.
    """
    if not lengths_in or not needs:
        raise InputError("lengths", say("No valve, or no length that can be bought"), code="empty")
    if strategy == "fewest":
        chosen = fewest_lengths(needs, lengths_in, bias).chosen_in or tuple(lengths_in)
        return share_out(needs, chosen, strategy, bias)
    if strategy == "best":
        return share_out(needs, lengths_in, strategy, bias)
    if strategy == "one":
        return share_out(needs, [one_length(needs, lengths_in, bias)], strategy, bias)
    by_kind = {
        kind: one_length(own, lengths_in, bias)
        for kind in ("intake", "exhaust")
        if (own := [n for n in needs if n.kind == kind])
    }
    lengths = tuple(by_kind[n.kind] for n in needs)
    pairs = list(zip(needs, lengths, strict=True))
    outside = tuple(n.name for n, c in pairs if not n.serves(c))
    return Grouping("kinds", lengths, outside, max(abs(c - n.target_in) for n, c in pairs))


@dataclass(frozen=True)
class Remedy:
    """What would bring a valve that no length serves into its window, inches.

    ``by_in`` is how far the nearest length stands outside: above zero too long.
    ``shim_in`` under stand or shaft (None where that cannot help), ``stem_in`` the
    change of the stem's standing height.
    """

    name: str
    nearest_in: float
    by_in: float
    custom_in: float
    shim_in: float | None
    stem_in: float


def remedy(need: Need, lengths_in: Sequence[float], ratio: float, *, fixed: bool) -> Remedy:
    """The nearest length's fault and what mends it, with R0 = ``ratio``.

    A shim t lengthens zero lash by t(1 + 1/R0), a stem standing s taller shortens it
    by s/R0; a stud's fulcrum takes no shim (``fixed`` False).
    """
    nearest = min(lengths_in, key=lambda c: max(c - need.high_in, need.low_in - c))
    by = nearest - need.high_in if nearest > need.high_in else nearest - need.low_in
    shim = by / (1 + 1 / ratio)
    return Remedy(
        need.name,
        float(nearest),
        by,
        need.target_in,
        shim if fixed and shim > 0 else None,
        -by * ratio,
    )


def matched(received_in: Sequence[float], needs: Sequence[Need]) -> list[int | None]:
    """Sort rods as they measured onto valves to the best effect, exactly.

    Gives for each rod the index of its valve, or None for one left over. First as many
    valves as possible inside their windows, then the least sum of squared misses
    (the linear assignment problem, solved by SciPy).
    """
    from scipy.optimize import linear_sum_assignment

    if not received_in or not needs:
        return [None] * len(received_in)
    rods = np.asarray(received_in)[:, None]
    low, high, target = (
        np.array([getattr(n, f) for n in needs]) for f in ("low_in", "high_in", "target_in")
    )
    miss = np.abs(rods - target)
    outside = (rods < low - _TOLERANCE_IN) | (rods > high + _TOLERANCE_IN)
    # One valve outside must weigh more than all misses together.
    heavy = (len(needs) + 1) * (float(miss.max()) ** 2 + 1.0)
    rows, columns = linear_sum_assignment(miss**2 + heavy * outside)
    found: list[int | None] = [None] * len(received_in)
    for row, column in zip(rows, columns, strict=True):
        found[int(row)] = int(column)
    return found
