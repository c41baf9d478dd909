"""The registry of ways of measuring: every entry whole, every figure checked, none left out."""

from dataclasses import replace
from typing import get_args

import pytest

from vivid_arm.core.errors import InputError
from vivid_arm.core.zero_lash.methods import MeasuringMethod, Source, lever_in
from vivid_arm.core.zero_lash.ways import MEASURING_WAYS, Figures

READ = Figures(
    1.6, (8.55, 8.551), turns=0.75, push_in=0.045, gap_in=0.04, pitch_in=0.05, travel_in=0.125,
    rod_in=8.6, own=Source("caliper", 0.001),
)  # fmt: skip


def test_every_method_has_its_entry() -> None:
    assert set(MEASURING_WAYS) == set(get_args(MeasuringMethod))
    for way in MEASURING_WAYS.values():
        assert way.ask
        assert str(way.how).endswith(".")
        assert "zero lash" in str(way.formula)


@pytest.mark.parametrize(
    ("code", "zero_lash", "preload"),
    [
        ("extend", 8.5505, None),
        ("turns", 8.6 - lever_in(0.0375, 1.6), lever_in(0.0375, 1.6)),
        ("indicator", 8.555, 0.045),
        ("gap_short", 8.6 + 0.025, None),
        ("gap_bottomed", 8.6 - (0.125 - 0.025), 0.125 - 0.025),
    ],
)
def test_what_each_way_gives(
    code: MeasuringMethod, zero_lash: float, preload: float | None
) -> None:
    """Derived by hand: mean; turns x pitch x (1 + 1/R0); the push; gap / R0."""
    found = MEASURING_WAYS[code].worked_out(READ)
    assert found.zero_lash_in == pytest.approx(zero_lash)
    assert found.preload_in == (None if preload is None else pytest.approx(preload))
    assert found.method == code


@pytest.mark.parametrize("code", MEASURING_WAYS)
def test_what_was_not_read_is_asked_for(code: MeasuringMethod) -> None:
    way = MEASURING_WAYS[code]
    missing = () if way.column == "repeats" else None
    with pytest.raises(InputError) as refused:
        way.worked_out(replace(READ, **{way.column: missing}))
    assert refused.value.code in ("empty", "out_of_range")


@pytest.mark.parametrize(
    ("code", "change", "says"),
    [
        ("gap_short", {"gap_in": 0.9}, "Gap at the tip: 0.9000 in is outside"),
        ("gap_short", {"rod_in": None}, "The rod's length is empty"),
        ("gap_short", {"rod_in": 2.0}, "Rod length: 2.0000 in is outside"),
        ("turns", {"pitch_in": 0.5}, "Thread pitch: 0.5000 in is outside"),
        ("turns", {"turns": 9.0}, "Fastener turns: 9 is outside 0 to 5"),
        ("indicator", {"push_in": 0.6}, "Indicator reading: 0.6000 in is outside"),
        ("extend", {"repeats": (2.0,)}, "Rod length: 2.0000 in is outside"),
        ("gap_bottomed", {"gap_in": 0.3}, "more than 125 thou of travel allows"),
    ],
)
def test_a_figure_out_of_range_is_named(
    code: MeasuringMethod, change: dict[str, float | None], says: str
) -> None:
    with pytest.raises(InputError, match=says):
        MEASURING_WAYS[code].worked_out(replace(READ, **change))  # type: ignore[arg-type]
