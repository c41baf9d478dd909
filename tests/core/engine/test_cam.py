"""Cam card, lobe model, lobe table."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from vivid_arm.core.engine.cam import (
    CHECKING_LIFT_IN,
    Arc,
    CamCard,
    Lobe,
    Profile,
    heel_arc,
    profile_of,
    ramp_below_deg,
    read_lobe_table,
    write_lobe_table,
)
from vivid_arm.core.errors import InputError

LOBE = Lobe(290, 0.006, 230, 0.353)
CARD = CamCard(LOBE, LOBE, 106, 110)


def duration_deg(profile: Profile, lift_in: float) -> float:
    """Independent: crank degrees above a lift, by SciPy's root finding (Brent)."""
    nose = float(profile.angle_deg[int(np.argmax(profile.lift_in))])

    def above(angle: float) -> float:
        return float(np.interp(angle, profile.angle_deg, profile.lift_in)) - lift_in

    return float(
        brentq(above, nose, profile.angle_deg[-1]) - brentq(above, profile.angle_deg[0], nose)
    )


def test_heel_windows_of_the_worked_card() -> None:
    """Derived by hand: ICL 106, LSA 110, both durations 290."""
    assert heel_arc(CARD, "intake") == Arc(251, 681)
    assert heel_arc(CARD, "exhaust") == Arc(31, 461)


@settings(max_examples=60, deadline=None)
@given(
    st.floats(230, 340),
    st.floats(25, 75),
    st.sampled_from([0.0, 0.004, 0.006, 0.020]),
    st.floats(0.2, 0.5),
)
def test_the_model_meets_both_durations_and_the_lift(
    advertised: float, less: float, at: float, lift: float
) -> None:
    lobe = Lobe(advertised, at, advertised - less, lift)
    profile = profile_of(lobe)
    assert profile.model
    assert profile.lift_in.max() == pytest.approx(lift, abs=1e-6)
    assert duration_deg(profile, CHECKING_LIFT_IN) == pytest.approx(advertised - less, abs=0.1)
    at_card = duration_deg(profile, at) if at else advertised
    assert at_card == pytest.approx(advertised, abs=0.1)
    half = profile.lift_in[: len(profile.lift_in) // 2 + 1]
    assert np.all(np.diff(half) >= -1e-9)


def test_a_table_goes_out_and_comes_back() -> None:
    text = write_lobe_table(profile_of(LOBE))
    table = read_lobe_table(text)
    again = profile_of(replace(LOBE, table=table))
    assert not again.model
    at = np.linspace(-160, 160, 99)
    was, now = (np.interp(at, p.angle_deg, p.lift_in) for p in (profile_of(LOBE), again))
    assert now == pytest.approx(was, abs=4e-5)
    assert heel_arc(replace(CARD, intake=replace(LOBE, table=table)), "intake").from_deg > 251


def test_cam_degrees_and_millimetres_are_carried_over() -> None:
    """One cam degree is two of the crank; an inch is 25.4 mm (NIST SP 811)."""
    half = [0, 0.02, 0.3, 2.0, 5.0, 7.5, 8.9]
    lifts = half + half[-2::-1]
    rows = "\n".join(f"{a * 5 - 30};{v}".replace(";", ",") for a, v in enumerate(lifts))
    table = read_lobe_table("cam_deg,lift_mm\n" + rows)
    assert table[0][0] == -60
    assert max(v for _, v in table) == pytest.approx(8.9 / 25.4, abs=1e-6)


GOOD = write_lobe_table(profile_of(LOBE)).splitlines()


@pytest.mark.parametrize(
    ("lines", "says"),
    [
        ([], "Line 1: the file is empty"),
        (["angle,height", *GOOD[1:]], "Line 1: the columns are angle, height"),
        ([*GOOD[:5], "12,abc", *GOOD[5:]], "Line 6: lift_in “abc” is not a number"),
        ([*GOOD[:5], "-400,0", *GOOD[5:]], "Line 6: crank_deg -400 does not rise"),
        (GOOD[:8], "7 points"),
        ([GOOD[0], *GOOD[60:]], "Line 2: the lobe starts or ends at"),
        ([*GOOD[:120], f"{float(GOOD[120].split(',')[0])},0.001", *GOOD[121:]],
         "Line 12[012]: lift .* turns back"),
    ],
)  # fmt: skip
def test_a_bad_table_is_refused_by_its_line(lines: list[str], says: str) -> None:
    with pytest.raises(InputError, match=says):
        read_lobe_table("\n".join(lines))


def test_cards_that_cannot_be_are_refused() -> None:
    with pytest.raises(InputError, match="is not below the advertised"):
        replace(LOBE, duration_050_deg=295)
    with pytest.raises(InputError, match="Lobe separation: 240°"):
        replace(CARD, lsa_deg=240)
    with pytest.raises(InputError, match="Lobe lift: 353 in"):
        replace(LOBE, lobe_lift_in=353)


@pytest.mark.parametrize("at", [0.020, 0.040, 0.049])
def test_a_duration_stated_high_up_is_not_the_heel(at: float) -> None:
    """No stop called safe has its lifter up by the lobe itself (15 thou before)."""
    lobe = Lobe(245, at, 230, 0.347)
    card = CamCard(lobe, lobe, 106, 110)
    arc = heel_arc(card, "intake")
    profile = profile_of(lobe)
    edges = [arc.from_deg - 106, arc.to_deg - 720 - 106]
    up = np.interp([abs(e) for e in edges], profile.angle_deg, profile.lift_in)
    assert up.max() <= 0.00101
    assert ramp_below_deg(lobe) > 30
    low = Lobe(286, 0.006, 230, 0.347)
    assert ramp_below_deg(low) == 0
    assert profile.span_deg(0.050)[1] == pytest.approx(115, abs=0.01)
    assert profile.span_deg(at)[1] == pytest.approx(122.5, abs=0.01)
