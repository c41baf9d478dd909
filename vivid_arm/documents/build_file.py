"""A whole build as one JSON file: set-up, instruments, valves and the log, out and in.

The fields are the columns of the tables; one that may be empty may be left out, so that
a file written before it existed can still be read. Readings refer to each other by their
keys, so that a file can be read into any database. Photos stay behind.
"""

from collections.abc import Mapping, Sequence
from datetime import datetime
from decimal import Decimal
from math import isfinite
from typing import Any
from uuid import UUID

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import JSONB

from vivid_arm.core.errors import InputError
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.tables import Base, Build, Instrument, Reading, Valve
from vivid_arm.records.writes.build_file import BuildRows

FORMAT = "vivid-arm/build/1"
Json = dict[str, Any]
_TABLES: dict[str, tuple[type[Base], tuple[str, ...]]] = {
    "instruments": (Instrument, ()),
    "build": (Build, ()),
    "valves": (Valve, ("build_id",)),
    "readings": (Reading, ("id", "replaces_id")),
}
_REPLACES = "replaces"


def _columns(table: str) -> list[sa.Column[Any]]:
    model, left_out = _TABLES[table]
    return [c for c in sa.inspect(model).columns if c.key not in left_out]


def to_dict(state: BuildState) -> Json:
    """The file of a build; the same build gives the same file."""
    readings = [r for v in state.valves for r in v.readings]
    keys = {r.id: r.key for r in readings}
    tools = {r.instrument.id: r.instrument for r in readings if r.instrument}
    if state.build.instrument:
        tools[state.build.instrument.id] = state.build.instrument
    return {
        "format": FORMAT,
        "instruments": [_row("instruments", t) for _, t in sorted(tools.items())],
        "build": _row("build", state.build),
        "valves": [_row("valves", v.valve) for v in state.valves],
        "readings": [
            _row("readings", r) | {_REPLACES: str(keys[r.replaces_id]) if r.replaces_id else None}
            for r in sorted(readings, key=lambda r: r.id)
        ],
    }


def _row(table: str, row: Base) -> Json:
    return {c.key: _plain(getattr(row, c.key)) for c in _columns(table)}


def _plain(value: Any) -> Any:
    if isinstance(value, Decimal):
        return float(value)
    if isinstance(value, UUID):
        return str(value)
    if isinstance(value, datetime):
        return value.isoformat()
    return value


def from_dict(data: Any) -> BuildRows:
    """Read a build file. Raises InputError that names the place in the file."""
    if not isinstance(data, Mapping) or data.get("format") != FORMAT:
        raise _fault("format", f"expected {FORMAT}")
    unknown = set(data) - {"format", *_TABLES}
    if unknown:
        raise _fault(sorted(unknown)[0], "unknown field")
    readings = _list(data, "readings")
    return BuildRows(
        instruments=[
            _read("instruments", row, f"instruments[{i}]")
            for i, row in enumerate(_list(data, "instruments"))
        ],
        build=_read("build", data.get("build"), "build"),
        valves=[
            _read("valves", row, f"valves[{i}]") for i, row in enumerate(_list(data, "valves"))
        ],
        readings=[
            _read("readings", row, f"readings[{i}]", (_REPLACES,)) for i, row in enumerate(readings)
        ],
        replaces=[_key(row, f"readings[{i}]") for i, row in enumerate(readings)],
    )


def _list(data: Mapping[str, Any], name: str) -> Sequence[Any]:
    found = data.get(name)
    if not isinstance(found, list) or len(found) > 20_000:
        raise _fault(name, "expected a list of at most 20000")
    return found


def _key(row: Mapping[str, Any], where: str) -> UUID | None:
    value = row.get(_REPLACES)
    return None if value is None else _uuid(value, f"{where}.{_REPLACES}")


def _read(table: str, row: Any, where: str, beside: tuple[str, ...] = ()) -> Json:
    if not isinstance(row, Mapping):
        raise _fault(where, "expected an object")
    columns = {c.key: c for c in _columns(table)}
    unknown = set(row) - set(columns) - set(beside)
    if unknown:
        raise _fault(f"{where}.{sorted(unknown)[0]}", "unknown field")
    found = {}
    for name, column in columns.items():
        if name not in row and not column.nullable:
            raise _fault(f"{where}.{name}", "missing")
        found[name] = _value(column, row.get(name), f"{where}.{name}")
    return found


def _value(column: sa.Column[Any], value: Any, where: str) -> Any:
    if value is None:
        if column.nullable:
            return None
        raise _fault(where, "empty")
    kind = column.type
    if isinstance(kind, sa.Uuid):
        return _uuid(value, where)
    if isinstance(kind, sa.DateTime):
        return _time(value, where)
    if isinstance(kind, JSONB):
        return _of(value, (dict, list), where, "an object or a list")
    if isinstance(kind, sa.Boolean):
        return _of(value, (bool,), where, "true or false")
    if isinstance(kind, sa.Integer):
        return _number(value, where, whole=True)
    if isinstance(kind, sa.Numeric):
        return Decimal(str(_number(value, where))).quantize(Decimal("0.000001"))
    text = _of(value, (str,), where, "text")
    if len(text) > 200 or "\x00" in text:
        raise _fault(where, "expected at most 200 characters")
    return text


def _of(value: Any, kinds: tuple[type, ...], where: str, words: str) -> Any:
    if not isinstance(value, kinds):
        raise _fault(where, f"expected {words}")
    return value


def _number(value: Any, where: str, *, whole: bool = False) -> float | int:
    kinds = (int,) if whole else (int, float)
    limit = 2_000_000_000 if whole else 9999
    if isinstance(value, bool) or not isinstance(value, kinds) or not isfinite(value):
        raise _fault(where, "expected a whole number" if whole else "expected a number")
    if abs(value) > limit:
        raise _fault(where, f"expected at most {limit}")
    return value


def _uuid(value: Any, where: str) -> UUID:
    try:
        return UUID(str(value))
    except ValueError:
        raise _fault(where, "expected a UUID") from None


def _time(value: Any, where: str) -> datetime:
    try:
        found = datetime.fromisoformat(value)
    except (TypeError, ValueError):
        raise _fault(where, "expected a time (ISO 8601)") from None
    if found.tzinfo is None:
        raise _fault(where, "expected a time with its zone")
    return found


def _fault(where: str, words: str) -> InputError:
    return InputError(
        "file",
        f"Build file, {where}: {words}",
        received=where,
        expected=words,
        remedy="Export the build again",
        code="build_file",
    )


def schema() -> Json:
    """JSON Schema (2020-12) of the file, made from the tables."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Vivid Arm build file",
        "type": "object",
        "additionalProperties": False,
        "required": ["format", *_TABLES],
        "properties": {
            "format": {"const": FORMAT},
            **{
                name: _row_schema(name)
                if name == "build"
                else {"type": "array", "items": _row_schema(name)}
                for name in _TABLES
            },
        },
    }


def _row_schema(table: str) -> Json:
    properties = {c.key: _type_schema(c) for c in _columns(table)}
    if table == "readings":
        properties[_REPLACES] = {"type": ["string", "null"], "format": "uuid"}
    return {
        "type": "object",
        "additionalProperties": False,
        "required": [c.key for c in _columns(table) if not c.nullable],
        "properties": properties,
    }


def _type_schema(column: sa.Column[Any]) -> Json:
    kinds: list[tuple[type, str, Json]] = [
        (sa.Uuid, "string", {"format": "uuid"}),
        (sa.DateTime, "string", {"format": "date-time"}),
        (sa.Boolean, "boolean", {}),
        (sa.Integer, "integer", {}),
        (sa.Numeric, "number", {}),
        (sa.String, "string", {"maxLength": 200}),
    ]
    for kind, name, more in kinds:
        if isinstance(column.type, kind):
            return {"type": [name, "null"] if column.nullable else name} | more
    return {"type": ["object", "array", "null"]}
