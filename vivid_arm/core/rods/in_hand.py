"""Do the rods in hand fit? Preload read on the engine, no rod length needed.

A builder with rods in the engine turns the fastener, reads an indicator on the rod or a gap
with the lifter bottomed, and wants to know: keep them, or which size up or down.

Source: common practice; chances by ``chance``, what nobody read as in ``heads.infer``.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt
from statistics import fmean, stdev

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.heads.spread import USUAL_SD_IN
from vivid_arm.core.rods.chance import Fitted, all_inside
from vivid_arm.core.rods.preload import Lifter

MOST_STEPS = 8


@dataclass(frozen=True)
class PreloadRead:
    """A valve's preload as read with the rod that is in it: inches, standard uncertainty.

    ``shared_u_in`` is the part of it that all readings share, such as the ratio near closed.
    """

    name: str
    preload_in: float
    u_in: float
    shared_u_in: float = 0.0


@dataclass(frozen=True)
class Size:
    """Rods longer by ``by_in`` than those in hand: preload of the valves read, and the chance
    that every valve of the kind is inside, where none of those not read is odd."""

    by_in: float
    low_in: float
    high_in: float
    all_inside: float


@dataclass(frozen=True)
class RodsInHand:
    """The rods of one kind as they stand, the other sizes that could be had, the best of them.

    ``wanted_in``: how much longer rods on the target would be. ``off_bottom_in``: the least
    travel left under a plunger read.
    """

    kind: ValveKind
    reads: tuple[PreloadRead, ...]
    quantity: int
    keep: Size
    sizes: tuple[Size, ...]
    best: Size
    wanted_in: float
    off_bottom_in: float

    @property
    def unread(self) -> int:
        return self.quantity - len(self.reads)


def rods_in_hand(
    kind: ValveKind, reads: Sequence[PreloadRead], quantity: int, lifter: Lifter, step_in: float
) -> RodsInHand | None:
    """What the rods of a kind do, and what a size up or down would; None without a reading.

    ``quantity`` valves of the kind; those not read are taken to stand as the others.
    """
    if not reads:
        return None
    steps = range(-MOST_STEPS, MOST_STEPS + 1)
    sizes = [_size(k * step_in, reads, quantity, lifter) for k in steps]
    keep = sizes[MOST_STEPS]
    middle = (keep.low_in + keep.high_in) / 2
    best = max(sizes, key=lambda s: (round(s.all_inside, 3), -abs(s.by_in)))
    return RodsInHand(
        kind, tuple(reads), quantity, keep, tuple(sizes), best, lifter.target_in - middle,
        lifter.travel_in - keep.high_in,
    )  # fmt: skip


def _size(by_in: float, reads: Sequence[PreloadRead], quantity: int, lifter: Lifter) -> Size:
    preloads = [r.preload_in + by_in for r in reads]
    fitted = [_fitted(r.preload_in + by_in, r.u_in, r.shared_u_in, lifter) for r in reads]
    if quantity > len(reads):
        n = len(reads)
        scatter = max(stdev(preloads) if n > 2 else 0.0, USUAL_SD_IN)
        shared = fmean(r.shared_u_in for r in reads)
        own = fmean(r.u_in**2 for r in reads) / n
        u = sqrt(scatter**2 * (1 + 1 / n) + own + shared**2)
        fitted += [_fitted(fmean(preloads), u, shared, lifter)] * (quantity - n)
    return Size(by_in, min(preloads), max(preloads), all_inside(fitted))


def _fitted(preload_in: float, u_in: float, shared_in: float, lifter: Lifter) -> Fitted:
    low, high, travel = lifter.low_in, lifter.high_in, lifter.travel_in
    return Fitted(preload_in, u_in, 0.0, low, high, travel, shared_in)
