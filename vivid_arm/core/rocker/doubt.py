"""Marks that cannot be what they seem: too narrow, against each other, or with a sinking lifter.

Source: common practice; the limits are ours.
"""

from dataclasses import dataclass, fields, replace
from typing import Literal

import numpy as np
from scipy.stats import chi2

from vivid_arm.core.errors import InputError
from vivid_arm.core.rocker.marks import MarksFit, fit_marks, leverage, outputs_at, shown_of
from vivid_arm.core.rocker.seen import LIFT_U_IN, SeenMark
from vivid_arm.core.rocker.sheet import DIMENSIONS, UNKNOWNS, Dimension, Sheet
from vivid_arm.core.rocker.sweep import least_width

NARROW_SIGMA = 3.0
PULLED_SIGMA = 3.0
UNLIKELY = 0.001
SINKING_SHARE = 0.92
_LOBE_KNOWN_IN = 0.010


@dataclass(frozen=True)
class Narrow:
    """A mark narrower than its arm can sweep: the try's place, its width, the least, inches."""

    attempt: int
    width_in: float
    least_in: float


def narrow_mark(sheet: Sheet, tries: tuple[SeenMark, ...]) -> Narrow | None:
    """The first mark that is narrower than the lift allows, beyond its reading error.

    No setting makes a mark narrower: the turn was not made whole, the mark was made at rest, or
    no film was on the tip. A shoe's mark is judged like a roller's.
    """
    for place, seen in enumerate(tries):
        width = seen.read_width_in
        if width is None:
            continue
        lift, lift_u = _lift(sheet, seen)
        arm, film = sheet.arm_in, sheet.film_in
        sweep = least_width(np.asarray(arm.value), np.asarray([lift, lift + lift_u]))
        least, u_least = float(sweep[0]), float(sweep[1] - sweep[0])
        u = float(np.sqrt(2 * seen.edge_u_in**2 + film.u**2 + u_least**2))
        if width < least + film.value - NARROW_SIGMA * u:
            return Narrow(place, width, least + film.value)
    return None


def _lift(sheet: Sheet, seen: SeenMark) -> tuple[float, float]:
    """The net lift of a try and its standard uncertainty: read, else from lobe and ratio."""
    if seen.lift_in is not None:
        return seen.lift_in, seen.lift_u_in
    lobe, ratio = sheet.lobe_lift_in, sheet.ratio
    lift = (lobe.value - seen.sink_in) * ratio.value
    return lift, lift * float(np.hypot(lobe.u / lobe.value, ratio.u / ratio.value))


@dataclass(frozen=True)
class Sinking:
    """A lift that the lobe does not explain: the try's place, read and expected, inches."""

    attempt: int
    lift_in: float
    expected_in: float


def sinking(found: MarksFit) -> Sinking | None:
    """The first try whose lift is far under lobe times ratio, or under what its marks give.

    The plunger sinks under the spring, or the lobe is not the card's: either moves the mark.
    """
    sheet = found.sheet
    known = sheet.lobe_lift_in.u <= _LOBE_KNOWN_IN
    blind = _without_lifts(found)
    for place, seen in enumerate(found.tries):
        if seen.lift_in is None or not known:
            continue
        expected = (sheet.lobe_lift_in.value - seen.sink_in) * sheet.ratio.value
        if seen.lift_in < SINKING_SHARE * expected:
            return Sinking(place, seen.lift_in, expected)
        if blind is None:
            continue
        values, us, slopes = outputs_at(blind, seen.setting_in, "lift")
        lobe = slopes[0][UNKNOWNS.index("lobe_lift_in")] * seen.sink_in
        short = float(values[0] - lobe) - seen.lift_in
        if short > PULLED_SIGMA * float(np.hypot(us[0], seen.lift_u_in)):
            return Sinking(place, seen.lift_in, float(values[0] - lobe))
    return None


def _without_lifts(found: MarksFit) -> MarksFit | None:
    told = [_less(t, "lift") for t in found.tries]
    kept = [t for t in told if t is not None]
    try:
        return fit_marks(found.sheet, kept, found.at_in)
    except InputError:
        return None


def _less(seen: SeenMark, name: str) -> SeenMark | None:
    """A try without one of its readings; None where nothing is left of it."""
    given = {f.name for f in fields(seen)}
    gone = {"middle": "place", "closed": "rest_in"}.get(name, f"{name}_in")
    gone = "angle_deg" if name == "angle" else "off" if name.startswith("off_") else gone
    if name == "width" and seen.width_in is None:
        gone = "wide"
    assert gone in given
    try:
        return replace(seen, **{gone: None})  # type: ignore[arg-type]
    except InputError:
        return None


Reading = Literal[
    "inboard", "outboard", "width", "closed", "angle", "lift", "off_inboard", "off_outboard",
    "middle",
]  # fmt: skip


@dataclass(frozen=True)
class Clashing:
    """Readings that no rocker of the sheet gives together.

    ``attempt`` and ``reading`` name the one without which the rest agrees best,
    ``dimension`` what was measured and is pulled off its value, if any; ``chance`` how
    likely sound readings differ so.
    """

    attempt: int
    reading: Reading
    dimension: Dimension | None
    chance: float


def conflicting(found: MarksFit) -> Clashing | None:
    """Where tries contradict each other, the sheet, or what an arm can do; None where not.

    Chi-squared over readings and dimensions; a dimension that was measured may not be pulled
    over 3 sigma.
    """
    if not found.tries:
        return None
    misfit, freedom, pulls = _misfit(found)
    measured = [n for n in found.sheet.measured if abs(pulls[n]) > PULLED_SIGMA]
    chance = float(chi2.sf(misfit, freedom)) if freedom > 0 else 1.0
    if chance >= UNLIKELY and not measured:
        return None
    pulled = max(measured, key=lambda n: abs(pulls[n]), default=None)
    attempt, reading = _odd_one(found)
    return Clashing(attempt, reading, pulled, chance)


def _misfit(found: MarksFit) -> tuple[float, int, dict[Dimension, float]]:
    """Chi-squared, its degrees of freedom, and how many sigma each dimension is pulled."""
    mean, sd = found.sheet.prior
    z = (found.unknowns - mean) / sd
    pulls = {name: float(z[UNKNOWNS.index(name)]) for name in DIMENSIONS}
    missed = [(shown - value) / u for (_, value, u), shown in shown_of(found)]
    total = float(np.square(missed).sum()) + sum(p**2 for p in pulls.values())
    return total, len(missed) - 2, pulls


def _odd_one(found: MarksFit) -> tuple[int, Reading]:
    """The reading without which the others agree best."""
    suspects = _suspects(found)
    best: tuple[float, int, Reading] | None = None
    for place, name in suspects:
        kept = list(found.tries)
        less = _less(kept[place], name)
        kept[place : place + 1] = [] if less is None else [less]
        try:
            left = _misfit(fit_marks(found.sheet, kept, found.at_in))[0]
        except InputError:
            continue
        if best is None or left < best[0]:
            best = (left, place, name)
    return suspects[0] if best is None else best[1:]


SUSPECTS = 4
"""Of so many readings it is tried whether the others agree without them."""


def _suspects(found: MarksFit) -> list[tuple[int, Reading]]:
    """The readings that stand most against the others, the worst first.

    By how far the misfit would fall without each, were the rocker a straight line: its square
    over what the others leave of it. Source: deletion residuals, Cook and Weisberg, Residuals
    and Influence in Regression, 1982 (from memory).
    """
    names = [(n, name) for n, seen in enumerate(found.tries) for name, _, _ in seen.seen]
    misses = np.array([(shown - value) / u for (_, value, u), shown in shown_of(found)])
    falls = np.square(misses) / np.maximum(1.0 - leverage(found), 0.01)
    worst = np.argsort(-falls, kind="stable")[:SUSPECTS]
    return [names[k] for k in worst]


HuntedBy = Literal["rod", "shim", "screw"]


@dataclass(frozen=True)
class LiftHunt:
    """Net lift over the settings tried, rising: what was read and how it goes on.

    ``peak_in`` the setting of the most lift by a parabola, None where lift still rises at an
    end or is even; ``rising`` +1 towards higher settings, -1 towards lower, 0 even;
    ``most_in`` the best lift read at ``best_in``; ``expected_in`` lobe times ratio.
    """

    points: tuple[tuple[float, float], ...]
    best_in: float
    most_in: float
    peak_in: float | None
    rising: int
    expected_in: float
    by: HuntedBy = "rod"

    @property
    def lost_in(self) -> float:
        """What the best lift lacks to lobe times ratio, inches."""
        return self.expected_in - self.most_in


def lift_hunt(
    points: list[tuple[float, float]], expected_in: float, by: HuntedBy = "rod"
) -> LiftHunt | None:
    """The hunt over (setting, lift) in inches; None under two settings.

    >>> hunt = lift_hunt([(0.0, .675), (0.03, .678), (0.06, .681), (0.09, .682)], .7)
    >>> hunt.rising, hunt.best_in
    (1, 0.09)
    """
    by_setting: dict[float, list[float]] = {}
    for setting, lift in points:
        by_setting.setdefault(round(setting, 6), []).append(lift)
    if len(by_setting) < 2:
        return None
    xs = np.array(sorted(by_setting))
    ys = np.array([np.mean(by_setting[x]) for x in sorted(by_setting)])
    best = int(np.argmax(ys))
    rise = float(ys[-1] - ys[0])
    told = abs(rise) > 2 * np.sqrt(2) * LIFT_U_IN
    ends = best in (0, len(xs) - 1)
    return LiftHunt(
        tuple((float(x), float(y)) for x, y in zip(xs, ys, strict=True)),
        float(xs[best]),
        float(ys[best]),
        None if ends or len(xs) < 3 else _peak(xs, ys),
        0 if not told or not ends else (1 if rise > 0 else -1),
        expected_in,
        by,
    )


def _peak(xs: np.ndarray, ys: np.ndarray) -> float | None:
    """The top of a parabola through the lifts, where it lies between the settings."""
    bend, slope, _ = np.polyfit(xs - xs.mean(), ys, 2)
    if bend >= 0:
        return None
    top = float(xs.mean() - slope / (2 * bend))
    return top if xs[0] <= top <= xs[-1] else None


def against_trend(found: MarksFit, hunt: LiftHunt | None) -> bool:
    """Whether the measured lifts go the other way than the geometry says they must."""
    if hunt is None or not hunt.rising or hunt.by != ("rod" if found.sheet.stud else "shim"):
        return False
    blind = _without_lifts(found)
    if blind is None:
        return False
    ends = (hunt.points[0][0], hunt.points[-1][0])
    low, high = (float(outputs_at(blind, x, "lift")[0][0]) for x in ends)
    measured = hunt.points[-1][1] - hunt.points[0][1]
    apart = abs((high - low) - measured)
    return (high - low) * measured < 0 and apart > PULLED_SIGMA * np.sqrt(2) * LIFT_U_IN
