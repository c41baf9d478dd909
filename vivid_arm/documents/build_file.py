"""A whole build as one JSON file: set-up, instruments, valves and the log, out and in.

A row a shape, checked as everything else that comes in. A field that may be empty may be
left out, so that a file written before it existed can still be read. Readings refer to each
other by their keys, so that a file can be read into any database. Photos stay behind.
"""

from collections.abc import Mapping, Sequence
from decimal import Decimal
from typing import Annotated, Any, Literal, Self, TypeVar
from uuid import UUID, uuid5

from pydantic import BaseModel, Field, ValidationError, model_validator
from sqlalchemy import select
from sqlalchemy.orm import Session

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.entry.conventions import Convention
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import say
from vivid_arm.core.zero_lash.bracket import Feel
from vivid_arm.core.zero_lash.methods import MeasuringMethod
from vivid_arm.records.fields import (
    Cylinder,
    Figure,
    InField,
    InstrumentKind,
    Line,
    Moment,
    Name,
    Strict,
    Text,
    Version,
    check_fields,
    fault_of,
)
from vivid_arm.records.rows.kept import exact
from vivid_arm.records.rows.line import KeptLine
from vivid_arm.records.settings import BuildSettings, InstrumentFigures
from vivid_arm.records.shapes import LobeTables, Repeats, SeenFigures
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.tables import Base, Note, Unreadable
from vivid_arm.records.writes.build_file import BuildRows

Json = dict[str, Any]
Said = Annotated[Line, Field(max_length=200)]
Number = Annotated[int, Field(strict=True, ge=0, le=2_000_000_000)]
ReadingKind = Literal["trial", "count_back", "void", "mark"] | MeasuringMethod


class InstrumentRow(InstrumentFigures):
    """An instrument that the build or its log names."""

    id: UUID
    version: Version
    kind: InstrumentKind
    name: Name
    convention: Convention
    created_at: Moment


class BuildRow(BuildSettings, Strict):
    """The build's set-up; every figure that cannot be empty stands in it."""

    id: UUID
    version: Version
    lobe_tables: LobeTables | None = None
    log_count: Number
    created_at: Moment
    updated_at: Moment

    @model_validator(mode="after")
    def nothing_is_assumed(self) -> Self:
        """A usual figure never stands in for one the file does not hold."""
        missing = [
            name
            for name, info in BuildSettings.model_fields.items()
            if name not in self.model_fields_set and info.default is not None
        ]
        if missing:
            raise ValueError(say("{value} is missing", value=missing[0].replace("_", " ")))
        return self


class ValveRow(Strict):
    """A valve, the length it is thought to need, how much taller its tip stands."""

    id: UUID
    version: Version
    cylinder: Cylinder
    kind: ValveKind
    expected_in: Annotated[Figure, InField("rod_length")] | None = None
    stem_in: Annotated[Figure, InField("change")] | None = None


class ReadingRow(Strict):
    """A line of the log; ``replaces`` is the key of the line it strikes out."""

    key: UUID
    valve_id: UUID
    instrument_id: UUID | None = None
    kind: ReadingKind
    number: Number | None = None
    raw: Said
    raw_gap: Said
    turns: Annotated[Figure, Field(ge=0, le=60)] | None = None
    length_in: Annotated[Figure, InField("rod_length")] | None = None
    feel: Feel | None = None
    gap_in: Annotated[Figure, InField("gap")] | None = None
    raw_rod: Said
    rod_in: Annotated[Figure, InField("rod_length")] | None = None
    rod_convention: Convention | None = None
    pitch_in: Annotated[Figure, InField("thread_pitch")] | None = None
    push_in: Annotated[Figure, InField("push")] | None = None
    crank_deg: Annotated[Figure, Field(ge=0, lt=720)] | None = None
    repeats: Repeats | None = None
    shim_in: Annotated[Figure, InField("shim")] | None = None
    seen: SeenFigures | None = None
    reason: Said
    taken_by: Said
    build_version: Version
    taken_at: Moment
    replaces: UUID | None = None


class NoteRow(Strict):
    """A note; ``reading`` and ``replaces`` are keys, of a line of the log and of a note."""

    key: UUID
    valve_id: UUID | None = None
    reading: UUID | None = None
    body: Annotated[Text, Field(max_length=2000)]
    by: Said
    at: Moment
    replaces: UUID | None = None


class BuildFile(Strict):
    """The file."""

    format: Literal["vivid-arm/build/1"]
    instruments: Annotated[list[InstrumentRow], Field(max_length=200)]
    build: BuildRow
    valves: Annotated[list[ValveRow], Field(max_length=64)]
    readings: Annotated[list[ReadingRow], Field(max_length=20_000)]
    notes: Annotated[list[NoteRow], Field(max_length=1000, default_factory=list)]


def of_build(session: Session, state: BuildState) -> Json:
    """The file of a build with its notes."""
    query = select(Note).where(Note.build_id == state.build.id).order_by(Note.id)
    return to_dict(state, session.scalars(query).all())


def to_dict(state: BuildState, notes: Sequence[Note] = ()) -> Json:
    """The file of a build; the same build gives the same file.

    What is kept goes out as it is, a figure that no check would let in too.
    """
    readings = [r for v in state.valves for r in v.told.rows]
    keys = {r.id: r.key for r in readings}
    tools = {r.instrument.id: r.instrument for r in readings if r.instrument}
    if state.build.instrument:
        tools[state.build.instrument.id] = state.build.instrument
    return BuildFile.model_construct(
        format="vivid-arm/build/1",
        instruments=[_row(InstrumentRow, t) for _, t in sorted(tools.items())],
        build=_row(BuildRow, state.build),
        valves=[_row(ValveRow, v.valve) for v in state.valves],
        readings=[
            _row(ReadingRow, r, replaces=keys[r.replaces_id] if r.replaces_id else None)
            for r in sorted(readings, key=lambda r: r.id)
        ],
        notes=[_note(n, notes, keys) for n in notes],
    ).model_dump(mode="json", by_alias=True, warnings=False)


def _note(note: Note, notes: Sequence[Note], keys: Mapping[int, UUID]) -> NoteRow:
    earlier = {n.id: n.key for n in notes}
    return _row(
        NoteRow, note, reading=keys.get(note.reading_id or 0),
        replaces=earlier.get(note.replaces_id or 0),
    )  # fmt: skip


def copied(file: Json, new_id: UUID, name: str) -> Json:
    """A build's file as that of another build: its own id, and keys of its own; no photos."""

    def own(key: str | None) -> str | None:
        return None if key is None else str(uuid5(new_id, key))

    build = file["build"] | {"id": str(new_id), "name": name, "version": 1}
    valves = [v | {"id": own(v["id"])} for v in file["valves"]]
    readings = [
        row | {"key": own(row["key"]), "valve_id": own(row["valve_id"]),
               "replaces": own(row.get("replaces")), "seen": _without_photo(row.get("seen"))}
        for row in file["readings"]
    ]  # fmt: skip
    notes = [
        row | {"key": own(row["key"]), "valve_id": own(row.get("valve_id")),
               "reading": own(row.get("reading")), "replaces": own(row.get("replaces"))}
        for row in file["notes"]
    ]  # fmt: skip
    changed = {"build": build, "valves": valves, "readings": readings, "notes": notes}
    return file | changed


def _without_photo(seen: Json | None) -> Json | None:
    return None if seen is None else {k: v for k, v in seen.items() if k != "photo"}


R = TypeVar("R", bound=BaseModel)


def _row(shape: type[R], row: Base | KeptLine, **beside: Any) -> R:
    own = {name: getattr(row, name) for name in shape.model_fields if name not in beside}
    return shape.model_construct(**{k: _plain(v) for k, v in own.items()}, **beside)


def _plain(value: Any) -> Any:
    if isinstance(value, Unreadable):
        return value.raw
    return float(value) if isinstance(value, Decimal) else value


def from_dict(data: Any) -> BuildRows:
    """Read a build file. Raises InputError that names the place in the file."""
    try:
        file = BuildFile.model_validate(data)
    except ValidationError as error:
        where, words = fault_of(error.errors())
        raise InputError(
            "file",
            say("Build file, {where}: {words}", where=where, words=words),
            received=where,
            expected=words,
            remedy=say("Export the build again"),
            code="build_file",
        ) from None
    check_fields(file)
    return BuildRows(
        instruments=[_values(row) for row in file.instruments],
        build=_values(file.build),
        valves=[_values(row) for row in file.valves],
        readings=[_values(row, "replaces") for row in file.readings],
        replaces=[row.replaces for row in file.readings],
        notes=[_values(row) for row in file.notes],
    )


def _values(row: BaseModel, *left_out: str) -> Json:
    """A row by column, figures as exact decimals."""
    found = {k: v for k, v in row if k not in left_out}
    return {k: exact(v) if isinstance(v, float) else v for k, v in found.items()}


def schema() -> Json:
    """JSON Schema (2020-12) of the file."""
    made = BuildFile.model_json_schema(mode="validation", by_alias=True)
    return {"$schema": "https://json-schema.org/draft/2020-12/schema"} | made
