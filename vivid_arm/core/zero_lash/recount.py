"""A count-back that fails: which trials the slip may reach, worked out again.

The turns counted back to closed say where the rod stands now. Somewhere before it the running
count slipped, and every trial since then was set as much longer or shorter.

Source: common practice; trials weighed as in ``bracket``.
"""

from collections.abc import Sequence
from dataclasses import replace

from scipy.special import logsumexp

from vivid_arm.core.zero_lash.bracket import (
    USUAL_FEELING,
    Feeling,
    Trial,
    evidence,
    find_contradictions,
)

LOOKED_AT, OFFERED = 12, 3
"""So many trials back a slip is looked for, and so many places of it are offered."""


def recounts(
    trials: Sequence[Trial], error_in: float, ratio: float, feeling: Feeling = USUAL_FEELING
) -> tuple[int, ...]:
    """The trials, by number, since which the count may be off by ``error_in``, likeliest first.

    Those after which no two trials contradict each other; any where each leaves a contradiction.
    The last trial is always among the ones worked out again.
    """
    found = []
    for first in trials[-LOOKED_AT:]:
        again = [
            replace(t, length_in=t.length_in + error_in) if t.number >= first.number else t
            for t in trials
        ]
        clash = bool(find_contradictions(again, ratio, feeling))
        weight = float(logsumexp(evidence(again, ratio, feeling)))
        found.append((clash, -weight, first.number))
    sound = [f for f in found if not f[0]] or found
    return tuple(number for _, _, number in sorted(sound)[:OFFERED])
