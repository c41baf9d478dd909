"""What every schema and shape is made of: texts, figures, versions, strict bodies."""

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Annotated, Any, Literal, get_args, get_origin
from unicodedata import category

from pydantic import AfterValidator, AwareDatetime, BaseModel, ConfigDict, Field
from pydantic.fields import FieldInfo

from vivid_arm.core.entry.lengths import FIELDS, LengthField, check_range
from vivid_arm.core.words import Saying, figure, say


def storable(text: str) -> str:
    """Refuse what cannot be stored or printed: surrogates, and controls but tab and line ends."""
    if any("\ud800" <= c <= "\udfff" for c in text):
        raise ValueError(say("text holds a character that cannot be stored"))
    if any(category(c) == "Cc" and c not in "\t\n\r" for c in text):
        raise ValueError(say("text holds a control character"))
    return text


def one_line(text: str) -> str:
    """Refuse line ends and tabs too, and characters that turn the reading direction."""
    if any(c in "\t\n\r\u2028\u2029" for c in text):
        raise ValueError(say("it must stand on one line"))
    if any("\u202a" <= c <= "\u202e" or "\u2066" <= c <= "\u2069" for c in text):
        raise ValueError(say("text holds a character that turns the reading direction"))
    return storable(text)


def named(text: str) -> str:
    """Refuse a name of blanks."""
    if not any(c.isprintable() and not c.isspace() for c in text):
        raise ValueError(say("a name is wanted, not blanks"))
    return one_line(text)


Text = Annotated[str, AfterValidator(storable)]
Line = Annotated[str, AfterValidator(one_line)]
Name = Annotated[str, Field(min_length=1, max_length=80), AfterValidator(named)]
FIRST_YEAR = 1900
_AHEAD = timedelta(days=1)


def moment(at: datetime) -> datetime:
    """Refuse a time before 1900 or more than a day ahead."""
    try:
        sure = datetime(FIRST_YEAR, 1, 1, tzinfo=UTC) <= at <= datetime.now(UTC) + _AHEAD
    except OverflowError:
        sure = False
    if not sure:
        raise ValueError(
            say("a time from {first_year} to tomorrow is wanted", first_year=FIRST_YEAR)
        )
    return at


Moment = Annotated[AwareDatetime, AfterValidator(moment)]
Figure = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=-9999, le=9999)]
InstrumentKind = Literal["checking_rod", "caliper", "indicator"]
Cylinder = Annotated[int, Field(strict=True, ge=1, le=16)]
Version = Annotated[int, Field(strict=True, ge=1, le=2_000_000_000)]


class Strict(BaseModel):
    """A request body: unknown fields are refused."""

    model_config = ConfigDict(extra="forbid")


@dataclass(frozen=True)
class InField:
    """Marks a figure as one of the core's length fields: its range and its name in words."""

    name: str

    @property
    def field(self) -> LengthField:
        return FIELDS[self.name]


def field_of(info: FieldInfo) -> LengthField | None:
    """The core's field that a figure, or one that may be empty, is declared to be in."""
    inner = (m for arg in get_args(info.annotation) for m in getattr(arg, "__metadata__", ()))
    return next((m.field for m in (*info.metadata, *inner) if isinstance(m, InField)), None)


def label_of(model: type[BaseModel], name: str) -> str:
    """What a figure is called in a sentence: never its machine name."""
    info = model.model_fields.get(name)
    field = field_of(info) if info else None
    if field is not None:
        return say(field.label)
    if info is not None and info.title:
        return say(info.title)
    return in_words(name)


def in_words(name: str) -> str:
    """A field's machine name in words: ``stock_step_in`` is "Stock step"."""
    head, rest = re.split(r"(?=[.\[])|$", name, maxsplit=1)
    inner = re.sub(r"_(in|id|deg)(?=$|[.\[])", "", rest).replace("_", " ")
    return say(plain_words(head)) + inner


def plain_words(name: str) -> str:
    """A field's machine name in English words."""
    words = re.sub(r"_(in|id|deg)(?=$|\[)", "", name).replace("_", " ")
    return words[:1].upper() + words[1:]


def words_of(shapes: Iterable[type[BaseModel]]) -> set[str]:
    """What the fields of some shapes, and the codes they may hold, are called in English."""
    found: set[str] = set()
    for shape in shapes:
        for name, info in shape.model_fields.items():
            found |= {plain_words(name)} | ({info.title} if info.title else set())
            found |= {code.replace("_", " ") for code in _codes_in(info.annotation)}
    return found


def _codes_in(kind: Any) -> set[str]:
    if get_origin(kind) is Literal:
        return {code for code in get_args(kind) if isinstance(code, str) and len(code) > 1}
    return {code for inner in get_args(kind) for code in _codes_in(inner)}


def check_fields(value: Any) -> None:
    """Check every figure of a shape, however deep, against its field. Raises InputError."""
    for shape in _shapes_in(value):
        for name, info in type(shape).model_fields.items():
            inner = getattr(shape, name)
            field = field_of(info)
            if field is not None and inner is not None:
                check_range(float(inner), field)
            check_fields(inner)


def _shapes_in(value: Any) -> Iterator[BaseModel]:
    if isinstance(value, BaseModel):
        yield value
    elif isinstance(value, dict):
        for inner in value.values():
            yield from _shapes_in(inner)
    elif isinstance(value, list):
        for inner in value:
            yield from _shapes_in(inner)


_NUMBER, _WHOLE = Saying("expected a number"), Saying("expected a whole number")
_YES_OR_NO, _TEXT = Saying("expected true or false"), Saying("expected text")
_LIST, _OBJECT = Saying("expected a list"), Saying("expected an object")
_UUID, _TIME = Saying("expected a UUID"), Saying("expected a time (ISO 8601)")
_WORDS = {
    "missing": Saying("missing"),
    "extra_forbidden": Saying("unknown field"),
    "float_type": _NUMBER,
    "float_parsing": _NUMBER,
    "finite_number": _NUMBER,
    "decimal_type": _NUMBER,
    "decimal_parsing": _NUMBER,
    "int_type": _WHOLE,
    "int_parsing": _WHOLE,
    "int_parsing_size": _WHOLE,
    "int_from_float": _WHOLE,
    "bool_type": _YES_OR_NO,
    "bool_parsing": _YES_OR_NO,
    "string_type": _TEXT,
    "list_type": _LIST,
    "tuple_type": _LIST,
    "dict_type": _OBJECT,
    "model_type": _OBJECT,
    "model_attributes_type": _OBJECT,
    "uuid_type": _UUID,
    "uuid_parsing": _UUID,
    "timezone_aware": Saying("expected a time with its zone"),
    "datetime_type": _TIME,
    "datetime_parsing": _TIME,
    "datetime_from_date_parsing": _TIME,
    "json_invalid": Saying("no JSON that can be read"),
    "string_unicode": Saying("letters that cannot be kept"),
    "string_pattern_mismatch": Saying("not in the form expected"),
    "string_too_long": Saying("expected at most {max_length} characters"),
    "string_too_short": Saying("expected {min_length} characters or more"),
    "too_long": Saying("expected at most {max_length} of them"),
    "too_short": Saying("expected {min_length} of them or more"),
    "greater_than_equal": Saying("expected {ge} or more"),
    "greater_than": Saying("expected more than {gt}"),
    "less_than_equal": Saying("expected at most {le}"),
    "less_than": Saying("expected less than {lt}"),
}
"""What Pydantic finds, in the words of the house; its figures are put in."""


def fault_of(found: Sequence[Mapping[str, Any]]) -> tuple[str, str]:
    """What is wrong with a shape: where, such as ``valves[0].id``, and what, in words.

    ``found`` are Pydantic's errors; one that is there and wrong is named before one missing.
    """
    first = next((e for e in found if e["type"] != "missing"), found[0])
    where = "".join(f"[{p}]" if isinstance(p, int) else f".{p}" for p in first["loc"])
    if first["type"] != "missing" and first.get("input") is None:
        return where.lstrip("."), say("empty")
    if first["type"] == "literal_error":
        return where.lstrip("."), say(
            "expected {expected}", expected=str(first["ctx"]["expected"]).replace("'", "")
        )
    if first["type"] in ("value_error", "assertion_error"):
        return where.lstrip("."), str(first["msg"]).partition(", ")[2]
    known = _WORDS.get(first["type"], Saying("cannot be read"))
    told = first.get("ctx", {}).items()
    figures = {k: figure(v, "g") if isinstance(v, float) else v for k, v in told}
    return where.lstrip("."), say(known, **figures)
