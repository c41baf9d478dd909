"""What is kept cannot be changed unseen: roles, triggers, the chain, who changed what."""

from uuid import uuid4

import pytest
from sqlalchemy import Engine, select, text
from sqlalchemy.exc import DBAPIError

from tests.builders import load_demo
from vivid_arm.records import database
from vivid_arm.records.evidence import flaws, last_link
from vivid_arm.records.tables import Build, Change, Link

COPIED = "valve_id, kind, raw, raw_gap, feel, length_in, raw_rod, reason, taken_by, build_version"


def found(engine: Engine) -> list[str]:
    with engine.connect() as connection:
        return [f"{flaw.kind} {flaw.words}" for flaw in flaws(connection)]


def tamper(engine: Engine, statement: str) -> None:
    """As somebody does who owns the server and turns every guard off."""
    with engine.begin() as connection:
        connection.execute(text("SET LOCAL session_replication_role = replica"))
        assert connection.execute(text(statement)).rowcount == 1, statement


def test_a_shop_as_it_was_kept_has_no_flaw(empty: Engine) -> None:
    load_demo(empty)
    assert found(empty) == []
    with empty.connect() as connection:
        lines = connection.scalar(text("SELECT count(*) FROM readings"))
        assert (
            connection.scalar(text("SELECT count(*) FROM evidence WHERE kind='reading'")) == lines
        )


@pytest.mark.parametrize(
    ("statement", "says"),
    [
        ("UPDATE readings SET raw = '9 x' WHERE id = (SELECT min(id) FROM readings)",
         "reading was changed"),
        ("UPDATE readings SET taken_at = taken_at - interval '1 second'"
         " WHERE id = (SELECT max(id) FROM readings)", "reading was changed"),
        ("DELETE FROM findings WHERE id = (SELECT max(id) FROM findings)", "finding is gone"),
        ("UPDATE signatures SET signed_by = 'Nobody'", "signature was changed"),
        ("UPDATE orders SET lines = '[]' WHERE id ="
         " (SELECT id FROM orders WHERE state = 'fitted')", "order was changed"),
        ("UPDATE evidence SET content_digest = repeat('0', 64)"
         " WHERE id = (SELECT min(id) FROM evidence)", "reading does not follow"),
        ("DELETE FROM evidence WHERE id = (SELECT min(id) FROM evidence)",
         "reading is in no chain"),
        (f"INSERT INTO readings (key, number, {COPIED}) SELECT gen_random_uuid(), 999, {COPIED}"
         " FROM readings WHERE kind = 'trial' LIMIT 1", "reading is in no chain"),
    ],
)  # fmt: skip
def test_a_line_changed_by_sql_is_found(empty: Engine, statement: str, says: str) -> None:
    load_demo(empty)
    tamper(empty, statement)
    assert any(line.startswith(says) for line in found(empty)), found(empty)


@pytest.mark.parametrize(
    "statement",
    [
        "UPDATE readings SET raw = '9'", "DELETE FROM readings", "TRUNCATE readings CASCADE",
        "UPDATE findings SET raw = '9'", "DELETE FROM signatures", "DELETE FROM evidence",
        "INSERT INTO evidence SELECT * FROM evidence", "UPDATE changes SET by = 'x'",
        "ALTER TABLE readings DISABLE TRIGGER ALL", "SET session_replication_role = replica",
        "SELECT link(gen_random_uuid(), 'reading', '1', repeat('0', 64))", "DELETE FROM orders",
        "DROP TABLE photos", "DELETE FROM builds", "CREATE TABLE x ()",
    ],
)  # fmt: skip
def test_the_application_itself_may_not(empty: Engine, working: str, statement: str) -> None:
    load_demo(empty)
    engine = database.connect(working)
    with pytest.raises(DBAPIError, match=r"permission denied|must be owner"), engine.begin() as c:
        c.execute(text(statement))
    engine.dispose()
    assert found(empty) == []


def test_a_frozen_order_stays_even_for_the_owner(empty: Engine) -> None:
    load_demo(empty)
    with pytest.raises(DBAPIError, match="is frozen"), empty.begin() as connection:
        connection.execute(text("UPDATE orders SET lines = '[]' WHERE state = 'fitted'"))


def test_who_changed_what_from_what(empty: Engine) -> None:
    load_demo(empty)
    with database.sessions(empty, by="Ada").begin() as session:
        build = session.scalars(select(Build)).first()
        assert build is not None
        before, build.name = build.name, "Renamed"
    with database.sessions(empty)() as session:
        kept = session.scalars(select(Change).order_by(Change.id.desc())).first()
        assert kept is not None
        assert (kept.of_table, kept.row_id, kept.by) == ("builds", str(build.id), "Ada")
        assert (kept.old, kept.new) == ({"name": before}, {"name": "Renamed"})


def test_two_writers_make_one_chain(empty: Engine) -> None:
    """Links are numbered one after the other, whoever comes first."""
    load_demo(empty)
    with database.sessions(empty)() as session:
        build_id = session.scalars(select(Link.build_id)).first()
        assert build_id is not None
        before = last_link(session, build_id)
    copied = (
        "INSERT INTO findings (key, build_id, valve_id, name, way, raw, yes, found_by)"
        " SELECT :key, :build, id, 'tip', '', '', true, 'Ada' FROM valves"
        " WHERE build_id = :build LIMIT 1"
    )
    for _ in range(3):
        with empty.begin() as connection:
            connection.execute(text(copied), {"key": uuid4(), "build": build_id})
    with database.sessions(empty)() as session:
        after = last_link(session, build_id)
    assert after.lines == before.lines + 3
    assert after.digest != before.digest
    assert found(empty) == []
