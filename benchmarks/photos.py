"""Marks read off made photos with known truth: errors of the first guess, thou."""

from dataclasses import replace

import numpy as np

from vivid_arm.core.rocker.photo import guess_overlay
from vivid_arm.demo.tip_photos import Scene, take

CASES: tuple[tuple[str, dict[str, float]], ...] = (
    ("clean", {}),
    ("blur 3 px", {"blur_px": 3}),
    ("blur 6 px", {"blur_px": 6}),
    ("glare 0.5", {"glare": 0.5}),
    ("glare 1.0", {"glare": 1.0}),
    ("tilt 10°", {"tilt_deg": 10}),
    ("tilt 20°", {"tilt_deg": 20}),
    ("noise 10 of 255", {"grain": 10}),
    ("noise 25 of 255", {"grain": 25}),
    ("half the dye", {"dye": 0.5}),
    ("blur 3, glare 0.5, tilt 10°, noise 10",
     {"blur_px": 3, "glare": 0.5, "tilt_deg": 10, "grain": 10}),
)  # fmt: skip
PHOTOS = 40


def table() -> list[list[str]]:
    return [_row(name, changes, index) for index, (name, changes) in enumerate(CASES)]


def _row(name: str, changes: dict[str, float], seed: int) -> list[str]:
    rng = np.random.default_rng(seed)
    errors: list[float] = []
    unclear = 0
    for n in range(PHOTOS):
        low = rng.uniform(-0.07, 0.05)
        scene = Scene(
            low, low + rng.uniform(0.03, 0.08), turn_deg=float(rng.uniform(-85, 85)),
            radius_px=float(rng.uniform(100, 180)), seed=n,
            middle_px=(float(rng.uniform(280, 360)), float(rng.uniform(280, 360))),
            tilt_way_deg=float(rng.uniform(0, 180)),
        )  # fmt: skip
        scene = replace(scene, **changes)  # type: ignore[arg-type]
        guess = guess_overlay(take(scene))
        if guess.overlay is None or not guess.clear:
            unclear += 1
            continue
        low_in, high_in = guess.overlay.edges_in(scene.stem_in)
        want = np.array([scene.inboard_in, scene.outboard_in])
        both = [np.abs(np.array(e) - want) * 1000 for e in ((low_in, high_in), (-high_in, -low_in))]
        errors += min(both, key=lambda e: float(e.max())).tolist()
    found = np.array(errors or [np.nan])
    gross = float((found > 5).mean())
    return [
        name,
        f"{np.median(found):.2f}",
        f"{np.percentile(found, 90):.2f}",
        f"{gross:.0%}",
        f"{unclear} of {PHOTOS}",
    ]
