"""The dimension sheet: starting values make rockers that stand right until measured."""

from math import hypot

import numpy as np
import pytest

from vivid_arm.core.errors import InputError
from vivid_arm.core.rocker.marks import view
from vivid_arm.core.rocker.mechanism import run
from vivid_arm.core.rocker.sheet import (
    DIMENSIONS,
    ROCKERS,
    UNKNOWNS,
    Rocker,
    Sheet,
    starting_sheet,
    with_measured,
)
from vivid_arm.core.words import within_a_sentence


def start(rocker: Rocker, **more: float) -> Sheet:
    given = {"ratio": 1.6, "stem_in": 0.3415, "rod_in": 7.6, "net_lift_in": 0.5, **more}
    return starting_sheet(rocker, **given)  # type: ignore[arg-type]


@pytest.mark.parametrize("rocker", sorted(ROCKERS))
@pytest.mark.parametrize("ratio", [1.2, 1.5, 1.8])
def test_an_unseen_rocker_stands_right_by_both_schools(rocker: Rocker, ratio: float) -> None:
    """Mid-lift error and the mark's middle are zero before anything is seen."""
    sheet = start(rocker, ratio=ratio, net_lift_in=0.3 * ratio)
    seen = view(sheet, sheet.prior[0][None], np.array([sheet.rod_in if sheet.stud else 0.0]))
    assert float(seen.error[0, 0]) == pytest.approx(0, abs=2e-4)
    assert float(seen.inboard[0, 0] + seen.outboard[0, 0]) == pytest.approx(0, abs=2e-4)


@pytest.mark.parametrize("rocker", sorted(ROCKERS))
def test_the_mechanism_is_the_sheets(rocker: Rocker) -> None:
    """Rod length, lean and offset come back; the lift is near the catalogue's."""
    sheet = with_measured(
        starting_sheet(
            rocker, 1.6, stem_in=0.3415, rod_in=7.6, lobe_lift_in=0.32, lifter_deg=6, offset_in=0.3
        ),
        {"lean_deg": (3.0, 0.5)},
    )
    found = sheet.mechanism(sheet.prior[0])
    assert found.rod_in == pytest.approx(7.6, abs=1e-9)
    motion = run(found, np.array([0.0, 0.32]))
    assert motion.valve_in[1] == pytest.approx(0.32 * 1.6, rel=0.13)
    in_plane = np.degrees(
        np.arcsin(hypot(np.sin(np.radians(3)) * np.sqrt(7.6**2 - 0.09), 0.3) / 7.6)
    )
    assert motion.rod_deg[0] == pytest.approx(in_plane, abs=0.01)
    assert (found.stud, found.tip) == (rocker.endswith("stud"), rocker.split("_")[0])


def test_the_lobe_comes_from_card_then_net_lift_then_a_usual_one() -> None:
    both = start("roller_shaft", lobe_lift_in=0.35)
    assert (both.lobe_lift_in.value, both.lobe_lift_in.u) == (0.35, 0.002)
    net = start("roller_shaft").lobe_lift_in
    assert net.value == pytest.approx(0.5 / 1.6)
    nothing = starting_sheet("roller_shaft", 1.6, stem_in=0.34, rod_in=7.6).lobe_lift_in
    assert nothing.u > 5 * net.u > 5 * 0.002


def test_measured_dimensions_replace_starting_ones() -> None:
    sheet = with_measured(start("roller_stud"), {"arm_in": (1.512, 0.004), "axis_deg": (6.0, 0.5)})
    assert sheet.measured == ("arm_in", "axis_deg")
    mean, sd = sheet.prior
    at = UNKNOWNS.index("arm_in")
    assert (mean[at], sd[at]) == (1.512, 0.004)
    assert sheet.known("bend_deg").measured is False


@pytest.mark.parametrize("name", sorted(DIMENSIONS))
def test_every_dimension_has_its_limits(name: str) -> None:
    """Just outside is refused by name, just inside is taken; the words say how to measure it."""
    field = DIMENSIONS[name]  # type: ignore[index]
    sheet = start("roller_shaft")
    for value in (field.low, field.high):
        inside = with_measured(sheet, {name: (value, field.measured_u)})  # type: ignore[dict-item]
        assert inside.known(name).value == value  # type: ignore[arg-type]
    for value in (field.low - 0.01, field.high + 0.01):
        with pytest.raises(InputError) as raised:
            with_measured(sheet, {name: (value, field.measured_u)})  # type: ignore[dict-item]
        assert raised.value.field == name
        assert within_a_sentence(field.how) in str(raised.value)
    with pytest.raises(InputError, match=r"known within: -0\.1"):
        with_measured(sheet, {name: (field.high, -0.1)})  # type: ignore[dict-item]


def test_a_mechanism_that_cannot_stand_is_refused() -> None:
    sheet = start("roller_shaft")
    wrong = sheet.prior[0].copy()
    wrong[0] = 1.9
    with pytest.raises(InputError, match="cannot stand on the closed tip"):
        sheet.mechanism(wrong)
