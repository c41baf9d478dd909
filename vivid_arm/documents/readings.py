"""All readings of a build as CSV, out and in."""

import csv
import io
from collections import Counter
from collections.abc import Mapping
from datetime import datetime
from typing import Any, TypeVar
from uuid import UUID, uuid5

from pydantic import ValidationError
from sqlalchemy.orm import Session

from vivid_arm.core.entry.instruments import CheckingRod, setting_of
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import say
from vivid_arm.core.zero_lash.ways import MEASURING_WAYS
from vivid_arm.documents.order_sheet import safe_cell
from vivid_arm.records.entries import CountBackIn, MarkIn, MeasureIn, TrialIn, VoidIn
from vivid_arm.records.fields import fault_of, moment
from vivid_arm.records.rows.instruments import list_instruments
from vivid_arm.records.rows.line import AnyLine
from vivid_arm.records.rows.log import append_readings, reading_by_key, readings_of
from vivid_arm.records.shapes import SeenFigures
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.log import LogEntry
from vivid_arm.records.state.setup import rod_of
from vivid_arm.records.state.struck import struck_by
from vivid_arm.records.state.valve import ValveState
from vivid_arm.records.tables import Build, Instrument, Reading, Valve
from vivid_arm.records.writes import marks, readings

TYPED = ("valve", "kind", "reading", "feel", "gap", "rod", "rod_convention", "pitch_in",
         "crank_deg", "instrument", "by", "taken_at", "struck", "key")  # fmt: skip
DERIVED = ("length_in", "zero_lash_in", "preload_in", "u_in", "convention")
COLUMNS = (*TYPED, *DERIVED)
MOST_ROWS = 5000


def to_csv(state: BuildState) -> str:
    """One row a line of the log, in the order it was written (RFC 4180).

    What was typed carries its unit. A struck line has the reason in ``struck``;
    what follows from a line stands in the last columns, in inches.
    """
    out = io.StringIO()
    table = csv.DictWriter(out, COLUMNS, lineterminator="\r\n")
    table.writeheader()
    lines = [(v, e) for v in state.valves for e in v.log if e.row.kind != "void"]
    for valve, entry in sorted(lines, key=lambda line: line[1].row.id):
        row = _typed(valve, entry) | _derived(state, entry)
        table.writerow(row)
    return out.getvalue()


def _typed(valve: ValveState, entry: LogEntry) -> dict[str, Any]:
    row = entry.row
    return {
        "valve": valve.name,
        **_reading_cells(row),
        "instrument": safe_cell(row.instrument.name) if row.instrument else "",
        "by": safe_cell(row.taken_by),
        "taken_at": row.taken_at.isoformat(),
        "struck": safe_cell(entry.struck_by.reason or "struck") if entry.struck_by else "",
        "key": str(row.key),
    }


def _reading_cells(row: AnyLine) -> dict[str, str]:
    """What was read, and of what."""
    return {
        "kind": row.kind,
        "reading": _reading(row),
        "feel": row.feel or "",
        "gap": "" if row.gap_in is None or row.kind != "trial" else f"{row.gap_in:f} in",
        "rod": "" if row.rod_in is None else f"{row.rod_in:f} in",
        "rod_convention": row.rod_convention or "",
        "pitch_in": "" if row.pitch_in is None else f"{row.pitch_in:f}",
        "crank_deg": "" if row.crank_deg is None else f"{float(row.crank_deg):g}",
    }


def _reading(row: AnyLine) -> str:
    """What was read, with its unit: turns, lengths, the indicator's travel, a gap, a mark."""
    if row.kind == "mark":
        return _mark_text(row)
    if row.repeats is not None:
        counted = row.kind == "turns"
        return "; ".join(f"{x:g}" if counted else f"{x:.6f} in" for x in row.repeats)
    if row.turns is not None:
        return f"{float(row.turns):g}"
    for value in (row.push_in, row.gap_in if row.kind != "trial" else None, row.length_in):
        if value is not None:
            return f"{value:f} in"
    return ""


_MARK_LENGTHS = {
    "inboard": "inboard_in", "outboard": "outboard_in", "width": "width_in", "lift": "lift_in",
    "real_lift": "real_lift_in", "across": "across_in", "sink": "sink_in",
}  # fmt: skip
_MARK_WORDS = ("from", "closed_end", "angle_by", "off", "place", "wide")


def _mark_text(row: AnyLine) -> str:
    """A try as ``name value`` parted by semicolons, such as ``inboard -0.02 in; angle 1.5``."""
    seen = (row.seen or SeenFigures()).model_dump(by_alias=True, exclude_none=True)
    parts = [f"{n} {seen[c]:.6f} in" for n, c in _MARK_LENGTHS.items() if c in seen]
    parts += [f"{n} {seen[n]}" for n in _MARK_WORDS if n in seen]
    if seen["at_rest"]:
        parts.append("at_rest yes")
    for name, column in (("angle", "angle_deg"), ("screw", "screw")):
        if column in seen:
            parts.append(f"{name} {seen[column]:g}")
    if seen["pairs"]:
        parts.append("pairs " + ", ".join(f"{a:.6f} {b:.6f}" for a, b in seen["pairs"]))
    if row.shim_in is not None:
        parts.append(f"shim {row.shim_in:f} in")
    return "; ".join(parts)


def _mark_cells(text: str) -> dict[str, Any]:
    """What was typed and chosen of a try. Raises InputError for a part that is neither."""
    cells: dict[str, Any] = {}
    for part in filter(None, (p.strip() for p in text.split(";"))):
        name, _, value = part.partition(" ")
        if name == "from":
            cells["measured_from"] = value
        elif name in (*_MARK_LENGTHS, *_MARK_WORDS, "angle", "shim", "screw"):
            cells[name] = value
        elif (name, value) == ("at_rest", "yes"):
            cells[name] = True
        elif name == "pairs":
            cells["pairs"] = value.replace(",", ";")
        else:
            raise InputError("reading", say("“{part}” is no part of a mark", part=part[:40]))
    return cells


def _derived(state: BuildState, entry: LogEntry) -> dict[str, Any]:
    measure = entry.measure
    figures = {
        "length_in": None if measure else entry.length_in,
        "zero_lash_in": measure.zero_lash_in if measure else None,
        "preload_in": measure.preload_in if measure else None,
        "u_in": measure.u_in if measure else None,
    }
    shown = {k: "" if v is None else f"{v:.6f}" for k, v in figures.items()}
    return shown | {"convention": state.measuring}


def read_csv(session: Session, build: Build, text: str) -> int:
    """Keep the readings of a CSV file; return how many lines it has.

    ``valve``, ``kind`` and ``reading`` are needed, the other typed columns
    where the kind uses them; columns that follow from a line are not read. All
    lines or none; a line that is here already changes nothing, wherever it stands
    in the file. Raises InputError that names the line.
    """
    rows = list(csv.DictReader(io.StringIO(text.lstrip("\ufeff"), newline="")))
    fields = set(rows[0]) if rows else set()
    missing = [name for name in ("valve", "kind", "reading") if name not in fields]
    if missing:
        raise _fault(1, say("column {missing} is missing", missing=", ".join(missing)))
    if len(rows) > MOST_ROWS:
        raise _fault(MOST_ROWS + 2, say("more than {most_rows} lines", most_rows=MOST_ROWS))
    shop = _Shop(session, build)
    for number, row in enumerate(rows, 2):
        cells = {k: (v or "").strip().removeprefix("'") for k, v in row.items() if k in TYPED}
        try:
            shop.keep(cells)
        except InputError as error:
            raise _fault(number, str(error)) from None
    shop.write()
    return len(rows)


def _fault(number: int, words: str) -> InputError:
    return InputError(
        "csv",
        say("Line {number}: {words}", number=number, words=words),
        received=say("line {number}", number=number),
        expected=", ".join(TYPED[:5]),
        code="readings_csv",
    )


def _one_meaning(tool: Instrument | None, text: str) -> None:
    """Raises InputError for a bare figure that can be turns of the rod as well as its length.

    A line that was written by the shop itself has a key, and its figure is turns.
    """
    rod = None if tool is None else rod_of(tool)
    if not isinstance(rod, CheckingRod):
        return
    meant = setting_of(rod, text)
    if meant.turns is not None and meant.length_in is not None:
        raise InputError(
            "reading",
            say("“{typed}” can be turns or a length of this rod", typed=text[:20]),
            received=text,
            expected=say("turns or in behind it"),
            remedy=say(
                "Write {typed} turns, or {typed} in",
                typed=text[:20],
            ),
            code="turns_or_length",
        )


class _Shop:
    """The build that a file is read into, with what is there already."""

    def __init__(self, session: Session, build: Build) -> None:
        self.session, self.build = session, build
        self.tools = {i.name: i for i in list_instruments(session)}
        self.valves = {_name(v.cylinder, v.kind): v for v in build.valves}
        logs = readings_of(session, [v.id for v in build.valves])
        self.kept: dict[UUID, AnyLine] = {row.key: row for log in logs.values() for row in log}
        self.struck = {i for log in logs.values() for i in struck_by(log)}
        self.same: Counter[str] = Counter()
        self.new: dict[UUID, Reading] = {}
        self.strikes: list[tuple[Valve, Mapping[str, str], UUID]] = []

    def keep(self, cells: Mapping[str, str]) -> None:
        """Keep a line, unless it is here already. Raises InputError."""
        valve = self.valves.get(cells["valve"])
        if valve is None:
            raise InputError("valve", say("there is no valve “{cells}”", cells=cells["valve"][:20]))
        key = self._key(cells)
        kept = self.kept.get(key)
        if kept is None:
            line = self._line(valve, cells, key)
            self.new[key] = self.kept[key] = line
        elif cells.get("key") and not _says_the_same(kept, cells):
            raise InputError(
                "key", say("this reading is kept already and says something else"),
                remedy=say("Empty its key to add it as another reading"), code="key_used",
            )  # fmt: skip
        if cells.get("struck"):
            self.strikes.append((valve, cells, key))

    def write(self) -> None:
        """Write the new lines, then the strikes."""
        append_readings(self.session, list(self.new.values()))
        for valve, cells, key in self.strikes:
            self._strike(valve, cells, key)

    def _key(self, cells: Mapping[str, str]) -> UUID:
        """The key a line has, or one of its contents and how often they came before.

        In another build than the one it was written from a line has a key of its own.
        """
        if cells.get("key"):
            try:
                key = UUID(cells["key"])
            except ValueError:
                raise InputError(
                    "key", say("key “{cells}” is not a UUID", cells=cells["key"][:40])
                ) from None
            return key if key in self.kept else uuid5(self.build.id, str(key))
        contents = str(sorted((k, v) for k, v in cells.items() if k != "struck"))
        self.same[contents] += 1
        return uuid5(self.build.id, f"{self.same[contents]}|{contents}")

    def _line(self, valve: Valve, cells: Mapping[str, str], key: UUID) -> Reading:
        """A line of the file as a line of the log. Raises InputError."""
        tool = self.tools.get(cells.get("instrument", ""))
        if cells.get("instrument") and tool is None:
            raise InputError(
                "instrument",
                say("no instrument is called “{cells}”", cells=cells["instrument"][:40]),
            )
        session, kind, at = self.session, cells["kind"], _time(cells.get("taken_at", ""))
        by = cells.get("by", "")[:60]
        common = {"key": key, "by": by, "instrument_id": tool.id if tool else None, "sure": True}
        rod = {"rod": cells.get("rod", ""), "rod_convention": cells.get("rod_convention") or None}
        crank = {"crank_deg": cells.get("crank_deg") or None}
        if kind == "trial":
            feel, gap = cells.get("feel", ""), cells.get("gap", "")
            if not cells.get("key"):
                _one_meaning(tool or self.build.instrument, cells["reading"])
            trial = _entry(TrialIn, common, crank, setting=cells["reading"], feel=feel, gap=gap)
            return readings.trial_line(session, valve, trial, at)
        if kind == "count_back":
            counted = _entry(CountBackIn, common, turns=cells["reading"])
            return readings.count_back_line(session, valve, counted, at)
        if kind in MEASURING_WAYS:
            pitch = crank | {"pitch_in": _pitch(cells.get("pitch_in", ""))}
            measure = _entry(MeasureIn, common, rod, pitch, method=kind, reading=cells["reading"])
            return readings.measure_line(session, valve, measure, at)
        if kind == "mark":
            seen = _entry(MarkIn, {"key": key, "by": by}, rod, _mark_cells(cells["reading"]))
            return marks.mark_line(session, valve, seen, at)
        kinds = ", ".join(["trial", "count_back", *MEASURING_WAYS, "mark"])
        raise InputError(
            "kind", say("kind “{kind}” is none of {kinds}", kind=kind[:20], kinds=kinds)
        )

    def _strike(self, valve: Valve, cells: Mapping[str, str], key: UUID) -> None:
        kept = reading_by_key(self.session, key)
        assert kept is not None
        if kept.id in self.struck:
            return
        strike = VoidIn(
            key=uuid5(key, "struck"), reading_id=kept.id, reason=cells["struck"][:120],
            by=cells.get("by", "")[:60],
        )  # fmt: skip
        readings.void_reading(self.session, valve, strike)


def _says_the_same(row: AnyLine, cells: Mapping[str, str]) -> bool:
    """Whether a kept line reads as the file has it, in the columns the file has."""
    own = _reading_cells(row)
    return all(cells[name] == own[name] for name in own if name in cells)


Entered = TypeVar("Entered", TrialIn, CountBackIn, MeasureIn, MarkIn)


def _entry(shape: type[Entered], *given: Mapping[str, Any], **more: Any) -> Entered:
    """A line's cells as what the log takes. Raises InputError for a cell that cannot be."""
    try:
        return shape.model_validate({k: v for part in (*given, more) for k, v in part.items()})
    except ValidationError as error:
        field, words = fault_of(error.errors())
        raise InputError(field, f"{field}: {words}") from None


def _name(cylinder: int, kind: str) -> str:
    return f"{cylinder}{kind[0].upper()}"


def _pitch(text: str) -> float | None:
    try:
        return float(text) if text else None
    except ValueError:
        raise InputError(
            "pitch_in", say("pitch “{typed}” is not a number", typed=text[:20])
        ) from None


def _time(text: str) -> datetime | None:
    if not text:
        return None
    try:
        told = datetime.fromisoformat(text)
        found = told if told.tzinfo else told.astimezone()
    except (ValueError, OverflowError):
        words = say("time “{typed}” is not ISO 8601", typed=text[:40])
        raise InputError("taken_at", words) from None
    try:
        return moment(found)
    except ValueError as error:
        raise InputError("taken_at", str(error)) from None
