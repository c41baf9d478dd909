"""Typed lengths and turns: read what a builder types, check it, write it back.

One inch is 25.4 mm exactly (NIST SP 811, appendix B.8); a thou is 0.001 in.

Source: as above; the ranges of the fields are common practice.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from math import atan2, copysign, degrees, inf

from vivid_arm.core.errors import InputError, Suggestion
from vivid_arm.core.words import Saying, Unit, figure, language, say

MM_PER_INCH = Decimal("25.4")
_STORED = Decimal("0.000001")
_LONGEST_TEXT = 40

_UNITS: dict[str, tuple[str, Decimal]] = {
    "in": ("in", Decimal(1)),
    "inch": ("in", Decimal(1)),
    "inches": ("in", Decimal(1)),
    '"': ("in", Decimal(1)),
    "″": ("in", Decimal(1)),
    "thou": ("thou", Decimal("0.001")),
    "mm": ("mm", 1 / MM_PER_INCH),
}
_DECIMAL = re.compile(r"^([+-]?)(\d+(?:[.,]\d*)?|[.,]\d+)$")
_FRACTION = re.compile(r"^([+-]?)(?:(\d+)[ +-]+)?(\d+)/(\d+)$")
_BETWEEN = re.compile(r"\s*[;\n\t\r]+\s*|\s+(?=\d*[.,]\d|\d+\s+\d+/\d|\d{3,}(?![\d/]))")
_COMMA_BETWEEN = re.compile(r"([./]\d+),|,(?=\s)")
_SPLIT = re.compile(r"^(.*?)\s*(in|inch|inches|\"|″|thou|mm)?$", re.IGNORECASE)


@dataclass(frozen=True)
class LengthField:
    """A length that can be typed: its names and its closed range in inches.

    ``usual_in``: the most of it that is met on engines, where the range goes well beyond: no
    slip is taken for more.
    """

    name: str
    label: Saying
    low_in: float
    high_in: float
    usual_in: float = inf


FIELDS: dict[str, LengthField] = {
    f.name: f
    for f in (
        LengthField("rod_length", Saying("Rod length"), 3.0, 16.0),
        LengthField("closed_length", Saying("Closed length"), 3.0, 16.0),
        LengthField("thread_pitch", Saying("Thread pitch"), 0.010, 0.125),
        LengthField("caliper_low", Saying("Caliper range from"), 0.0, 16.0),
        LengthField("caliper_high", Saying("Caliper range to"), 3.0, 40.0),
        LengthField("accuracy", Saying("Accuracy"), 0.0, 0.050),
        LengthField("preload", Saying("Preload"), 0.0, 0.250),
        LengthField("travel", Saying("Plunger travel"), 0.020, 0.400),
        LengthField("gap", Saying("Gap at the tip"), 0.0005, 0.500),
        LengthField("stock_step", Saying("Stock step"), 0.001, 0.250),
        LengthField("ball", Saying("Ball diameter"), 0.150, 0.750),
        LengthField("oil_hole", Saying("Oil hole"), 0.0, 0.250),
        LengthField("gauge_circle", Saying("Gauge circle"), 0.010, 0.700),
        LengthField("push", Saying("Indicator reading"), 0.0, 0.400),
        LengthField("resolution", Saying("Resolution"), 0.0, 0.010),
        LengthField("seat_height", Saying("Lifter seat height"), 0.2, 4.0),
        LengthField("lash", Saying("Lash"), 0.0, 0.060),
        LengthField("change", Saying("Change"), -0.5, 0.5),
        LengthField("within", Saying("Known within"), 0.0, 0.5),
        LengthField("lobe_lift", Saying("Lobe lift"), 0.100, 0.800),
        LengthField("advertised_at", Saying("Lift of the advertised duration"), 0.0, 0.049),
        LengthField("base_circle", Saying("Base circle diameter"), 0.300, 3.0),
        LengthField("tip_diameter", Saying("Tip diameter"), 0.200, 0.500),
        LengthField("mark_edge", Saying("Edge of the mark"), -0.250, 0.500),
        LengthField("mark_width", Saying("Width of the mark"), 0.002, 0.400),
        LengthField("across", Saying("Middle of the mark, sideways"), -0.250, 0.250),
        LengthField("sink", Saying("The plunger's sink"), 0.0, 0.250),
        LengthField("arm_height", Saying("Height of the arm"), 0.0, 6.0),
        LengthField("rod_step", Saying("Step of the rod"), -1.0, 1.0),
        LengthField("net_lift", Saying("Net lift"), 0.100, 1.000),
        LengthField("lift", Saying("Lift"), 0.005, 1.000),
        LengthField("shim", Saying("Shim"), -0.250, 0.500),
        LengthField("shim_step", Saying("Shim step"), 0.001, 0.100),
        LengthField("arm", Saying("Arm"), 0.5, 3.0),
        LengthField("tip_radius", Saying("Radius of roller or shoe"), 0.1, 3.0),
        LengthField("film", Saying("Width the marker film adds"), 0.0, 0.030),
        LengthField("offset", Saying("Offset of the rod"), -1.0, 1.0),
        LengthField("rod_diameter", Saying("Rod diameter"), 0.2, 0.75),
        LengthField("wall", Saying("Wall"), 0.02, 0.375),
        LengthField("clearance", Saying("Clearance"), 0.0, 1.0, usual_in=0.3),
        LengthField("tolerance", Saying("Length tolerance"), 0.0, 0.050),
        LengthField("part_height", Saying("Height of the part"), 0.0, 16.0),
        LengthField("tube", Saying("Tube"), 2.0, 16.0),
        LengthField("bar", Saying("Bar of tube"), 6.0, 480.0),
        LengthField("kerf", Saying("Saw kerf"), 0.0, 0.5),
    )
}


SMALL = frozenset(
    {
        "accuracy", "across", "change", "clearance", "film", "gap", "lash", "mark_edge",
        "mark_width", "preload", "push", "rod_step", "shim", "shim_step", "sink", "stock_step",
        "tolerance", "travel", "within",
    }
)  # fmt: skip
"""Fields that can only be small: a bare 41 is 41 thou there, as it is said at the bench."""


@dataclass(frozen=True)
class ParsedLength:
    """A typed length: exact inches (to a millionth), its unit, the raw text."""

    inches: Decimal
    unit: str
    raw: str


def parse_length(text: str, field: LengthField, unit: Unit = "in") -> ParsedLength:
    """Read a typed length and check it against its field.

    A figure without a unit is in ``unit``; in a field that can only be small one of 1 or
    more is thou where inches are meant. Understood: ``8.5960``, ``.045``, ``45 thou``,
    ``218.34 mm``, ``8 19/32``; a comma is a decimal point.

    >>> parse_length("8 19/32", FIELDS["rod_length"]).inches
    Decimal('8.593750')
    >>> parse_length("218.34 mm", FIELDS["rod_length"]).inches
    Decimal('8.596063')
    >>> parse_length("41", FIELDS["gap"]).inches, parse_length(".041", FIELDS["gap"]).inches
    (Decimal('0.041000'), Decimal('0.041000'))

    Raises InputError for an empty field, text that is no length, a negative
    length, or one outside the field's range; the error suggests the likely
    slip (thou typed as inches, a lost decimal point, the other unit).
    """
    raw = text.strip()
    if not raw:
        raise InputError(
            field.name,
            say("{label} is empty", label=field.label),
            received=text,
            expected=say("a length"),
            remedy=say("Type a length such as 8.5960, 45 thou, 218.34 mm or 8 19/32"),
            code="empty",
        )
    body, typed_unit = _split_unit(raw)
    value = _number(body) if len(raw) <= _LONGEST_TEXT else None
    if value is None:
        raise InputError(
            field.name,
            say("{label}: “{raw}” is not a length", label=field.label, raw=raw[:_LONGEST_TEXT]),
            received=text,
            expected=say("a length"),
            remedy=say("Write it like 8.5960, 45 thou, 218.34 mm or 8 19/32"),
            code="not_a_length",
        )
    if typed_unit == "mm" and field.name in SMALL and re.match(r"[+-]?\.\d{3}", body):
        raise _which_unit(field, raw, body)
    if not typed_unit and unit == "in" and field.name in SMALL and abs(value) >= 1:
        typed_unit = "thou"
    name, factor = _UNITS[typed_unit or unit]
    check_range(float(value * factor), field, unit=unit, typed=(value, raw, name))
    inches = (value * factor).quantize(_STORED)
    check_range(float(inches), field, unit=unit, typed=(value, raw, name))
    return ParsedLength(inches, name, raw)


def _which_unit(field: LengthField, raw: str, body: str) -> InputError:
    """Three places after a bare point are written for inches, and "mm" stands behind them."""
    thou = (_number(body) or Decimal(0)) / MM_PER_INCH * 1000
    sign = "-" if body.startswith("-") else ""
    return InputError(
        field.name,
        say(
            "{label}: {raw} would be {thou} thou; were inches meant?",
            label=field.label,
            raw=raw,
            thou=figure(abs(thou), ".1f"),
        ),
        received=raw,
        expected=say("inches, or millimetres with a figure before the point"),
        remedy=say(
            "If it is millimetres, write {sign}0{value} mm", sign=sign, value=body.lstrip("+-")
        ),
        suggestion=Suggestion(
            say("{body} in", body=body), say("{body} looks like inches", body=body)
        ),
        code="which_unit",
    )


def check_range(
    inches: float,
    field: LengthField,
    *,
    unit: Unit | None = None,
    typed: tuple[Decimal, str, str] | None = None,
) -> float:
    """Return ``inches`` when it lies in the field's closed range.

    ``typed`` is (number, text, unit) as typed, for the suggestion. Raises
    InputError that names field, limit and likely slip, without ``unit`` in that of
    whoever is answered.
    """
    unit = unit or language.get().unit
    tolerance = 1e-9
    if field.low_in - tolerance <= inches <= field.high_in + tolerance:
        return inches
    number, raw, named = typed or (
        Decimal(str(inches if unit == "in" else round(inches * float(MM_PER_INCH), 2))),
        format_length(inches, unit),
        unit,
    )
    shown = raw if raw.lower().endswith(tuple(_UNITS)) else f"{raw} {named}"
    low, high = format_length(field.low_in, unit), format_length(field.high_in, unit)
    if number < 0:
        message = say("{label} cannot be negative: {shown}", label=field.label, shown=shown)
    else:
        message = say(
            "{label}: {shown} is outside {low} to {high}",
            label=field.label,
            shown=shown,
            low=low,
            high=high,
        )
    raise InputError(
        field.name,
        message,
        received=raw,
        expected=say("{low} to {high}", low=low, high=high),
        remedy=say("Check the figure and its unit"),
        suggestion=_likely_slip(abs(number), raw, named, field),
        code="out_of_range",
    )


def parse_lengths(text: str, field: LengthField, unit: Unit = "in") -> list[ParsedLength]:
    """Read several readings, parted by blanks, lines, semicolons or commas.

    A comma within a figure is its decimal point; one that follows a figure with a point or a
    fraction, or stands before a blank, parts two. Raises InputError for each.

    >>> [str(p.inches) for p in parse_lengths("8.601 8.6025; 8 19/32", FIELDS["rod_length"])]
    ['8.601000', '8.602500', '8.593750']
    >>> [str(p.inches) for p in parse_lengths("7,400 7,425, 7 3/8", FIELDS["rod_length"])]
    ['7.400000', '7.425000', '7.375000']
    >>> [str(p.inches) for p in parse_lengths("188 mm 7.4", FIELDS["rod_length"])]
    ['7.401575', '7.400000']
    """
    parted = _COMMA_BETWEEN.sub(lambda m: f"{m[1] or ''};", text.strip())
    parts = [p for p in _BETWEEN.split(parted) if p] or [""]
    return [parse_length(part, field, unit) for part in parts]


def parse_stack(text: str, field: LengthField, unit: Unit = "in") -> Decimal:
    """Read a length that may be a sum, as of stacked feelers; inches. Raises InputError.

    >>> parse_stack("0.040 + 25 thou", FIELDS["gap"])
    Decimal('0.065000')
    """
    parts = [parse_length(part, field, unit).inches for part in text.split("+")]
    total = sum(parts, Decimal(0))
    check_range(float(total), field, unit=unit)
    return total


def parse_degrees(text: str) -> float:
    """Read a typed angle in degrees: ``1.5``, ``-0,5°``; ``90`` is a square arm, 0.

    >>> parse_degrees("-1.5°")
    -1.5

    Raises InputError for anything else, or more than 40 either way.
    """
    raw = text.strip()
    value = _number(raw.rstrip("°").strip()) if len(raw) <= _LONGEST_TEXT else None
    if value == 90:
        return 0.0
    if value is None or abs(value) > _MOST_DEGREES:
        raise InputError(
            "angle",
            say(
                "Angle: “{raw}” is not an angle within {most_degrees}°",
                raw=raw[:_LONGEST_TEXT],
                most_degrees=_MOST_DEGREES,
            ),
            received=text,
            expected=say(
                "-{most} to {most} degrees",
                most=_MOST_DEGREES,
            ),
            remedy=say("Type degrees off square, such as 1.5; tip end low is below zero"),
            code="not_an_angle",
        )
    return float(value)


_MOST_DEGREES = 40


def parse_heights(text: str, unit: Unit = "in") -> float:
    """Read an arm's angle from two heights over a distance, degrees; axle end high positive.

    >>> round(parse_heights("0.250 0.276 over 1.5"), 3)
    0.993

    Raises InputError where it is not two heights and a distance.
    """
    heights, _, apart = typed_plainly(text).replace("/", " over ").partition(" over ")
    read = [float(p.inches) for p in parse_lengths(heights, FIELDS["arm_height"], unit)]
    over = float(parse_length(apart, FIELDS["arm"], unit).inches) if apart.strip() else 0.0
    if len(read) != 2 or not over or abs(read[1] - read[0]) > over / 2:
        raise InputError(
            "heights",
            say("“{typed}” is not two heights over a distance", typed=text[:_LONGEST_TEXT]),
            received=text,
            expected=say("height at the fulcrum, at the axle, over their distance"),
            remedy=say("Write it like 0.250 0.276 over 1.5"),
            code="not_heights",
        )
    return degrees(atan2(read[1] - read[0], over))


def parse_clearances(text: str, unit: Unit = "in") -> list[tuple[float, float]]:
    """Read a table of crank degrees and clearance, rows parted by semicolons or lines.

    >>> parse_clearances("-10 0.120; -5 0.102; 0 98 thou")
    [(-10.0, 0.12), (-5.0, 0.102), (0.0, 0.098)]

    Raises InputError for a row that is not an angle within 60 degrees and a length.
    """
    found = []
    for row in filter(None, (r.strip() for r in re.split(r"[;\n]", text))):
        angle, _, gap = row.partition(" ")
        value = _number(angle.rstrip("°")) if len(angle) < 10 else None
        if value is None or abs(value) > 60 or not gap.strip():
            raise InputError(
                "table",
                say("“{row}” is not crank degrees and a clearance", row=row[:_LONGEST_TEXT]),
                received=row,
                expected=say("two figures a row, degrees within 60 of TDC"),
                remedy=say("Write it like -10 0.120; -5 0.102; 0 0.098"),
                code="not_a_table",
            )
        found.append((float(value), float(parse_length(gap, FIELDS["clearance"], unit).inches)))
    return found


def parse_pairs(text: str, field: LengthField, unit: Unit = "in") -> list[tuple[float, float]]:
    """Read pairs of lengths: two a pair, pairs parted by semicolons.

    >>> parse_pairs("0.100 0.178; 0.200 0.350", FIELDS["lift"])
    [(0.1, 0.178), (0.2, 0.35)]

    Raises InputError for a pair that is not two lengths.
    """
    found = []
    for part in filter(None, (p.strip() for p in text.split(";"))):
        lengths = [float(p.inches) for p in parse_lengths(part, field, unit)]
        if len(lengths) != 2:
            raise InputError(
                "pairs",
                say("“{part}” is not a pair of lifts", part=part[:_LONGEST_TEXT]),
                received=part,
                expected=say("lobe lift, then valve lift"),
                remedy=say("Write it like 0.100 0.178; 0.200 0.350"),
                code="not_a_pair",
            )
        found.append((lengths[0], lengths[1]))
    return found


_TYPED = {"umdrehung": "turn", "umdrehungen": "turns", "zoll": "in", "und": "and", "über": "over"}
_GERMAN = re.compile(r"(?<![^\W\d])(umdrehung(?:en)?|zoll|und|über)\b", re.IGNORECASE)


def typed_plainly(text: str) -> str:
    """What was typed into a field of figures, its German words as the English ones that are read.

    >>> typed_plainly("1/2 und 3/4 Umdrehungen"), typed_plainly("8,6zoll")
    ('1/2 and 3/4 turns', '8,6in')
    """
    return _GERMAN.sub(lambda found: _TYPED[found[0].lower()], text)


def _split_unit(raw: str) -> tuple[str, str]:
    match = _SPLIT.match(typed_plainly(raw))
    if not match:
        return raw, ""
    return match.group(1).strip(), (match.group(2) or "").lower()


_VULGAR = {ord(c): f" {top}/{bottom}" for c, top, bottom in (
    ("¼", 1, 4), ("½", 1, 2), ("¾", 3, 4), ("⅛", 1, 8), ("⅜", 3, 8), ("⅝", 5, 8), ("⅞", 7, 8),
)} | {ord("−"): "-"}  # fmt: skip


def _number(body: str) -> Decimal | None:
    body = body.translate(_VULGAR).strip()
    if match := _DECIMAL.match(body):
        return Decimal(match.group(1) + match.group(2).replace(",", "."))
    if match := _FRACTION.match(body):
        sign, whole, top, bottom = match.groups()
        if int(bottom) == 0:
            return None
        value = Decimal(int(whole or 0)) + Decimal(int(top)) / Decimal(int(bottom))
        return -value if sign == "-" else value
    return None


def _likely_slip(number: Decimal, raw: str, unit: str, field: LengthField) -> Suggestion | None:
    """The first reading of the same digits that would fit the field."""
    for inches, text, why in _readings(number, raw, unit):
        if field.low_in <= inches <= min(field.high_in, field.usual_in) and inches > 0:
            return Suggestion(text, why)
    return None


def _readings(number: Decimal, raw: str, unit: str) -> Iterator[tuple[Decimal, str, str]]:
    factor = _UNITS[unit][1]
    thou = number * Decimal("0.001")
    if raw.lstrip().startswith(("-", "−")):
        yield (
            number * factor,
            f"{_plain(number)} {unit}",
            say("{raw} looks like a stray minus sign", raw=raw),
        )
    if unit != "thou":
        yield (
            thou,
            say("{thou} in", thou=_plain(thou)),
            say("{raw} looks like {thou} in", raw=raw, thou=_plain(thou)),
        )
    if unit != "mm":
        yield (
            number / MM_PER_INCH,
            say("{number} mm", number=_plain(number)),
            say("{raw} looks like millimetres", raw=raw),
        )
    if unit != "in":
        yield (
            number,
            say("{number} in", number=_plain(number)),
            say("{raw} looks like inches", raw=raw),
        )
    for shift in (Decimal(10), Decimal("0.1"), Decimal(100), Decimal("0.01")):
        moved = number * shift
        text = f"{_plain(moved)} {unit}"
        yield moved * factor, text, say("The decimal point looks misplaced in {raw}", raw=raw)


def _plain(number: Decimal) -> str:
    text = f"{number:f}"
    if "." not in text:
        return f"{text}.0" if number < 100 else text
    whole, tail = text.rstrip("0").split(".")
    return f"{whole}.{tail or '0'}"


def format_length(inches: float, unit: Unit | None = None) -> str:
    """A rod-sized length: four places in inches, two in millimetres.

    Without ``unit`` in that of whoever is answered.

    >>> format_length(8.596), format_length(8.596, "mm")
    ('8.5960 in', '218.34 mm')
    """
    if (unit or language.get().unit) == "mm":
        return say("{inches} mm", inches=signed(inches * float(MM_PER_INCH), 2))
    return say("{inches} in", inches=signed(inches, 4))


def signed(value: float, places: int) -> str:
    """A figure with its sign as it is printed: a true minus, and none before nothing.

    >>> signed(-0.5, 1), signed(-0.04, 1)
    ('−0.5', '0.0')
    """
    text = figure(_half_up(value), f".{places}f")
    return text.replace("-", "−" if text.strip("-0.,") else "")


def _half_up(value: float) -> float:
    """The same a trace further from zero, so that a half is rounded alike everywhere."""
    return value + copysign(1e-9, value)


def format_small(inches: float, unit: Unit | None = None) -> str:
    """A small length: thou in the inch system up to an inch, millimetres in the other.

    Without ``unit`` in that of whoever is answered.

    >>> format_small(0.07), format_small(0.0625), format_small(0.07, "mm"), format_small(1.2)
    ('70 thou', '62.5 thou', '1.78 mm', '1.2000 in')
    """
    unit = unit or language.get().unit
    if unit == "mm" or abs(inches) >= 1:
        return format_length(inches, unit)
    whole = figure(0.0, ".1f")[1:]
    return say("{value} thou", value=signed(inches * 1000, 1).removesuffix(whole))


MOST_TURNS = 60
_TURNS_WORD = re.compile(r"\s*\bturns?$", re.IGNORECASE)


def parse_turns(text: str) -> float:
    """Read a count of turns in eighths: ``9 5/8``, ``9.625``, ``1/2 turn``.

    >>> parse_turns("9 5/8"), parse_turns("0.5 turns")
    (9.625, 0.5)

    Raises InputError when empty, not a count, negative, past 60, or not a
    whole number of eighths (the nearest eighth is suggested).
    """
    raw = _TURNS_WORD.sub("", typed_plainly(text.strip()))
    if not raw:
        raise InputError(
            "turns",
            say("Turns are empty"),
            received=text,
            expected=say("turns in eighths"),
            remedy=say("Type the turns from closed, such as 9 5/8"),
            code="empty",
        )
    value = _number(raw) if len(raw) <= _LONGEST_TEXT else None
    if value is None:
        raise InputError(
            "turns",
            say("“{raw}” is not a count of turns", raw=raw[:_LONGEST_TEXT]),
            received=text,
            expected=say("turns in eighths"),
            remedy=say("Write it like 9, 9 1/4 or 9.625"),
            code="not_turns",
        )
    return check_turns(float(value), raw)


_AND = re.compile(r"\s*(?:\band\b|,(?=\s)|[;&+])\s*")


def parse_bolts(text: str) -> tuple[float, ...]:
    """Read the turns of one fastener, or of the two bolts of one rocker. Raises InputError.

    >>> parse_bolts("1/2 and 3/4"), parse_bolts("1 1/4")
    ((0.5, 0.75), (1.25,))
    """
    parts = _AND.split(typed_plainly(text.strip()))
    if len(parts) > 2:
        raise InputError(
            "turns",
            say("“{typed}” is more than two bolts", typed=text[:_LONGEST_TEXT]),
            received=text,
            expected=say("one count, or two"),
            remedy=say("Write two bolts like 1/2 and 3/4"),
            code="not_turns",
        )
    return tuple(parse_turns(part) for part in parts)


def check_turns(turns: float, raw: str | None = None) -> float:
    """Return ``turns`` when it is zero or more, at most 60, in eighths; else raise InputError."""
    shown = raw if raw is not None else figure(turns, "g")
    if not 0 <= turns <= MOST_TURNS:
        likely = abs(turns) if -MOST_TURNS <= turns < 0 else None
        raise InputError(
            "turns",
            say("{shown} turns is outside 0 to {most_turns}", shown=shown, most_turns=MOST_TURNS),
            received=shown,
            expected=say("0 to {most_turns} turns", most_turns=MOST_TURNS),
            remedy=say("Count the turns out from closed"),
            suggestion=Suggestion(f"{likely:g}", say("The minus looks stray")) if likely else None,
            code="out_of_range",
        )
    eighths = turns * 8
    if abs(eighths - round(eighths)) > 1e-9:
        nearest = round(eighths) / 8
        raise InputError(
            "turns",
            say("{shown} turns is not a whole number of eighths", shown=shown),
            received=shown,
            expected=say("quarter or eighth turns"),
            suggestion=Suggestion(format_turns(nearest), say("The nearest eighth")),
            code="not_an_eighth",
        )
    return round(eighths) / 8


def format_turns(turns: float) -> str:
    """Turns as they are counted at the bench.

    >>> format_turns(9.625), format_turns(0.375), format_turns(4)
    ('9 5/8', '3/8', '4')
    """
    eighths = round(turns * 8)
    whole, rest = divmod(eighths, 8)
    if rest == 0:
        return str(whole)
    part = Fraction(rest, 8)
    text = f"{part.numerator}/{part.denominator}"
    return f"{whole} {text}" if whole else text
