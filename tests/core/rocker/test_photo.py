"""A mark read off pictures whose truth is known."""

import cv2
import numpy as np
import pytest

from vivid_arm.core.errors import InputError
from vivid_arm.core.rocker.photo import Overlay, guess_overlay
from vivid_arm.demo.tip_photos import Scene, take

pytestmark = pytest.mark.slow


def off_by(scene: Scene) -> float:
    """The greater error of both edges, inches; which side is outboard is the builder's to say."""
    guess = guess_overlay(take(scene))
    assert guess.overlay is not None
    assert guess.clear
    low, high = guess.overlay.edges_in(scene.stem_in)
    want = np.array([scene.inboard_in, scene.outboard_in])
    return float(min(np.abs(np.array(e) - want).max() for e in ((low, high), (-high, -low))))


@pytest.mark.parametrize(
    "scene",
    [
        Scene(-0.020, 0.030),
        Scene(-0.050, -0.010, turn_deg=35, radius_px=110, middle_px=(290, 350)),
        Scene(0.000, 0.060, turn_deg=-70, blur_px=3),
        Scene(-0.030, 0.020, glare=0.5, seed=4),
        Scene(-0.030, 0.040, tilt_deg=12, seed=5),
        Scene(-0.015, 0.025, grain=15, seed=6),
        Scene(-0.020, 0.030, dye=0.5, seed=7),
    ],
)
def test_edges_within_a_thou(scene: Scene) -> None:
    """The truth is drawn into the picture; half a pixel of 150 is 0.0006 in."""
    assert off_by(scene) < 0.001


def test_the_scale_is_the_tips_diameter() -> None:
    """Twice the pixels, or another tip, give what the geometry says."""
    near = guess_overlay(take(Scene(-0.02, 0.03, radius_px=100))).overlay
    far = guess_overlay(take(Scene(-0.02, 0.03, radius_px=200, size_px=900))).overlay
    assert near is not None
    assert far is not None
    assert far.radius / near.radius == pytest.approx(2, rel=0.01)
    assert Overlay(0, 0, 100, 0, -12, 30).edges_in(0.25) == pytest.approx((-0.015, 0.0375))


def test_nothing_is_made_up_where_nothing_is() -> None:
    rng = np.random.default_rng(3)
    noise = rng.integers(90, 120, (400, 500, 3), dtype=np.uint8)
    assert guess_overlay(noise).overlay is None
    bare = take(Scene(-0.5, 0.5))
    guess = guess_overlay(bare)
    assert not guess.clear
    assert "lay" in guess.said


def test_a_tip_beside_other_round_things() -> None:
    """The innermost round edge is the tip, not the retainer around it."""
    guess = guess_overlay(take(Scene(-0.02, 0.03, radius_px=120)))
    assert guess.overlay is not None
    assert guess.overlay.radius == pytest.approx(120, rel=0.02)
    grey = cv2.cvtColor(
        cv2.cvtColor(take(Scene(-0.02, 0.03)), cv2.COLOR_BGR2GRAY), cv2.COLOR_GRAY2BGR
    )
    assert guess_overlay(np.asarray(grey, dtype=np.uint8)).overlay is not None


@pytest.mark.parametrize(
    ("values", "field"),
    [
        ((0, 0, 5, 0, -1, 1), "radius"),
        ((0, 0, 100, 0, 20, 10), "mark"),
        ((0, 0, 100, 0, 0, 130), "mark"),
    ],
)
def test_overlays_that_cannot_be(values: tuple[float, ...], field: str) -> None:
    with pytest.raises(InputError) as raised:
        Overlay(*values)
    assert raised.value.field == field
