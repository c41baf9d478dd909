"""Typed lengths: what is read, what is refused, and what is suggested instead."""

import re
from collections.abc import Callable, Iterator
from contextlib import suppress
from decimal import Decimal
from functools import partial

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vivid_arm.core.entry.instruments import CheckingRod, RodSetting, setting_of
from vivid_arm.core.entry.lengths import (
    FIELDS,
    MM_PER_INCH,
    check_range,
    format_length,
    format_small,
    format_turns,
    parse_bolts,
    parse_clearances,
    parse_degrees,
    parse_heights,
    parse_length,
    parse_lengths,
    parse_pairs,
    parse_stack,
    parse_turns,
)
from vivid_arm.core.errors import InputError, within
from vivid_arm.core.words import Unit, language
from vivid_arm.languages import language_of

ROD = FIELDS["rod_length"]
PRELOAD = FIELDS["preload"]


def test_inch_is_exact() -> None:
    """Published: NIST SP 811, appendix B.8: 1 in = 25.4 mm exactly."""
    assert Decimal("25.4") == MM_PER_INCH
    assert parse_length("190.5 mm", ROD).inches == Decimal("7.5")


@pytest.mark.parametrize(
    ("text", "field", "inches"),
    [
        ("7.4075", ROD, "7.4075"),
        (" 7.4075 in ", ROD, "7.4075"),
        ('7.4075"', ROD, "7.4075"),
        ("7,4075", ROD, "7.4075"),
        (".070", PRELOAD, "0.070"),
        ("70 thou", PRELOAD, "0.070"),
        ("70thou", PRELOAD, "0.070"),
        ("1.778 MM", PRELOAD, "0.070"),
        ("188.15 mm", ROD, "7.407480"),  # derived by hand: 188.15 / 25.4
        ("7 5/16", ROD, "7.3125"),
        ("7-5/16 in", ROD, "7.3125"),
        ("7402 thou", ROD, "7.402"),
        ("0", PRELOAD, "0"),
    ],
)
def test_reads_what_builders_type(text: str, field: object, inches: str) -> None:
    assert parse_length(text, field).inches == Decimal(inches)  # type: ignore[arg-type]


def test_bare_figure_is_in_the_unit_in_use() -> None:
    assert parse_length("188.15", ROD, "mm").inches == Decimal("7.407480")


@pytest.mark.parametrize(
    ("text", "field", "unit", "suggested"),
    [
        ("7402", ROD, "in", "7.402 in"),
        ("70", ROD, "in", "7.0 in"),
        ("0.7", ROD, "in", "7.0 in"),
        ("74.02", ROD, "in", "7.402 in"),
        ("188.15", ROD, "in", "188.15 mm"),
        ("7.4075", ROD, "mm", "7.4075 in"),
        ("-0.05", PRELOAD, "in", "0.05 in"),
        # No clearance on an engine is 707 thou, though some are written so large.
        ("7070", FIELDS["clearance"], "in", "70.7 thou"),
    ],
)
def test_suggests_the_likely_slip(text: str, field: object, unit: str, suggested: str) -> None:
    with pytest.raises(InputError) as caught:
        parse_length(text, field, unit)  # type: ignore[arg-type]
    assert caught.value.suggestion is not None
    assert caught.value.suggestion.text == suggested
    again = parse_length(caught.value.suggestion.text, field)  # type: ignore[arg-type]
    assert again.inches > 0


@pytest.mark.parametrize(
    ("text", "unit", "slip"),
    [
        ("7.4750 7475", "in", "7475"),
        ("7475 7.4750", "in", "7475"),
        ("7.475, 7475; 7.5", "in", "7475"),
        ("188.5 1889", "mm", "1889"),
        ("7 19/32 7400", "in", "7400"),
    ],
)
def test_a_slip_among_several_lengths_is_named_alone(text: str, unit: Unit, slip: str) -> None:
    with pytest.raises(InputError) as caught:
        parse_lengths(text, ROD, unit)
    assert caught.value.received == slip
    assert caught.value.suggestion is not None


def test_whole_millimetres_are_several_lengths() -> None:
    read = parse_lengths("188 189 190", ROD, "mm")
    assert [round(float(p.inches) * 25.4, 3) for p in read] == [188.0, 189.0, 190.0]


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("", "empty"),
        ("   ", "empty"),
        ("long", "not_a_length"),
        ("7.4.1", "not_a_length"),
        ("7 5/0", "not_a_length"),
        ("7 ft", "not_a_length"),
        ("1e1", "not_a_length"),
        ("9" * 60, "not_a_length"),
        ("99999", "out_of_range"),
    ],
)
def test_refuses_with_field_and_remedy(text: str, code: str) -> None:
    with pytest.raises(InputError, match="Rod length") as caught:
        parse_length(text, ROD)
    assert caught.value.code == code
    assert caught.value.field == "rod_length"


def test_refusal_names_the_limit_in_the_unit_in_use() -> None:
    with pytest.raises(InputError, match=r"outside 76\.20 mm to 406\.40 mm"):
        parse_length("2000", ROD, "mm")


@given(st.integers(30000, 160000), st.sampled_from(["in", "mm"]))
def test_written_length_reads_back(tenths: int, unit: str) -> None:
    inches = tenths / 10000
    back = float(parse_length(format_length(inches, unit), ROD).inches)  # type: ignore[arg-type]
    assert back == pytest.approx(inches, abs=1e-9 if unit == "in" else 0.0002)


@given(st.integers(0, 2500))
def test_written_small_length_reads_back(tenths: int) -> None:
    inches = tenths / 10000
    assert float(parse_length(format_small(inches), PRELOAD).inches) == pytest.approx(inches)


@pytest.mark.parametrize(
    ("english", "read"),
    [
        ("Write two bolts like 1/2 and 3/4", parse_bolts),
        ("Write it like 0.250 0.276 over 1.5", parse_heights),
        ("Write it like -10 0.120; -5 0.102; 0 0.098", parse_clearances),
        ("Write it like 0.100 0.178; 0.200 0.350", lambda text: parse_pairs(text, FIELDS["lift"])),
    ],
)
def test_what_a_hint_says_to_write_is_read(english: str, read: Callable[[str], object]) -> None:
    """In German too, with its words and commas, and to the same figures."""
    german = language_of("de").texts.gettext(english)
    examples = [re.search(r"(?=[-\d]*\d).*\d", hint) for hint in (english, german)]
    first, other = (read(found[0]) for found in examples if found)
    assert german != english
    assert other == first


@pytest.mark.parametrize(
    ("typed", "turns"),
    [("9 5/8 Umdrehungen", 9.625), ("1/2 umdrehung", 0.5), ("9,625 Umdrehungen", 9.625)],
)
def test_turns_in_german(typed: str, turns: float) -> None:
    assert parse_turns(typed) == turns
    assert setting_of(CheckingRod(6.8, 0.05, 20), typed) == RodSetting(turns, None)


def test_a_length_in_german() -> None:
    assert parse_length("8,596 Zoll", ROD).inches == parse_length("8.596", ROD).inches
    with pytest.raises(InputError):
        parse_length("8,596 undZoll", ROD)


@pytest.mark.parametrize("unit", ["in", "mm"])
def test_a_length_written_in_german_reads_back(unit: Unit) -> None:
    before = language.set(language_of("de"))
    try:
        assert "," in format_length(8.596, unit)
        back = float(parse_length(format_length(8.596, unit), ROD).inches)
        assert float(parse_length(format_small(0.0625), PRELOAD).inches) == 0.0625
    finally:
        language.reset(before)
    assert back == pytest.approx(8.596, abs=0.0002)


@given(st.integers(0, 480))
def test_turns_read_back(eighths: int) -> None:
    assert parse_turns(format_turns(eighths / 8)) == eighths / 8


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("", "empty"),
        ("ten", "not a count"),
        ("-2", r"outside 0 to 60.*use 2"),
        ("61", "outside 0 to 60"),
        ("10.3", "not a whole number of eighths.*10 1/4"),
    ],
)
def test_refuses_turns(text: str, message: str) -> None:
    with pytest.raises(InputError, match=message):
        parse_turns(text)


DIGITS = st.text("0123456789", min_size=1, max_size=60)
TYPED = st.one_of(
    st.text("0123456789.,/ +-−½thoumin°'\"xe", max_size=60),
    st.builds("{}{}.{} {}".format, st.sampled_from(["", "-", "+"]), DIGITS, DIGITS,
              st.sampled_from(["", "mm", "in", "thou"])),
    st.builds("{} {}/{}".format, DIGITS, DIGITS, DIGITS),
)  # fmt: skip


@given(TYPED)
def test_whatever_is_typed_is_read_or_refused(text: str) -> None:
    """No text is an error of the program, however many digits it has."""
    of_field = (parse_length, parse_lengths, parse_stack, parse_pairs)
    ways: list[Callable[[], object]] = [partial(way, text, FIELDS[f]) for way in of_field
                                        for f in ("rod_length", "gap")]  # fmt: skip
    plain = (parse_degrees, parse_heights, parse_clearances, parse_turns, parse_bolts)
    ways += [partial(way, text) for way in plain]
    for way in ways:
        with suppress(InputError):
            way()


@pytest.mark.parametrize("minus", ["-", "−"])
def test_a_true_minus_is_read_like_a_typed_one(minus: str) -> None:
    """What the pages print can be copied into a field."""
    assert float(parse_length(f"{minus}0.020", FIELDS["mark_edge"]).inches) == -0.020
    assert float(parse_length(f"{minus}20 thou", FIELDS["mark_edge"]).inches) == -0.020
    assert parse_degrees(f"{minus}3.5°") == -3.5
    assert format_small(-0.020) == "−20 thou"


@pytest.fixture
def in_millimetres() -> Iterator[None]:
    before = language.set(language_of("en", "mm"))
    yield
    language.reset(before)


def test_what_is_said_to_whoever_works_in_millimetres(in_millimetres: None) -> None:
    assert (format_length(8.596), format_small(0.07)) == ("218.34 mm", "1.78 mm")
    assert format_small(0.07, "in") == "70 thou"
    with pytest.raises(
        InputError, match=r"Rod length: 25\.40 mm is outside 76\.20 mm to"
    ) as refused:
        check_range(1.0, FIELDS["rod_length"])
    assert refused.value.expected.endswith(" mm")
    with pytest.raises(InputError, match=r"Diameter: 25\.4 mm is outside 5\.08 to 19\.05 mm"):
        within("diameter_in", "Diameter", 1.0, 0.2, 0.75, " in")
