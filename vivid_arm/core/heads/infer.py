"""Zero lash of a valve nobody measured, from the measured ones of its kind, said as such.

Source: scatter from valve to valve is common practice (see ``spread``).
"""

from collections.abc import Sequence
from math import sqrt
from statistics import fmean, stdev

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.heads.spread import USUAL_SD_IN, PlacedValve, Trend


def inferred(
    cylinder: int,
    kind: ValveKind,
    bank: str,
    place: float,
    measured: Sequence[PlacedValve],
    slopes: Sequence[Trend] = (),
) -> PlacedValve | None:
    """The mean of the kind, on the valve's own bank where two or more were measured there.

    A sure slope of the bank is followed. Standard uncertainty: s sqrt(1 + 1/n) with the
    scatter s seen between them, never below the trade's usual 0.003 (common practice),
    and their own mean uncertainty. None where no valve of the kind was measured.
    """
    own = [k for k in measured if k.kind == kind]
    near = [k for k in own if k.bank == bank]
    used = near if len(near) > 1 else own
    if not used:
        return None
    slope = next((t.value_in for t in slopes if t.bank == bank and t.sure), 0.0)
    level = [k.zero_lash_in + (slope * (place - k.place) if k.bank == bank else 0.0) for k in used]
    scatter = max(stdev(level) if len(level) > 2 else 0.0, USUAL_SD_IN)
    u = sqrt(scatter**2 * (1 + 1 / len(used)) + fmean(k.u_in**2 for k in used) / len(used))
    return PlacedValve(cylinder, kind, fmean(level), u, bank, place)
