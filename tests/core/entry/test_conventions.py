"""Length conventions, against chords worked by hand and round trips."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vivid_arm.core.entry.conventions import CONVENTIONS, RodEnd, RodEnds, convert
from vivid_arm.core.errors import InputError

BALL = 0.3125


@pytest.mark.parametrize(("hole", "takes_off"), [(0.100, 0.008216), (0.080, 0.005207)])
def test_oil_hole_takes_off(hole: float, takes_off: float) -> None:
    """Derived by hand: r - sqrt(r² - d²/4) on a 5/16 ball."""
    end = RodEnd("ball", BALL, hole)
    less = end.reach_in("theoretical", 0.14) - end.reach_in("measured", 0.14)
    assert less == pytest.approx(takes_off, abs=5e-7)


def test_gauge_circle_takes_off() -> None:
    """Derived by hand: a 0.140 gauge circle on a 5/16 ball."""
    end = RodEnd("ball", BALL)
    less = end.reach_in("theoretical", 0.14) - end.reach_in("gauge", 0.14)
    assert less == pytest.approx(0.016557, abs=5e-7)


def test_cup_is_measured_over_a_whole_seated_ball() -> None:
    cup = RodEnd("cup", BALL, 0.0)
    assert cup.reach_in("measured", 0.14) == BALL / 2
    ends = RodEnds(RodEnd("ball", BALL, 0.1), cup)
    assert convert(7.4, "centre", "measured", ends) == pytest.approx(7.4 + 0.3125 - 0.008216)


ends = st.builds(
    RodEnd,
    st.sampled_from(["ball", "cup"]),
    st.floats(0.2, 0.5),
    st.floats(0.0, 0.15),
)
names = st.sampled_from(list(CONVENTIONS))


@given(st.floats(3, 16), names, names, names, ends, ends)
def test_conversions_close(length: float, a: str, b: str, c: str, one: RodEnd, two: RodEnd) -> None:
    """There and back is nothing; by way of a third convention changes nothing."""
    rod = RodEnds(one, two)
    to = convert(length, a, b, rod)  # type: ignore[arg-type]
    assert convert(to, b, a, rod) == pytest.approx(length, abs=1e-12)  # type: ignore[arg-type]
    by_way = convert(convert(length, a, c, rod), c, b, rod)  # type: ignore[arg-type]
    assert by_way == pytest.approx(to, abs=1e-12)


@given(ends, ends)
def test_conventions_are_ordered(one: RodEnd, two: RodEnd) -> None:
    rod = RodEnds(one, two)
    centre, measured, theoretical = (
        rod.added_in(c)
        for c in ("centre", "measured", "theoretical")  # type: ignore[arg-type]
    )
    assert centre == 0.0
    assert centre < measured <= theoretical


def test_refuses_what_does_not_fit_the_ball() -> None:
    with pytest.raises(InputError, match="Oil hole"):
        RodEnd("ball", 0.2, 0.25)
    with pytest.raises(InputError, match="Gauge circle"):
        RodEnd("ball", 0.2).reach_in("gauge", 0.25)
