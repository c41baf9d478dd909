"""The cam card, the lobe behind it, and when each valve stands on its heel.

Crank degrees throughout, counted after the cylinder's overlap TDC. A lobe is
symmetric about its centre when it is made from a card; a measured table is
taken as it is.

Source: durations at 0.050 in and at the card's own lift, ICL and LSA are common practice; the
model between them is ours: a smooth curve through the card's points.
"""

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import Literal

import numpy as np
from scipy.interpolate import PchipInterpolator

from vivid_arm.core.arrays import Floats
from vivid_arm.core.engine.layout import CYCLE_DEG, ValveKind
from vivid_arm.core.errors import InputError, Suggestion, within
from vivid_arm.core.words import Saying, figure, say

CHECKING_LIFT_IN = 0.050
OFF_HEEL_IN = 0.001
_NEAR_NOSE_IN = 0.050
_RAMP_IN_PER_DEG = 0.0004
SEAT_LIFT_IN = 0.0065
"""A duration stated at more lift than this is not the heel: the ramp lies below it."""
LONGEST_RAMP_DEG = 50.0
"""Below the stated lift a lobe is taken to fall to its heel within this: common practice."""
_LIMITS: dict[str, tuple[Saying, float, float, str]] = {
    "advertised_deg": (Saying("Advertised duration"), 150, 400, "°"),
    "advertised_at_in": (Saying("Lift of the advertised duration"), 0, 0.049, " in"),
    "duration_050_deg": (Saying("Duration at 0.050"), 100, 340, "°"),
    "lobe_lift_in": (Saying("Lobe lift"), 0.100, 0.800, " in"),
    "base_circle_in": (Saying("Base circle diameter"), 0.300, 3.0, " in"),
    "icl_deg": (Saying("Intake lobe centre"), 60, 150, "°"),
    "lsa_deg": (Saying("Lobe separation"), 85, 130, "°"),
}


def _within(field: str, value: float) -> float:
    label, low, high, unit = _LIMITS[field]
    return within(
        field, say(label), value, low, high, unit, remedy=say("Check the figure on the cam card")
    )


@dataclass(frozen=True)
class Lobe:
    """One lobe of a cam card.

    ``advertised_deg`` is the duration in crank degrees at ``advertised_at_in``
    of lobe lift, ``duration_050_deg`` at 0.050. ``table`` is a measured lobe:
    (crank degrees, lift in inches), degrees rising. Raises InputError.
    """

    advertised_deg: float
    advertised_at_in: float
    duration_050_deg: float
    lobe_lift_in: float
    base_circle_in: float | None = None
    table: tuple[tuple[float, float], ...] | None = None

    def __post_init__(self) -> None:
        for field in ("advertised_deg", "advertised_at_in", "duration_050_deg", "lobe_lift_in"):
            _within(field, getattr(self, field))
        if self.base_circle_in is not None:
            _within("base_circle_in", self.base_circle_in)
        if self.duration_050_deg >= self.advertised_deg:
            raise InputError(
                "duration_050_deg",
                say(
                    "Duration at 0.050 ({duration_050}°) is not below the advertised one "
                    "({advertised}°)",
                    duration_050=figure(self.duration_050_deg, "g"),
                    advertised=figure(self.advertised_deg, "g"),
                ),
                received=self.duration_050_deg,
                expected=say("below {advertised}", advertised=figure(self.advertised_deg, "g")),
                suggestion=Suggestion(f"{self.advertised_deg:g}", say("The two look swapped")),
                code="durations",
            )


@dataclass(frozen=True)
class CamCard:
    """Both lobes and where they stand: ICL in crank degrees ATDC, LSA in cam degrees."""

    intake: Lobe
    exhaust: Lobe
    icl_deg: float
    lsa_deg: float

    def __post_init__(self) -> None:
        _within("icl_deg", self.icl_deg)
        _within("lsa_deg", self.lsa_deg)

    def lobe(self, kind: ValveKind) -> Lobe:
        return self.intake if kind == "intake" else self.exhaust

    def centre_deg(self, kind: ValveKind) -> float:
        """Full lift, crank degrees after overlap TDC; the exhaust's is 2 LSA - ICL before it.

        >>> lobe = Lobe(286, 0.006, 226, 0.347)
        >>> CamCard(lobe, lobe, 106, 110).centre_deg("exhaust")
        -114
        """
        return self.icl_deg if kind == "intake" else self.icl_deg - 2 * self.lsa_deg


@dataclass(frozen=True)
class Arc:
    """A closed stretch of the 720° cycle, from ``from_deg`` turning on to ``to_deg``.

    ``from_deg`` is normalised to 0..720; ``to_deg`` may pass 720.
    """

    from_deg: float
    to_deg: float

    @classmethod
    def between(cls, from_deg: float, to_deg: float) -> "Arc":
        start = from_deg % CYCLE_DEG
        return cls(start, start + (to_deg - from_deg))

    @property
    def length_deg(self) -> float:
        return self.to_deg - self.from_deg

    @property
    def middle_deg(self) -> float:
        return ((self.from_deg + self.to_deg) / 2) % CYCLE_DEG

    def margin_deg(self, crank_deg: float) -> float:
        """Degrees to the nearer end, above zero inside the arc, below zero outside.

        >>> Arc.between(251, 681).margin_deg(461), Arc.between(251, 681).margin_deg(700)
        (210.0, -19.0)
        """
        half = self.length_deg / 2
        away = abs((crank_deg - self.middle_deg + CYCLE_DEG / 2) % CYCLE_DEG - CYCLE_DEG / 2)
        return half - away

    def moved(self, by_deg: float) -> "Arc":
        return Arc.between(self.from_deg + by_deg, self.to_deg + by_deg)


def heel_arc(card: CamCard, kind: ValveKind) -> Arc:
    """Where a valve is on its heel, crank degrees after its cylinder's overlap TDC, no guard.

    From the card: off the heel from centre - duration/2 to centre + duration/2, and further
    by the ramp below where the duration is stated at more than 0.006 of lift.
    From a measured table: where the lift stays within 0.001.

    >>> lobe = Lobe(286, 0.006, 226, 0.347)
    >>> heel_arc(CamCard(lobe, lobe, 105, 109), "intake")
    Arc(from_deg=248.0, to_deg=682.0)
    """
    lobe, centre = card.lobe(kind), card.centre_deg(kind)
    if lobe.table is None and lobe.advertised_at_in <= SEAT_LIFT_IN:
        opens, closes = -lobe.advertised_deg / 2, lobe.advertised_deg / 2
    else:
        opens, closes = profile_of(lobe).span_deg(OFF_HEEL_IN)
    return Arc.between(centre + closes, centre + opens + CYCLE_DEG)


@dataclass(frozen=True, eq=False)
class Profile:
    """Lobe lift over crank degrees from the lobe's centre: both arrays (n,), degrees rising.

    ``model`` is True for a lobe made from a card.
    """

    angle_deg: Floats
    lift_in: Floats
    model: bool

    def span_deg(self, lift_in: float) -> tuple[float, float]:
        """Where the lobe rises through a lift and falls through it again, degrees.

        Raises InputError for a lift the lobe does not reach.
        """
        most = float(self.lift_in.max())
        if not 0 <= lift_in <= most:
            raise InputError(
                "lift",
                say("This lobe does not lift {lift} in", lift=figure(lift_in, "g")),
                received=lift_in,
                expected=say("0 to {most}", most=figure(most, ".4f")),
            )
        rise, fall = self.spans_deg(np.asarray(lift_in))
        return float(rise), float(fall)

    def spans_deg(self, lift_in: Floats) -> tuple[Floats, Floats]:
        """The same for lifts of any shape; NaN for those the lobe does not reach."""
        nose = int(np.argmax(self.lift_in))
        up, down = slice(None, nose + 1), slice(nose, None)
        rise = np.interp(lift_in, _rising(self.lift_in[up]), self.angle_deg[up])
        fall = np.interp(lift_in, _rising(self.lift_in[down][::-1]), self.angle_deg[down][::-1])
        reached = (lift_in >= 0) & (lift_in <= self.lift_in[nose])
        return np.where(reached, rise, np.nan), np.where(reached, fall, np.nan)


def _rising(lifts: Floats) -> Floats:
    """Lifts made to never fall, so that a wobble of the gauge cannot hide a crossing."""
    return np.asarray(np.maximum.accumulate(lifts))


@lru_cache(maxsize=64)
def profile_of(lobe: Lobe) -> Profile:
    """The lobe's curve: its measured table, else a smooth model that meets the card."""
    if lobe.table is None:
        return _model(lobe)
    angles = np.array([a for a, _ in lobe.table])
    lifts = np.array([v for _, v in lobe.table])
    raw = Profile(angles, lifts, model=False)
    centre = sum(raw.span_deg(float(lifts.max()) - _NEAR_NOSE_IN)) / 2
    return Profile(angles - centre, lifts, model=False)


_POWERS = ((2, 4, 6, 8), (2, 6, 8, 10), (2, 6, 10, 14), (2, 8, 12, 16), (2, 10, 14, 18),
           (2, 12, 18, 24), (2, 16, 24, 32), (2, 24, 36, 48))  # fmt: skip


def _model(lobe: Lobe) -> Profile:
    """A symmetric lobe through the card's three figures.

    An even polynomial from the nose to the advertised lift, with zero second
    derivative where a ramp of constant speed takes over; the gentlest one that
    never rises away from the nose. Where none does, a monotone cubic through
    the card's points. It is a model: only the card's figures are certain.
    """
    half = lobe.advertised_deg / 2
    u = np.linspace(0, 1, 241)
    best: Floats | None = None
    least = np.inf
    for powers in _POWERS:
        lift = _polynomial(lobe, powers, u)
        if lift is None or np.any(np.diff(lift) > 1e-9):
            continue
        harshness = float(np.abs(np.diff(lift, 2)).max())
        if harshness < least:
            best, least = lift, harshness
    if best is None:
        points = [0.0, lobe.duration_050_deg / lobe.advertised_deg, 1.0]
        known = [lobe.lobe_lift_in, CHECKING_LIFT_IN, lobe.advertised_at_in]
        best = np.asarray(PchipInterpolator(points, known)(u), dtype=np.float64)
    angle, lift = u * half, best
    if lobe.advertised_at_in > 0:
        length = _ramp_deg(lobe)
        t = np.linspace(0, 1, 41)[1:]
        angle = np.concatenate([angle, half + t * length])
        lift = np.concatenate([lift, lobe.advertised_at_in * (1 - t) ** 2])
    return Profile(
        np.concatenate([-angle[:0:-1], angle]), np.concatenate([lift[:0:-1], lift]), model=True
    )


def _ramp_deg(lobe: Lobe) -> float:
    """How long the lobe falls from the stated lift to its heel, crank degrees."""
    return min(2 * lobe.advertised_at_in / _RAMP_IN_PER_DEG, LONGEST_RAMP_DEG)


def ramp_below_deg(lobe: Lobe) -> float:
    """By how much the heel is taken shorter at each end than the stated duration leaves it.

    0 where the duration is stated at the seat, or the lobe is measured.
    """
    if lobe.table is not None or lobe.advertised_at_in <= SEAT_LIFT_IN:
        return 0.0
    return profile_of(lobe).span_deg(OFF_HEEL_IN)[1] - lobe.advertised_deg / 2


def _polynomial(lobe: Lobe, powers: tuple[int, ...], u: Floats) -> Floats | None:
    """Lift (n,) of 1 + sum c u^p that meets 0.050, the advertised lift, its slope, no curvature."""
    p = np.array(powers, dtype=np.float64)
    top = lobe.lobe_lift_in
    at = lobe.duration_050_deg / lobe.advertised_deg
    speed = 2 * lobe.advertised_at_in / _ramp_deg(lobe) if lobe.advertised_at_in else 0.0
    slope = speed * lobe.advertised_deg / 2
    rows = np.array([at**p, np.ones_like(p), p, p * (p - 1)])
    known = np.array(
        [CHECKING_LIFT_IN / top - 1, lobe.advertised_at_in / top - 1, -slope / top, 0.0]
    )
    try:
        c = np.linalg.solve(rows, known)
    except np.linalg.LinAlgError:
        return None
    return np.asarray(top * (1 + (u[:, None] ** p) @ c), dtype=np.float64)


def angle_at_lift(profile: Profile, share: float, side: Literal["opening", "closing"]) -> float:
    """Degrees from the centre where ``share`` of full lift is left on one side."""
    top = float(profile.lift_in.max())
    rise, fall = profile.span_deg(share * top)
    return rise if side == "opening" else fall


LEAST_ROWS = 12
MOST_ROWS = 2000


def read_lobe_table(text: str) -> tuple[tuple[float, float], ...]:
    """Read a measured lobe from CSV: a header ``crank_deg`` or ``cam_deg``, and ``lift_in``
    or ``lift_mm``; one point a line, degrees rising.

    Cam degrees are doubled. Raises InputError that names the line.
    """
    rows = list(csv.reader(io.StringIO(text.lstrip("\ufeff"), newline="")))
    if not rows:
        raise _line_error(1, say("the file is empty"), "crank_deg,lift_in")
    header = [h.strip().lower() for h in rows[0]]
    angle_name = next((h for h in ("crank_deg", "cam_deg") if h in header), None)
    lift_name = next((h for h in ("lift_in", "lift_mm") if h in header), None)
    if angle_name is None or lift_name is None:
        raise _line_error(
            1, say("the columns are {header}", header=", ".join(header)[:60]), "crank_deg,lift_in"
        )
    scale = 2.0 if angle_name == "cam_deg" else 1.0
    factor = 1 / 25.4 if lift_name == "lift_mm" else 1.0
    a, b = header.index(angle_name), header.index(lift_name)
    points: list[tuple[float, float]] = []
    for number, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        point = (_cell(row, a, number, angle_name), _cell(row, b, number, lift_name))
        if points and point[0] * scale <= points[-1][0]:
            raise _line_error(
                number,
                say(
                    "{angle_name} {point} does not rise",
                    angle_name=angle_name,
                    point=figure(point[0], "g"),
                ),
                say("rising degrees"),
            )
        points.append((point[0] * scale, round(point[1] * factor, 6)))
    return _check_table(points)


def _cell(row: Sequence[str], at: int, number: int, name: str) -> float:
    text = row[at].strip() if at < len(row) else ""
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = float("nan")
    if not np.isfinite(value):
        raise _line_error(
            number,
            say("{name} “{typed}” is not a number", name=name, typed=text[:20]),
            say("a number"),
        )
    return value


def _check_table(points: list[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    if not LEAST_ROWS <= len(points) <= MOST_ROWS:
        raise _line_error(
            len(points) + 1,
            say("{points} points", points=len(points)),
            say("{least_rows} to {most_rows} points", least_rows=LEAST_ROWS, most_rows=MOST_ROWS),
        )
    lifts = [lift for _, lift in points]
    top = max(range(len(points)), key=lifts.__getitem__)
    _within("lobe_lift_in", lifts[top])
    if points[-1][0] - points[0][0] > CYCLE_DEG:
        raise _line_error(
            len(points) + 1, say("more than one turn of the cam"), say("at most 720° of crank")
        )
    for end, number in ((0, 2), (-1, len(points) + 1)):
        if abs(lifts[end]) > OFF_HEEL_IN:
            raise _line_error(
                number,
                say("the lobe starts or ends at {lifts} in", lifts=figure(lifts[end], "g")),
                say("lift 0 on the heel"),
            )
    for i, (before, after) in enumerate(pairwise(lifts)):
        wrong_way = before - after if i < top else after - before
        if wrong_way > 0.002:
            raise _line_error(
                i + 3,
                say("lift {after} turns back before the nose", after=figure(after, "g")),
                say("one rise and one fall"),
            )
    return tuple(points)


def _line_error(number: int, what: str, expected: str) -> InputError:
    return InputError(
        "table",
        say("Line {number}: {what}", number=number, what=what),
        received=say("line {number}", number=number),
        expected=expected,
        remedy=say("Expected {expected}", expected=expected),
        code="lobe_table",
    )


def write_lobe_table(profile: Profile) -> str:
    """The lobe as CSV: ``crank_deg`` from the lobe's centre, ``lift_in``."""
    lines = ["crank_deg,lift_in"]
    lines += [f"{a:.2f},{v:.5f}" for a, v in zip(profile.angle_deg, profile.lift_in, strict=True)]
    return "\r\n".join(lines) + "\r\n"
