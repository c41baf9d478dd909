"""From witness marks to where the fulcrum stands: least squares over everything that was seen.

Unknown are the fulcrum's height and distance and, within their stated
uncertainty, the dimensions of the sheet. A mark's width tells how far the
mid-lift rule is missed, not which way: each way is fitted by itself, and what
was seen of the closed end, or a second setting, tells them apart.

Uncertainties are those of the linearised least squares (JCGM 100:2008, GUM,
5.1.2 and 5.2.2); ``draws`` repeats the fit on scattered readings (JCGM 101:2008).

Source: as above; figures of reading a mark are common practice put in figures here.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise
from math import inf, isfinite

import numpy as np
from numpy.typing import NDArray
from propcache.api import cached_property
from scipy.optimize import least_squares
from scipy.special import ndtr

from vivid_arm.core.arrays import Floats
from vivid_arm.core.errors import InputError
from vivid_arm.core.rocker.mechanism import Linkage, move, net_lift
from vivid_arm.core.rocker.seen import SeenMark
from vivid_arm.core.rocker.sheet import UNKNOWNS, Sheet
from vivid_arm.core.rocker.sides import Branch, merged, part_between
from vivid_arm.core.rocker.sweep import contact_at, mid_lift_angle, mid_lift_error
from vivid_arm.core.words import figure, say

END_U_IN = 0.003
SURE = 0.98
_MISSEEN = 0.01
"""How often the closed end is taken for the other one: common practice put in a figure."""
_WIDE_SD = 4.0


@dataclass(frozen=True)
class View:
    """What is seen of mechanisms at settings: every array has the shape (vectors, settings)."""

    inboard: Floats
    outboard: Floats
    width: Floats
    angle: Floats
    lift: Floats
    error: Floats
    tilt: Floats
    closed: Floats
    open: Floats
    rod: Floats
    linkage: Linkage

    @property
    def middle(self) -> Floats:
        return (self.inboard + self.outboard) / 2

    @property
    def ratio(self) -> Floats:
        """R0, the ratio with the valve closed."""
        return move(self.linkage, np.zeros(1), self.rod).ratio[..., 0]


def at_settings(sheet: Sheet, unknowns: Floats, setting_in: Floats) -> Linkage:
    """The mechanisms of vectors (n, 10) at settings (t): shape (n, t)."""
    link = sheet.linkage(unknowns).columns()
    by = (
        link.nut_rise(setting_in)
        if sheet.stud
        else np.broadcast_to(setting_in, (len(unknowns), len(setting_in)))
    )
    return link.raised(by)


def view(
    sheet: Sheet,
    unknowns: Floats,
    setting_in: Floats,
    signs: NDArray[np.int_] | None = None,
    sink_in: Floats | float = 0.0,
) -> View:
    """Everything that can be seen, for vectors (n, 10) at settings (t).

    ``signs`` (t) fixes which end of the sweep the closed valve makes (+1 the
    inboard one), so that a fit can pass through the exact mid-lift smoothly.
    ``sink_in`` is what a sinking plunger takes from the lobe.
    """
    link = at_settings(sheet, unknowns, setting_in)
    lobe = unknowns[:, None, UNKNOWNS.index("lobe_lift_in")] - sink_in
    film = unknowns[:, None, UNKNOWNS.index("film_in")]
    with np.errstate(invalid="ignore"):
        rod = link.closed_rod()
        h = net_lift(link, lobe, rod)
        tilt = link.rise - h / 2
        closed, opened = contact_at(link, np.zeros_like(h)), contact_at(link, h)
        sign = np.where(tilt >= 0, 1, -1) if signs is None else signs
        inboard = np.where(sign > 0, closed, opened)
        other = np.where(sign > 0, opened, closed)
        turns = (link.rise > 0) & (link.rise < h)
        outboard = np.where(turns, link.arm - link.fulcrum, other)
        return View(
            inboard - film / 2,
            outboard + film / 2,
            outboard - inboard + film,
            mid_lift_angle(link, h, sheet.tip),
            h,
            mid_lift_error(link, h, sheet.tip),
            tilt,
            closed,
            opened,
            rod,
            link,
        )


@dataclass(frozen=True, eq=False)
class MarksFit:
    """What the tries say: the best branch, those that cannot be ruled out, and what is known.

    ``unknowns`` and ``covariance`` in the order of ``UNKNOWNS``, at the sheet's own
    setting; the branches' errors are those at ``at_in``.
    """

    sheet: Sheet
    tries: tuple[SeenMark, ...]
    at_in: float
    branches: tuple[Branch, ...]

    @property
    def best(self) -> Branch:
        return self.branches[0]

    @property
    def unknowns(self) -> Floats:
        return self.best.unknowns

    @property
    def covariance(self) -> Floats:
        return self.best.covariance

    @cached_property
    def rivals(self) -> tuple[Branch, ...]:
        """Other branches that could be true; those within each other's 2 sigma are one."""
        return tuple(b for b in self.branches[1:] if b.weight > 1 - SURE)

    @property
    def decided(self) -> bool:
        return not self.rivals

    def spread(self, jacobian: Floats) -> Floats:
        """Standard uncertainties of outputs with a Jacobian (k, 10)."""
        return np.asarray(np.sqrt(np.einsum("ki,ij,kj->k", jacobian, self.covariance, jacobian)))


def _steps(sheet: Sheet) -> Floats:
    return np.maximum(sheet.prior[1], 1e-4) * 1e-3


def jacobian(sheet: Sheet, unknowns: Floats, output: "Output") -> tuple[Floats, Floats]:
    """Outputs (k) and their Jacobian (k, 10) by central differences, in one batch."""
    steps = _steps(sheet)
    moves = np.diag(steps)
    rows = np.vstack([unknowns, unknowns + moves, unknowns - moves])
    values = output(rows)
    up, down = values[1 : len(steps) + 1], values[len(steps) + 1 :]
    return values[0], np.asarray(((up - down) / (2 * steps[:, None])).T)


class Output:
    """A function of vectors (n, 10) that gives (n, k)."""

    def __call__(self, rows: Floats) -> Floats:
        raise NotImplementedError


@dataclass(frozen=True)
class _Readings(Output):
    """What the tries show for vectors, in the order of their ``seen``."""

    sheet: Sheet
    tries: tuple[SeenMark, ...]
    signs: tuple[int, ...] | None

    def __call__(self, rows: Floats) -> Floats:
        signs = None if self.signs is None else np.array(self.signs)
        seen = _view_of(self.sheet, rows, self.tries, signs)
        columns = [
            _column(seen, name, self.sheet.stem_in / 2)[:, i]
            for i, t in enumerate(self.tries)
            for name, _, _ in t.seen
        ]
        return np.asarray(np.nan_to_num(np.stack(columns, axis=1), nan=1e3))


def _view_of(
    sheet: Sheet, rows: Floats, tries: Sequence[SeenMark], signs: NDArray[np.int_] | None = None
) -> View:
    settings = np.array([t.setting_in for t in tries])
    sink = np.array([t.sink_in for t in tries])
    return view(sheet, rows, settings, signs, sink)


def _column(seen: View, name: str, tip_in: float) -> Floats:
    """A part of the view; how far short of the tip's edge a mark ends that runs off it."""
    if name == "off_outboard":
        return np.minimum(seen.outboard - tip_in, 0.0)
    if name == "off_inboard":
        return np.maximum(seen.inboard + tip_in, 0.0)
    return np.asarray(getattr(seen, name))


def fit_marks(sheet: Sheet, tries: Sequence[SeenMark], at_in: float | None = None) -> MarksFit:
    """Where the fulcrum stands after these tries; without any, what the sheet expects.

    ``at_in`` is the setting whose mid-lift error is stated: the sheet's own rod on a
    stud, else no shim, where none is given. Raises InputError when no mechanism
    gives the readings, or none of them can move there.
    """
    reference = sheet.rod_in if sheet.stud else 0.0
    return _fit(sheet, _telling(tries), reference if at_in is None else at_in)


def _telling(tries: Sequence[SeenMark]) -> tuple[SeenMark, ...]:
    """The tries that tell where the fulcrum stands.

    A mark that runs off the tip says which way to go and no more: once another stands on the
    tip, it is left out.
    """
    whole = any(t.sweeps and not t.runs_off for t in tries)
    return tuple(t for t in tries if not (whole and t.runs_off))


@lru_cache(maxsize=512)
def _fit(sheet: Sheet, tries: tuple[SeenMark, ...], at_in: float) -> MarksFit:
    if not tries:
        unseen = _unseen(sheet, at_in)
        if not isfinite(unseen.error_in):
            raise _stuck(sheet, at_in)
        return MarksFit(sheet, (), at_in, (unseen,))
    tried = (_branch(sheet, tries, start, signs, at_in) for start, signs in _starts(sheet, tries))
    fitting = [branch for branch in tried if branch is not None]
    found = [branch for branch in fitting if isfinite(branch.error_in)]
    if fitting and not found:
        raise _stuck(sheet, at_in)
    if not found:
        raise InputError(
            "mark",
            say("No rocker of this sheet leaves these marks"),
            remedy=say("Check the edges, which side is outboard, and the dimensions"),
            code="impossible",
        )
    return MarksFit(sheet, tries, at_in, merged(found))


def _stuck(sheet: Sheet, at_in: float) -> InputError:
    what = say("a rod of") if sheet.stud else say("a shim of")
    return InputError(
        "setting",
        say(
            "The rocker of this sheet cannot move with {what} {at} in",
            what=what,
            at=figure(at_in, ".4f"),
        ),
        received=at_in,
        remedy=say("Check the figure, and the dimensions"),
        code="impossible",
    )


def _error_of(
    sheet: Sheet, unknowns: Floats, covariance: Floats, at_in: float
) -> tuple[float, float]:
    output = SeenAt(sheet, at_in, ("error",))
    value, slope = jacobian(sheet, unknowns, output)
    return float(value[0]), float(np.sqrt(slope[0] @ covariance @ slope[0]))


@dataclass(frozen=True)
class SeenAt(Output):
    """Named parts of the view at one setting."""

    sheet: Sheet
    setting_in: float
    names: tuple[str, ...]

    def __call__(self, rows: Floats) -> Floats:
        seen = view(self.sheet, rows, np.array([self.setting_in]))
        return np.stack([getattr(seen, name)[:, 0] for name in self.names], axis=1)


def outputs_at(found: MarksFit, setting_in: float, *names: str) -> tuple[Floats, Floats, Floats]:
    """Parts of the view at a setting: values (k), standard uncertainties (k), Jacobian (k, 10)."""
    values, slopes = jacobian(found.sheet, found.unknowns, SeenAt(found.sheet, setting_in, names))
    return values, found.spread(slopes), slopes


@lru_cache(maxsize=256)
def ratio_at(found: MarksFit, setting_in: float) -> tuple[float, float]:
    """R0 at a setting and its standard uncertainty."""
    values, us, _ = outputs_at(found, setting_in, "ratio")
    return float(values[0]), float(us[0])


def shown_of(found: MarksFit) -> list[tuple[tuple[str, float, float], float]]:
    """Every reading (name, value, standard uncertainty) with what the fit shows in its place."""
    shown = _Readings(found.sheet, found.tries, None)(found.unknowns[None])[0]
    readings = [reading for attempt in found.tries for reading in attempt.seen]
    return [(reading, float(x)) for reading, x in zip(readings, shown, strict=True)]


def leverage(found: MarksFit) -> Floats:
    """How far each reading holds the fit where it is by itself (k): 0 not at all, 1 alone."""
    _, slopes = jacobian(found.sheet, found.unknowns, _Readings(found.sheet, found.tries, None))
    us = np.array([u for attempt in found.tries for _, _, u in attempt.seen])
    return np.asarray(np.square(found.spread(slopes) / us))


def _unseen(sheet: Sheet, at_in: float) -> Branch:
    mean, sd = sheet.prior
    covariance = np.diag(sd**2)
    error, u = _error_of(sheet, mean, covariance, at_in)
    return Branch(mean, (), covariance, 0.0, 1.0, error, u, whole=True)


def _starts(sheet: Sheet, tries: tuple[SeenMark, ...]) -> list[tuple[Floats, tuple[int, ...]]]:
    """Starting vectors, one for each way the tries can lie about the exact mid-lift."""
    mean, sd = sheet.prior
    settings = np.array([t.setting_in for t in tries])
    tilts = view(sheet, mean[None], settings).tilt[0]
    tilts = np.where(np.isfinite(tilts), tilts, 0.0)
    turns = sorted({-float(x) for x, t in zip(tilts, tries, strict=True) if t.sweeps})
    if not turns:
        return [(mean, tuple(1 if x >= 0 else -1 for x in tilts))]
    middles = [turns[0] - 0.04, *((a + b) / 2 for a, b in pairwise(turns)), turns[-1] + 0.04]
    found: list[tuple[Floats, tuple[int, ...]]] = []
    for shift in middles:
        if abs(shift) > _WIDE_SD * sd[0]:
            shift = float(np.clip(shift, -_WIDE_SD * sd[0], _WIDE_SD * sd[0]))
        signs = tuple(1 if x + shift >= 0 else -1 for x in tilts)
        start = mean.copy()
        start[0] += shift
        if (signs not in [s for _, s in found]) and isfinite(shift):
            found.append((start, signs))
    return found


def _branch(
    sheet: Sheet, tries: tuple[SeenMark, ...], start: Floats, signs: tuple[int, ...], at_in: float
) -> Branch | None:
    """The understanding on one side of every exact mid-lift; None where it holds nothing.

    Fitted smoothly beyond its side, then cut to it: beside the exact mid-lift a width says
    that the fulcrum is near, and a side ends there.
    """
    mean, sd = sheet.prior
    values = np.array([v for t in tries for _, v, _ in t.seen])
    us = np.array([u for t in tries for _, _, u in t.seen])
    output = _Readings(sheet, tries, signs)
    stand, stand_u = _stand(sheet)

    def miss(z: Floats) -> Floats:
        x = mean + z * sd
        shown = output(x[None])[0]
        return np.concatenate([(shown - values) / us, z, stand(x)])

    def slope(z: Floats) -> Floats:
        rows = jacobian(sheet, mean + z * sd, output)[1] * sd / us[:, None]
        return np.vstack([rows, np.eye(len(z)), stand_u * sd])

    solved = least_squares(miss, (start - mean) / sd, jac=slope, method="lm", xtol=1e-8)
    if not np.isfinite(solved.x).all() or np.abs(miss(solved.x)).max() > 1e4:
        return None
    unknowns = mean + solved.x * sd
    rows = slope(solved.x)
    scaled = np.linalg.inv(rows.T @ rows)
    covariance = scaled * np.outer(sd, sd)
    evidence = np.linalg.slogdet(scaled)[1] / 2 - float((miss(solved.x) ** 2).sum()) / 2
    whole = Branch(unknowns, signs, covariance, evidence, 0.0, *_error_of(sheet, unknowns,
                   covariance, at_in), whole=True)  # fmt: skip
    if not isfinite(whole.error_in):
        return whole
    low, high = _side(sheet, tries, whole, at_in)
    slopes = jacobian(sheet, unknowns, SeenAt(sheet, at_in, ("error",)))[1][0]
    part = part_between(whole, slopes, low, high)
    if part is None:
        return None
    error, _ = _error_of(sheet, part.unknowns, part.covariance, at_in)
    seen_end = _end_evidence(sheet, tries, part.unknowns)
    return replace(part, error_in=error, evidence=part.evidence + seen_end)


def _stand(sheet: Sheet) -> tuple[Callable[[Floats], Floats], Floats]:
    """The measured distance of the fulcrum from the stem's axis, as a reading of arm less turn."""
    known = sheet.fulcrum_in
    if known is None:
        return (lambda _: np.empty(0)), np.empty((0, len(UNKNOWNS)))
    row = np.zeros((1, len(UNKNOWNS)))
    row[0, UNKNOWNS.index("arm_in")], row[0, UNKNOWNS.index("turn_in")] = 1.0, -1.0
    row /= known.u
    return (lambda x: row @ x - known.value / known.u), row


def _side(
    sheet: Sheet, tries: tuple[SeenMark, ...], whole: Branch, at_in: float
) -> tuple[float, float]:
    """Between which mid-lift errors (inches, at ``at_in``) every try lies on its branch's side."""
    tilts = _view_of(sheet, whole.unknowns[None], tries).tilt[0]
    low, high = -inf, inf
    for sign, tilt, attempt in zip(whole.signs, tilts, tries, strict=True):
        if not attempt.sweeps or not isfinite(tilt):
            continue
        turns = whole.error_in - float(tilt)
        low, high = (max(low, turns), high) if sign > 0 else (low, min(high, turns))
    return low, high


def _end_evidence(sheet: Sheet, tries: tuple[SeenMark, ...], unknowns: Floats) -> float:
    """How likely the closed ends are seen where they were, as a logarithm."""
    seen = _view_of(sheet, unknowns[None], tries)
    apart = (seen.open - seen.closed)[0] / END_U_IN
    signs = [{"inboard": 1, "outboard": -1}[t.closed_end] if t.closed_end else 0 for t in tries]
    chances = [ndtr(s * x) for s, x in zip(signs, apart, strict=True) if s and isfinite(x)]
    return float(sum(np.log(_MISSEEN + (1 - 2 * _MISSEEN) * c) for c in chances))


def draws(found: MarksFit, count: int, seed: int) -> Floats:
    """Vectors (count, 10) fitted to scattered readings, for checking the uncertainties.

    Readings and starting values are scattered by their standard uncertainties and
    fitted again, all at once, on the best branch (chord steps on its Jacobian).
    """
    mean, sd = found.sheet.prior
    best = found.best
    rng = np.random.default_rng(seed)
    if not found.tries:
        return np.asarray(mean + rng.standard_normal((count, len(mean))) * sd)
    us = np.array([u for t in found.tries for _, _, u in t.seen])
    output = _Readings(found.sheet, found.tries, best.signs)
    shown, slopes = jacobian(found.sheet, best.unknowns, output)
    weights = np.vstack([slopes / us[:, None], np.diag(1 / sd)])
    solve = np.linalg.pinv(weights)
    scatter = rng.standard_normal((count, len(us) + len(sd)))
    readings = shown + scatter[:, : len(us)] * us
    anchors = best.unknowns + scatter[:, len(us) :] * sd
    rows = np.repeat(best.unknowns[None], count, axis=0)
    for _ in range(8):
        miss = np.hstack([(readings - output(rows)) / us, (anchors - rows) / sd])
        step = miss @ solve.T
        rows = rows + step
        if np.abs(step / sd).max() < 1e-4:
            break
    return rows


@lru_cache(maxsize=128)
def drawn_error_u(found: MarksFit, count: int = 2000, seed: int = 1) -> float:
    """Standard uncertainty of the mid-lift error from scattered fits, inches (JCGM 101:2008)."""
    errors = view(found.sheet, draws(found, count, seed), np.array([found.at_in])).error
    return float(np.nanstd(errors))


def correlations(found: MarksFit, names: Sequence[str]) -> Floats:
    """Correlation matrix of unknowns by name."""
    at = [UNKNOWNS.index(n) for n in names]
    cov = found.covariance[np.ix_(at, at)]
    sd = np.sqrt(np.diag(cov))
    return np.asarray(cov / np.outer(sd, sd))


def untold(found: MarksFit) -> tuple[str, ...]:
    """Dimensions the marks say nothing about: known no better than before."""
    before = found.sheet.prior[1]
    after = np.sqrt(np.diag(found.covariance))
    return tuple(
        n for n, a, b in zip(UNKNOWNS, after, before, strict=True) if a > 0.95 * b and b > 1e-6
    )
