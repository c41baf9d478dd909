"""A mark read off a photo of the valve tip: where the tip and the mark's edges lie.

The tip's known diameter gives the scale. The first guess is the program's, from
edges in the picture; the builder lays circle and lines right. Coordinates are
pixels from the picture's top left, along the axis from the circle's middle.

Source: the scale is geometry; finding the edges is ours.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import cos, radians, sin

import cv2
import numpy as np
from numpy.typing import NDArray

from vivid_arm.core.arrays import Floats
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import figure, say

Picture = NDArray[np.uint8]
Image = NDArray[np.float32]
Ring = tuple[float, float, float, Floats]

_WORK_PX = 480
_RAYS = 180
_AXES_DEG = tuple(range(-90, 90, 6))
_FINE_DEG = (-4, -3, -2, -1, 0, 1, 2, 3, 4)
_LEAST_BAND = 0.05
_LEAST_SHARE = 0.55
_WORTH_SHARE = 0.3
_BRIGHTNESS = 0.25
_LEAST_ROUND_PX = 24
_LEAST_CLEARNESS = 1.5


@dataclass(frozen=True)
class Overlay:
    """A circle on the tip and two lines on the mark, pixels.

    ``axis_deg`` is the direction across the tip towards outboard, clockwise from
    the picture's right; ``radius`` the tip's along it (a tilted tip is an
    ellipse). ``inboard`` and ``outboard`` lie along it from the middle. Raises
    InputError for lines off the circle.
    """

    x: float
    y: float
    radius: float
    axis_deg: float
    inboard: float
    outboard: float

    def __post_init__(self) -> None:
        if self.radius < 8:
            raise InputError(
                "radius",
                say(
                    "A tip of {value} pixels is too small to read",
                    value=figure(2 * self.radius, ".0f"),
                ),
                received=self.radius,
                expected=say("a radius of 8 pixels or more"),
                remedy=say("Take the photo from nearer"),
                code="out_of_range",
            )
        if not -1.05 * self.radius <= self.inboard < self.outboard <= 1.05 * self.radius:
            raise InputError(
                "mark",
                say("The lines on the mark do not lie on the tip, inboard before outboard"),
                received=f"{self.inboard:.0f}, {self.outboard:.0f}",
                expected=say(
                    "within {radius} pixels of the middle", radius=figure(self.radius, ".0f")
                ),
                remedy=say("Lay the circle first, then the lines"),
                code="out_of_range",
            )

    def edges_in(self, stem_in: float) -> tuple[float, float]:
        """The mark's edges from the tip's middle, outboard positive, inches.

        >>> Overlay(200, 200, 100, 0, -10, 20).edges_in(0.34)
        (-0.017, 0.034)
        """
        scale = stem_in / 2 / self.radius
        return self.inboard * scale, self.outboard * scale


@dataclass(frozen=True)
class Guess:
    """A first guess and how clearly it stands out (band over grain); None where nothing does."""

    overlay: Overlay | None
    clearness: float
    said: str

    @property
    def clear(self) -> bool:
        return self.overlay is not None and self.clearness >= _LEAST_CLEARNESS


def guess_overlay(picture: Picture) -> Guess:
    """Look for the tip and the mark on it in a colour picture (rows, columns, channels)."""
    scale = min(1.0, _WORK_PX / max(picture.shape[:2]))
    small = cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    calm = cv2.GaussianBlur(cv2.medianBlur(small, 5), (0, 0), 1.2).astype(np.float32)
    tip = _find_tip(calm)
    if tip is None:
        return Guess(None, 0.0, say("No round tip found: lay the circle on it."))
    x, y, shape = tip
    axis, inboard, outboard, clearness = _find_mark(small.astype(np.float32), x, y, shape)
    radius = _radius_along(shape, radians(axis))
    clear = clearness >= _LEAST_CLEARNESS
    if not clear:
        inboard, outboard = -0.1 * radius, 0.1 * radius
    found = Overlay(
        x / scale, y / scale, radius / scale, float(axis), inboard / scale, outboard / scale
    )
    said = (
        say("Check circle and lines before keeping.")
        if clear
        else say("The mark does not stand out: lay the lines on its edges.")
    )
    return Guess(found, clearness, said)


def _find_tip(calm: Image) -> tuple[float, float, Floats] | None:
    """Middle of the tip and the matrix of its ellipse: the innermost edge all round a middle."""
    found = _rings(calm, _middles(calm))
    for _ in range(2):
        best = sorted(found, key=lambda r: -r[0])[:2]
        found += _rings(calm, [(r[1], r[2]) for r in best])
    if not found or max(r[0] for r in found) < _LEAST_SHARE:
        return None
    clear = [r for r in found if r[0] >= 0.9 * max(f[0] for f in found)]
    return max(clear, key=lambda r: float(np.linalg.det(r[3])))[1:]


def _rings(calm: Image, middles: Sequence[tuple[float, float]]) -> list[Ring]:
    """Rings around middles that enough rays see."""
    found: list[Ring] = []
    for x, y in middles:
        for radius in _round_edges(calm, x, y):
            ring = _refined(calm, (0.0, x, y, np.eye(2) / radius**2), (0.22, 0.12, 0.08))
            if ring[0] > _WORTH_SHARE:
                found.append(_refined(calm, ring, (0.12, 0.06, 0.05)))
    return found


def _middles(calm: Image) -> list[tuple[float, float]]:
    """Where circles could be centred, from Hough circles in each channel, the strongest first."""
    side = min(calm.shape[:2])
    found: list[tuple[float, float]] = []
    for channel in cv2.split(calm.astype(np.uint8)):
        circles = cv2.HoughCircles(
            channel, cv2.HOUGH_GRADIENT, dp=1.5, minDist=side / 6, param1=60, param2=25,
            minRadius=int(side * 0.10), maxRadius=int(side * 0.52),
        )  # fmt: skip
        if circles is None:
            continue
        for x, y, *_ in np.reshape(circles, (-1, circles.shape[-1]))[:3]:
            if all(np.hypot(x - a, y - b) > side / 20 for a, b in found):
                found.append((float(x), float(y)))
    return found


def _round_edges(calm: Image, x: float, y: float) -> list[float]:
    """Radii at which most rays from a middle cross an edge, the smallest first."""
    angles = np.linspace(0, 2 * np.pi, 90, endpoint=False)[:, None]
    most = min(x, y, calm.shape[1] - x, calm.shape[0] - y)
    if most < _LEAST_ROUND_PX:
        return []
    radii = np.arange(12.0, most, 1.0)
    lines = _sample(calm, x + np.cos(angles) * radii, y + np.sin(angles) * radii)
    change = np.abs(np.gradient(lines, axis=1)).max(axis=2)
    strength = np.median(cv2.GaussianBlur(change, (9, 1), 2.0), axis=0)
    peaks = [
        k
        for k in range(2, len(radii) - 2)
        if strength[k] == strength[k - 2 : k + 3].max() and strength[k] > 0.25 * strength.max()
    ]
    return [float(radii[k]) for k in peaks[:6]]


def _refined(calm: Image, ring: Ring, reaches: Sequence[float]) -> Ring:
    """A ring laid on the edge points near it, and the share of rays that see the edge there."""
    _, x, y, shape = ring
    share = 0.0
    for reach in reaches:
        points, strong = _edge_points(calm, x, y, shape, reach)
        for _ in range(3):
            if strong.sum() < _RAYS * 0.3:
                return 0.0, x, y, shape
            (x, y), axes, turn = cv2.fitEllipseDirect(points[strong].astype(np.float32))
            if min(axes) < 16 or min(axes) / max(axes) < 0.7:
                return 0.0, x, y, shape
            shape = _matrix(axes, turn)
            away = points - (x, y)
            off = np.abs(np.sqrt(np.einsum("ni,ij,nj->n", away, shape, away)) - 1)
            strong = off < max(0.015, 2.5 * float(np.median(off)))
        share = float((off < 0.02).sum() / _RAYS)
    return share, float(x), float(y), shape


def _matrix(axes: Sequence[float], turn_deg: float) -> Floats:
    c, s = cos(radians(turn_deg)), sin(radians(turn_deg))
    turn = np.array([[c, -s], [s, c]])
    return np.asarray(turn @ np.diag([4 / axes[0] ** 2, 4 / axes[1] ** 2]) @ turn.T)


def _radius_along(shape: Floats, angle: float) -> float:
    way = np.array([cos(angle), sin(angle)])
    return float(1 / np.sqrt(way @ shape @ way))


def _edge_points(
    calm: Image, x: float, y: float, shape: Floats, reach: float
) -> tuple[Floats, NDArray[np.bool_]]:
    """The strongest step along each ray near the ellipse, and whether it is one."""
    angles = np.linspace(0, 2 * np.pi, _RAYS, endpoint=False)
    ways = np.stack([np.cos(angles), np.sin(angles)], axis=1)
    radii = 1 / np.sqrt(np.einsum("ni,ij,nj->n", ways, shape, ways))
    steps = np.linspace(1 - reach, 1 + reach, 61)
    away = radii[:, None] * steps
    lines = _sample(calm, x + ways[:, :1] * away, y + ways[:, 1:] * away)
    change = np.abs(np.gradient(lines, axis=1)).max(axis=2)
    change = cv2.GaussianBlur(change, (9, 1), 2.0)
    at = change.argmax(axis=1)
    most = change.max(axis=1)
    strong = most > 0.4 * float(np.median(most))
    return np.stack([x, y]) + ways * (radii * steps[at])[:, None], strong


def _sample(image: Image, x: Floats, y: Floats) -> Floats:
    """The picture's channels at points: shape of the points, channels last."""
    found = cv2.remap(
        image, x.astype(np.float32), y.astype(np.float32), cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )  # fmt: skip
    return np.asarray(found, dtype=np.float64)


def _find_mark(
    image: Image, x: float, y: float, shape: Floats
) -> tuple[float, float, float, float]:
    """Axis, edges along it in pixels and clearness of the band that stands out most."""
    coarse = max(_AXES_DEG, key=lambda axis: _band(image, x, y, shape, axis)[3])
    fine = [_band(image, x, y, shape, coarse + more) for more in _FINE_DEG]
    at = int(np.argmax([f[3] for f in fine]))
    inboard, outboard, clearness, _ = fine[at]
    return coarse + _FINE_DEG[at], inboard, outboard, clearness


def _band(
    image: Image, x: float, y: float, shape: Floats, axis_deg: float
) -> tuple[float, float, float, float]:
    """The best two edges across one axis in pixels from the middle, clearness, part explained.

    The mean across the band tells how well the axis fits: it smears a band that
    lies askew. The median gives the edges: a spot of glare does not move it.
    """
    a = radians(axis_deg)
    radius = _radius_along(shape, a)
    along = np.linspace(-0.92, 0.92, 185) * radius
    across = np.linspace(-0.38, 0.38, 39) * radius
    u, w = np.meshgrid(along, across)
    lines = _shades(_sample(image, x + u * cos(a) - w * sin(a), y + u * sin(a) + w * cos(a)))
    explained = _two_steps(lines.mean(axis=0))[2]
    profile = np.median(lines, axis=0)
    first, last, gain = _two_steps(profile)
    grain = float(np.median(np.abs(lines - profile))) + 1.0
    step = along[1] - along[0]
    shade = profile @ (profile[first:last].mean(axis=0) - profile.mean(axis=0))
    ends = [float(along[0] + _half_way(shade, at) * step) for at in (first, last)]
    return ends[0], ends[1], float(np.sqrt(gain)) / grain, explained


def _shades(colours: Floats) -> Floats:
    """Colour differences and a little of the brightness: glare adds to all channels alike."""
    blue, green, red = np.moveaxis(colours, -1, 0)
    return np.stack([blue - red, green - red, _BRIGHTNESS * (blue + green + red) / 3], axis=-1)


def _two_steps(profile: Floats) -> tuple[int, int, float]:
    """Where a profile (n, channels) is best cut into outside, band, outside: least squares.

    Every pair of cuts is tried; the third value is what the band explains of the
    profile's variance, per point.
    """
    n = len(profile)
    total = np.zeros((n + 1, profile.shape[1]))
    np.cumsum(profile - profile.mean(axis=0), axis=0, out=total[1:])
    i, j = np.triu_indices(n + 1, k=max(2, int(_LEAST_BAND * n / 1.84)))
    inside = (i > 3) & (j < n - 3) & (j - i < 0.7 * n)
    i, j = i[inside], j[inside]
    width = (j - i).astype(np.float64)
    moved = ((total[j] - total[i]) ** 2).sum(axis=1)
    gain = moved / width + moved / (n - width)
    best = int(np.argmax(gain))
    return int(i[best]), int(j[best]), float(gain[best] / n)


def _half_way(shade: Floats, at: int) -> float:
    """The edge near a cut to a part of a step: where the shade passes half way."""
    reach = 9
    low, high = max(0, at - reach), min(shade.size, at + reach)
    part = shade[low:high]
    level = (np.median(part[:4]) + np.median(part[-4:])) / 2
    signs = np.sign(part - level)
    crossings = np.flatnonzero(signs[:-1] * signs[1:] < 0)
    if not crossings.size:
        return float(at) - 0.5
    k = int(min(crossings, key=lambda c: abs(c + low + 0.5 - at)))
    return float(low + k + (level - part[k]) / (part[k + 1] - part[k]))
