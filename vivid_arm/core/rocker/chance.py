"""How likely a setting leaves a good mark, by everything the tries tell and leave open.

Vectors are drawn from every way the tries can be understood, by its weight; each setting's mark
is held against the limits of a good one.

Source: a good mark is common practice; propagation of distributions, JCGM 101:2008.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from vivid_arm.core.arrays import Floats
from vivid_arm.core.rocker.marks import MarksFit, View, view
from vivid_arm.core.rocker.sheet import UNKNOWNS, Sheet
from vivid_arm.core.rocker.sweep import EDGE_CLEAR_IN, least_sweep

MIDDLE_WITHIN_IN = 0.010
"""How far a good mark's middle may stand from the tip's: common practice."""
SQUARE_WITHIN_DEG = 1.0
"""How far off square the arm may stand at half lift where the mark's middle does not tell."""
WIDTH_WITHIN_IN = 0.010
"""How much wider than the least possible a good mark may be."""
WIDER = 1.1
"""The scatter a fit states is drawn so much wider: its starting values are guesses themselves."""
DRAWS = 300


def good_chance(found: MarksFit, setting_in: Floats) -> Floats:
    """The chance of a good mark at each setting (t), from 0 to 1."""
    return _chance(found.sheet, _drawn(found), setting_in)


def chance_knowing(found: MarksFit, covariance: Floats, setting_in: Floats) -> float:
    """The best chance at settings were the likeliest way true and known so well."""
    rows = found.unknowns + _scatter() @ _root_of(covariance).T
    return float(_chance(found.sheet, rows, setting_in).max())


def _chance(sheet: Sheet, rows: Floats, setting_in: Floats) -> Floats:
    return np.asarray(_good(sheet, rows, view(sheet, rows, setting_in)).mean(axis=0))


@lru_cache(maxsize=1)
def _scatter() -> Floats:
    return np.random.default_rng(11).standard_normal((DRAWS, len(UNKNOWNS)))


def _root_of(covariance: Floats) -> Floats:
    return np.asarray(WIDER * np.linalg.cholesky(covariance + np.eye(len(covariance)) * 1e-15))


@lru_cache(maxsize=128)
def _drawn(found: MarksFit) -> Floats:
    """Vectors (n, 10) of what the rocker can be, each branch by its weight."""
    rows = []
    first, total = 0, 0.0
    for branch in found.branches:
        total += branch.weight
        last = round(DRAWS * total)
        rows.append(branch.unknowns + _scatter()[first:last] @ _root_of(branch.covariance).T)
        first = last
    return np.vstack(rows)


def _good(sheet: Sheet, rows: Floats, seen: View) -> NDArray[np.bool_]:
    film, arm, radius = (
        rows[:, None, UNKNOWNS.index(n)] for n in ("film_in", "arm_in", "tip_radius_in")
    )
    edge = sheet.stem_in / 2 - EDGE_CLEAR_IN
    with np.errstate(invalid="ignore"):
        near = (abs(seen.middle) <= MIDDLE_WITHIN_IN) | (abs(seen.angle) <= SQUARE_WITHIN_DEG)
        least = least_sweep(arm, radius, seen.lift, sheet.tip)
        narrow = seen.width <= least + film + WIDTH_WITHIN_IN
        return near & narrow & (seen.inboard >= -edge) & (seen.outboard <= edge)
