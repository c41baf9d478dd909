"""Pictures of valve tips with a known mark: a stand-in for a camera, for demo, tests and tables."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.uint8]


@dataclass(frozen=True)
class Scene:
    """What the camera sees: edges in inches from the tip's middle, the rest in plain figures.

    ``blur_px`` of the lens, ``glare`` 0 to 1, ``tilt_deg`` of the tip against the
    picture, ``grain`` grey levels of noise, ``turn_deg`` of the mark's axis.
    """

    inboard_in: float
    outboard_in: float
    stem_in: float = 0.3415
    radius_px: float = 150.0
    size_px: int = 640
    middle_px: tuple[float, float] = (330.0, 305.0)
    turn_deg: float = 0.0
    blur_px: float = 1.0
    glare: float = 0.0
    tilt_deg: float = 0.0
    tilt_way_deg: float = 40.0
    grain: float = 3.0
    dye: float = 1.0
    seed: int = 1


def take(scene: Scene) -> Picture:
    """Render a scene as a colour picture (rows, columns, blue-green-red)."""
    rng = np.random.default_rng(scene.seed)
    n = scene.size_px
    x, y = np.meshgrid(np.arange(n) - scene.middle_px[0], np.arange(n) - scene.middle_px[1])
    x, y = _untilted(x, y, scene)
    away = np.hypot(x, y) / scene.radius_px
    turn = np.radians(scene.turn_deg)
    along = x * np.cos(turn) + y * np.sin(turn)
    inches = along / scene.radius_px * scene.stem_in / 2
    soft = 0.0012
    band = _step((inches - scene.inboard_in) / soft) * _step((scene.outboard_in - inches) / soft)
    tip = _step((1 - away) * scene.radius_px / 1.2)
    ring = _step((away - 1.32) * 60) * _step((2.0 - away) * 60)
    streaks = cv2.GaussianBlur(rng.normal(0, 9, (n, n)), (0, 0), sigmaX=0.7, sigmaY=9)
    steel = 168 + streaks + 14 * x / n
    dyed = np.stack([steel * 0.72, steel * 0.42, steel * 0.26])
    dyed = dyed * scene.dye + np.stack([steel] * 3) * (1 - scene.dye) * 0.8
    bare = np.stack([steel * 1.02, steel * 1.05, steel * 1.06])
    face = dyed * (1 - band) + bare * band
    ground = np.stack([50 + 40 * ring + streaks] * 3)
    picture = ground * (1 - tip) + face * tip
    spot = np.exp(-(((x - 0.35 * scene.radius_px) ** 2 + (y + 0.4 * scene.radius_px) ** 2)
                    / (2 * (0.28 * scene.radius_px) ** 2)))  # fmt: skip
    picture = picture + 150 * scene.glare * spot
    picture = np.moveaxis(picture, 0, -1)
    if scene.blur_px:
        picture = np.asarray(cv2.GaussianBlur(picture, (0, 0), scene.blur_px), dtype=np.float64)
    picture = picture + rng.normal(0, scene.grain, picture.shape)
    return np.clip(picture, 0, 255).astype(np.uint8)


def photo_of_mark(edges_in: tuple[float, float], seed: int) -> bytes:
    """A mark from inboard to outboard as somebody photographs it at the bench, as JPEG."""
    rng = np.random.default_rng(seed)
    scene = Scene(
        *edges_in, turn_deg=float(rng.uniform(-20, 20)), blur_px=float(rng.uniform(0.8, 2.5)),
        glare=float(rng.uniform(0.0, 0.6)), tilt_deg=float(rng.uniform(0, 6)),
        grain=float(rng.uniform(2, 7)), seed=seed % 2**32,
    )  # fmt: skip
    return bytes(cv2.imencode(".jpg", take(scene))[1])


def _untilted(
    x: NDArray[np.float64], y: NDArray[np.float64], scene: Scene
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Picture coordinates carried back on to the tip's face."""
    way = np.radians(scene.tilt_way_deg)
    c, s, squash = np.cos(way), np.sin(way), np.cos(np.radians(scene.tilt_deg))
    u, w = (x * c + y * s) / squash, -x * s + y * c
    return u * c - w * s, u * s + w * c


def _step(t: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(1 / (1 + np.exp(-np.clip(4 * t, -60, 60))))
