"""A count-back that fails: which trials the slip may reach, worked out again.

The turns counted back to closed say where the rod stands now. Somewhere before it the running
count slipped, and every trial since then was set as much longer or shorter.

Source: common practice; trials weighed as in ``bracket``.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from scipy.special import logsumexp

from vivid_arm.core.zero_lash.bracket import (
    USUAL_FEELING,
    Feeling,
    Trial,
    evidence,
    find_contradictions,
)


@dataclass(frozen=True)
class Recount:
    """The trials from number ``since`` on as they were really set, by number."""

    since: int
    numbers: tuple[int, ...]


def recounts(
    trials: Sequence[Trial], error_in: float, ratio: float, feeling: Feeling = USUAL_FEELING
) -> tuple[Recount, ...]:
    """The places where the count may have slipped by ``error_in``, the likeliest first.

    Those after which no two trials contradict each other; all of them where each leaves a
    contradiction. The last trial is always among the ones worked out again.
    """
    found = []
    for first in trials:
        moved = [t for t in trials if t.number >= first.number]
        again = [replace(t, length_in=t.length_in + error_in) if t in moved else t for t in trials]
        clash = bool(find_contradictions(again, ratio, feeling))
        weight = float(logsumexp(evidence(again, ratio, feeling)))
        numbers = tuple(t.number for t in moved)
        found.append((clash, -weight, Recount(first.number, numbers)))
    sound = [f for f in found if not f[0]] or found
    return tuple(f[2] for f in sorted(sound, key=lambda f: f[:2]))
