"""Engine layouts against facts of the trade (common practice, no source)."""

from collections import Counter
from dataclasses import replace

import pytest

from vivid_arm.core.engine.layout import (
    LAYOUTS,
    PRESETS,
    Engine,
    engine_from,
    parse_firing_order,
    usual_engine,
)
from vivid_arm.core.errors import InputError


def v8() -> Engine:
    return usual_engine("v", 8)


def test_banks_of_a_v8_numbered_across_and_along() -> None:
    """Odd cylinders on one bank, even on the other; or 1 to 4 and 5 to 8 (common practice)."""
    across = {h.bank: h.cylinders for h in v8().heads}
    assert across == {"left bank": (1, 3, 5, 7), "right bank": (2, 4, 6, 8)}
    along = replace(v8(), numbering="along", first_bank="right")
    assert [h.cylinders for h in along.heads] == [(5, 6, 7, 8), (1, 2, 3, 4)]


def test_valve_order_names_every_valve_once_in_its_place() -> None:
    left = v8().heads[0]
    assert left.valves[:4] == ((1, "exhaust"), (1, "intake"), (3, "intake"), (3, "exhaust"))
    seen = Counter(v for head in v8().heads for v in head.valves)
    assert len(seen) == 16
    assert set(seen.values()) == {1}
    assert left.place(1) == 0
    assert left.place(7) == 1


def test_even_v8_fires_every_90_degrees_and_odd_twin_does_not() -> None:
    assert v8().firing_tdc_deg == {1: 0, 8: 90, 4: 180, 3: 270, 6: 360, 5: 450, 7: 540, 2: 630}
    assert set(v8().intervals_deg) == {90}
    twin = usual_engine("v", 2)
    assert twin.firing_tdc_deg == {1: 0, 2: 405}
    assert twin.intervals_deg == (405, 315)


@pytest.mark.parametrize("preset", PRESETS, ids=lambda p: p.words)
def test_every_preset_is_a_whole_engine(preset: object) -> None:
    engine = engine_from(preset)  # type: ignore[arg-type]
    assert sum(engine.intervals_deg) == pytest.approx(720)
    assert sum(len(h.valves) for h in engine.heads) == 2 * engine.cylinders


def test_every_layout_has_a_preset() -> None:
    for layout, (_, counts) in LAYOUTS.items():
        for count in counts:
            assert usual_engine(layout, count).cylinders == count


@pytest.mark.parametrize(
    ("change", "field", "says"),
    [
        ({"firing_order": (1, 8, 4, 3, 6, 5, 7, 7)}, "firing_order", "7 twice; 2 missing"),
        ({"firing_order": (1, 8, 4, 3, 6, 5, 7)}, "firing_order", "2 missing"),
        ({"firing_order": (1, 8, 4, 3, 6, 5, 7, 9)}, "firing_order", "no cylinder 9"),
        ({"intervals_deg": (90.0,) * 7 + (80.0,)}, "intervals_deg", "710°, not to 720°"),
        ({"intervals_deg": (90.0,) * 7}, "intervals_deg", "7 given for 8"),
        ({"intervals_deg": (0.0,) + (90.0,) * 6 + (180.0,)}, "intervals_deg", "above zero"),
        ({"valve_orders": ("EIIEEIIE", "EIIEEIIX")}, "valve_orders", "EIIEEIIX"),
        ({"valve_orders": ("EIIEEIIE", "EEIIEIIE")}, "valve_orders", "one I and one E"),
        ({"valve_orders": ("EIIEEIIE",)}, "valve_orders", "1 given for 2 heads"),
        ({"bank_angle_deg": 200.0}, "bank_angle_deg", "200°"),
    ],
)
def test_an_engine_that_cannot_be_is_refused(
    change: dict[str, object], field: str, says: str
) -> None:
    with pytest.raises(InputError, match=says) as refused:
        replace(v8(), **change)  # type: ignore[arg-type]
    assert refused.value.field == field


def test_firing_order_is_read_as_typed() -> None:
    assert parse_firing_order(" 1 – 5, 3 6-2 4 ") == (1, 5, 3, 6, 2, 4)
    with pytest.raises(InputError, match="is one number") as refused:
        parse_firing_order("1342")
    assert refused.value.suggestion is not None
    assert refused.value.suggestion.text == "1-3-4-2"
    for bad in ("", "one", "1-3-x"):
        with pytest.raises(InputError, match="not a list of cylinders"):
            parse_firing_order(bad)
