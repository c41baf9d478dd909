"""Prediction from what changed: signs and amounts of the trade (common practice)."""

from math import sqrt

import pytest
from uncertainties import ufloat

from vivid_arm.core.errors import InputError
from vivid_arm.core.zero_lash.bracket import USUAL_FEELING
from vivid_arm.core.zero_lash.predict import Amount, factor, predict


@pytest.mark.parametrize(
    ("change", "fixed", "stud"),
    [
        ("base_circle", -0.5, -0.5),
        ("seat_height", -1, -1),
        ("deck", -1, -1),
        ("head", -1, -1),
        ("gasket", -1, -1),
        ("stem", -1 / 1.6, 1),
        ("stand", 1 + 1 / 1.6, 0),
    ],
)
def test_factors(change: str, fixed: float, stud: float) -> None:
    """Common practice: the trade's table, one unit up, fulcrum fixed or following the tip."""
    for mount in ("pedestal", "shaft", "shaft_adjustable", "stands"):
        assert factor(change, mount, 1.6) == pytest.approx(fixed)  # type: ignore[arg-type]
    assert factor(change, "stud", 1.6) == pytest.approx(stud)  # type: ignore[arg-type]


def test_a_regrind_and_a_milled_head_add_up() -> None:
    """Derived by hand: base circle 0.040 smaller +0.020, head 0.010 milled -0.010."""
    changes = {"base_circle": Amount(-0.040), "head": Amount(0.010)}
    found = predict(7.300, changes, "pedestal", 1.6)  # type: ignore[arg-type]
    assert found.zero_lash_in == pytest.approx(7.310)
    assert found.u_in == 0
    assert [t.effect_in for t in found.terms] == pytest.approx([0.020, -0.010])


@pytest.mark.parametrize("mount", ["stud", "pedestal"])
def test_uncertainty_equals_the_uncertainties_package(mount: str) -> None:
    """Independent: linear propagation by `uncertainties`; rectangular limits, one ratio for all."""
    changes = {"stem": Amount(0.030, 0.005), "stand": Amount(0.060, 0.002), "deck": Amount(0.010)}
    found = predict(7.3, changes, mount, 1.6, 0.003)  # type: ignore[arg-type]
    r = ufloat(1.6, 1.6 * USUAL_FEELING.ratio_sd)
    stem, stand = ufloat(0.030, 0.005 / sqrt(3)), ufloat(0.060, 0.002 / sqrt(3))
    known = ufloat(7.3, 0.003 / sqrt(3))
    total = known - 0.010 + (stem if mount == "stud" else -stem / r + stand * (1 + 1 / r))
    assert found.zero_lash_in == pytest.approx(total.nominal_value)
    assert found.u_in == pytest.approx(total.std_dev, rel=1e-6)


def test_a_dimension_in_place_of_a_difference_is_refused() -> None:
    with pytest.raises(InputError, match="is more than"):
        Amount(1.040)
