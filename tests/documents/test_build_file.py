"""Readings as CSV and whole builds as JSON: out, in, and the same again."""

import csv
import io
import json
from collections.abc import Iterator
from copy import deepcopy
from pathlib import Path
from typing import Any
from uuid import UUID, uuid4

import jsonschema_rs
import pytest
from sqlalchemy import Engine, func, select, text
from sqlalchemy.orm import Session

from tests.builders import add_trial, load_demo
from tests.conftest import TABLES
from vivid_arm.core.errors import InputError
from vivid_arm.documents import build_file, readings
from vivid_arm.records import database
from vivid_arm.records.rows.builds import count_builds, get_build, insert_build
from vivid_arm.records.rows.kept import Conflict
from vivid_arm.records.state.load import build_states
from vivid_arm.records.tables import Build, Reading
from vivid_arm.records.writes import setup
from vivid_arm.records.writes.build_file import move_in

Json = dict[str, Any]
SCHEMA = Path(__file__).parents[2] / "docs" / "build.schema.json"


@pytest.fixture(scope="module")
def made_files(engine: Engine) -> dict[str, Json]:
    """Every build of the demo shop as its file."""
    emptied(engine)
    load_demo(engine)
    with database.sessions(engine)() as session:
        states = build_states(session, list(session.scalars(select(Build.id))))
        return {s.build.name: build_file.to_dict(s) for s in states}


@pytest.fixture
def files(made_files: dict[str, Json]) -> dict[str, Json]:
    """Those files, for a test to spoil."""
    return deepcopy(made_files)


@pytest.fixture
def session(empty: Engine) -> Iterator[Session]:
    load_demo(empty)
    with database.sessions(empty)() as session:
        yield session


def emptied(engine: Engine) -> None:
    with engine.begin() as connection:
        connection.execute(text(f"TRUNCATE {TABLES}"))


def moved(engine: Engine, data: Json) -> Json:
    with database.sessions(engine).begin() as session:
        move_in(session, build_file.from_dict(json.loads(json.dumps(data))))
    with database.sessions(engine)() as session:
        return build_file.to_dict(build_states(session, [UUID(data["build"]["id"])])[0])


def test_every_demo_build_comes_back_identical_into_an_empty_database(
    files: dict[str, Json], empty: Engine
) -> None:
    assert len(files) == 12
    emptied(empty)
    for name, data in files.items():
        assert moved(empty, data) == data, name


def test_the_published_schema_is_the_one_in_force(files: dict[str, Json]) -> None:
    """JSON Schema 2020-12, checked with the package `jsonschema-rs`."""
    published = json.loads(SCHEMA.read_text())
    assert published == build_file.schema()
    for data in files.values():
        jsonschema_rs.validate(published, data)


def _broken(path: str, value: Any) -> Any:
    def spoil(data: Json) -> None:
        at: Any = data
        *way, last = path.split("/")
        for step in way:
            at = at[int(step)] if step.isdigit() else at[step]
        at[last] = value

    return spoil


@pytest.mark.parametrize(
    ("path", "value", "says"),
    [
        ("format", "other/1", "format: expected vivid-arm/build/1"),
        ("build/ratio_intake", "big", "build.ratio_intake: expected a number"),
        ("build/ratio_intake", 16.0, "Rocker ratio: 16"),
        ("build/cylinders", True, "expected a whole number"),
        ("build/unheard", 1, "build.unheard: unknown field"),
        ("build/engine", {"firing_order": [1]}, "build.engine.bank_angle_deg: missing"),
        ("build/mount", "glued", "build.mount: expected stud"),
        ("build/created_at", "yesterday", "expected a time"),
        ("valves/0/cylinder", 9, "not those of its engine"),
        ("valves/0/id", "x", r"valves.0..id: expected a UUID"),
        ("readings/1/replaces", "00000000-0000-4000-8000-000000000000", "come before it"),
        ("readings/1/number", 1, "contradict each other"),
        ("build/picked_intake_in", 9999.0, "Rod length: 9999"),
        ("build/lobe_tables", {"intake": []}, "build.lobe_tables.intake: "),
        ("readings/0/seen", [], "readings.0..seen: expected an object"),
        ("readings/0/feel", "wet", "readings.0..feel: expected loose"),
    ],
)
def test_a_spoilt_file_is_refused_by_its_place_and_nothing_is_kept(
    files: dict[str, Json], empty: Engine, path: str, value: Any, says: str
) -> None:
    emptied(empty)
    data = files["Dockside loader V8"]
    _broken(path, value)(data)
    with pytest.raises(InputError, match=says):
        moved(empty, data)
    with database.sessions(empty)() as session:
        assert count_builds(session) == 0


def test_an_instrument_with_other_figures_here_is_a_conflict(
    files: dict[str, Json], empty: Engine
) -> None:
    first, second = files["Quarry crusher V8"], files["Dockside loader V8"]
    emptied(empty)
    moved(empty, first)
    second["instruments"][0]["closed_in"] = 6.9
    with pytest.raises(Conflict, match="other figures"):
        moved(empty, second)


def _fresh_copy(session: Session, name: str) -> tuple[Build, str]:
    """An empty build set up like a demo build, and that build's readings as CSV."""
    found = session.scalars(select(Build).where(Build.name == name)).one()
    state = build_states(session, [found.id])[0]
    text_out = readings.to_csv(state)
    columns = {c.key: getattr(found, c.key) for c in Build.__table__.columns}
    columns |= {"id": uuid4(), "name": "Copy", "version": 1, "log_count": 0}
    copy = insert_build(session, Build(**columns))
    session.commit()
    session.expire_all()
    return get_build(session, copy.id) or copy, text_out


@pytest.mark.parametrize(
    "name",
    [
        "Quarry crusher V8",
        "Dockside loader V8",
        "Orchard sprayer flat four",
        "Towpath tug V8",
        "Harbour dredger V8",
    ],
)
def test_readings_go_out_and_come_into_a_build_like_it(session: Session, name: str) -> None:
    copy, first = _fresh_copy(session, name)
    lines = readings.read_csv(session, copy, first)
    session.commit()
    assert lines == len(list(csv.DictReader(io.StringIO(first))))
    session.expire_all()
    again = readings.to_csv(build_states(session, [copy.id])[0])
    assert keyless(again) == keyless(first)
    for file in (first, again):
        readings.read_csv(session, copy, file)
        session.commit()
        assert count_lines(session, copy) == lines


def keyless(text_in: str) -> list[dict[str, str]]:
    """A file's lines without their keys: in another build a line has a key of its own."""
    rows = list(csv.DictReader(io.StringIO(text_in)))
    assert len({row.pop("key") for row in rows}) == len(rows)
    return rows


def count_lines(session: Session, build: Build) -> int:
    own = Reading.valve_id.in_([v.id for v in build.valves])
    counted = select(func.count()).select_from(Reading).where(own, Reading.kind != "void")
    return session.scalar(counted) or 0


def test_a_build_takes_its_own_file_without_a_second_line(session: Session) -> None:
    """Whatever was typed, however often the file comes back, and with a line put on top."""
    build = session.scalars(select(Build).where(Build.name == "Fairground organ V-twin")).one()
    state = build_states(session, [build.id])[0]
    text_out, before = readings.to_csv(state), count_lines(session, build)
    readings.read_csv(session, state.build, text_out)
    session.commit()
    assert count_lines(session, build) == before
    head, *lines = text_out.splitlines(keepends=True)
    empty_cells = "," * head.count(",")
    more = "".join([head, "2I,trial,10,loose" + empty_cells[3:] + "\r\n", *lines])
    readings.read_csv(session, state.build, more)
    readings.read_csv(session, state.build, more)
    session.commit()
    assert count_lines(session, build) == before + 1
    changed = text_out.replace(",tight,", ",loose,")
    with pytest.raises(InputError, match="kept already and says something else"):
        readings.read_csv(session, state.build, changed)


def test_lines_without_keys_are_known_by_what_they_say(session: Session) -> None:
    """A line inserted on top moves every number; two like lines are two readings."""
    copy, _ = _fresh_copy(session, "Dockside loader V8")
    head = "valve,kind,reading,feel\n"
    lines = "2I,trial,11,zero\n2I,trial,11,zero\n2E,trial,10 1/2,loose\n"
    for table, wanted in (
        (head + lines, 3), (head + lines, 3), (head + "3I,trial,9,loose\n" + lines, 4),
    ):  # fmt: skip
        readings.read_csv(session, copy, table)
        session.commit()
        session.expire_all()
        copy = get_build(session, copy.id) or copy
        assert count_lines(session, copy) == wanted


@pytest.mark.parametrize(
    "at", ["9999-12-31T23:59:59-01:00", "0001-01-01T00:00:00+14:00", "1899-12-31T23:59Z",
           "2999-01-01T00:00:00+00:00", "yesterday"],
)  # fmt: skip
def test_a_time_that_cannot_be_is_refused_in_csv_and_build_file(
    session: Session, files: dict[str, Json], at: str
) -> None:
    """Kept once, such a time answers every later question with an error."""
    copy, _ = _fresh_copy(session, "Dockside loader V8")
    table = f"valve,kind,reading,feel,taken_at\n2I,trial,11,zero,{at}\n"
    with pytest.raises(InputError, match=r"Line 2: .*(ISO 8601|tomorrow)"):
        readings.read_csv(session, copy, table)
    data = json.loads(json.dumps(files["Dockside loader V8"]))
    data["readings"][0]["taken_at"] = at
    with pytest.raises(InputError, match="time"):
        build_file.from_dict(data)


def test_a_struck_line_comes_in_struck(session: Session) -> None:
    copy, _ = _fresh_copy(session, "Dockside loader V8")
    table = "valve,kind,reading,feel,struck\n2I,trial,11,zero,Misread\n2I,trial,10 1/2,zero,\n"
    assert readings.read_csv(session, copy, table) == 2
    session.commit()
    session.expire_all()
    state = build_states(session, [copy.id])[0]
    valve = next(v for v in state.valves if v.name == "2I")
    assert [t.length_in for t in valve.trials] == [pytest.approx(7.587504)]
    assert valve.log[0].struck_by is not None


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("9I,trial,11,zero", "Line 3: there is no valve “9I”"),
        ("2I,guess,11,zero", "Line 3: kind “guess” is none of trial"),
        ("2I,trial,11,wet", "Line 3: feel: expected loose, zero, tight, no_lash, barely or quite"),
        ("2I,trial,eleven,zero", "Line 3: “eleven” is not a count of turns"),
        ("2I,trial,30,zero", "Line 3: 30 turns is more than this rod opens"),
        ("2I,indicator,700,", "Line 3: .*700 thou is outside"),
    ],
)
def test_a_broken_line_is_named_and_no_line_is_kept(session: Session, line: str, says: str) -> None:
    copy, _ = _fresh_copy(session, "Dockside loader V8")
    table = f"valve,kind,reading,feel\n1I,trial,11,zero\n{line}\n"
    with pytest.raises(InputError, match=says):
        readings.read_csv(session, copy, table)
    with pytest.raises(InputError, match="column reading is missing"):
        readings.read_csv(session, copy, "valve,kind\n1I,trial\n")


def test_a_moved_build_can_be_worked_on(files: dict[str, Json], empty: Engine) -> None:
    """Serial numbers, versions and keys go on where the file ends."""
    emptied(empty)
    data = files["Dockside loader V8"]
    moved(empty, data)
    with database.sessions(empty).begin() as session:
        build = get_build(session, UUID(data["build"]["id"]))
        assert build is not None
        add_trial(session, build.valves[0], key=UUID(int=1), setting="10 5/8", feel="zero")
        setup.change_build(session, build, build.version, {"name": "Moved"})
    with database.sessions(empty)() as session:
        state = build_states(session, [UUID(data["build"]["id"])])[0]
        assert state.build.name == "Moved"
        assert [t.number for t in state.valves[0].trials] == [1, 2, 3]
