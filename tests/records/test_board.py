"""The board's kept summaries: fresh after seeding, never stale after a write."""

from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

import pytest
from sqlalchemy import Engine, func, select, text, update
from sqlalchemy.orm import Session, sessionmaker

from tests.builders import add_settled
from vivid_arm.api.board.views import board_body, fill, uncomputed_body
from vivid_arm.demo import seeding
from vivid_arm.documents import order_data
from vivid_arm.records import database
from vivid_arm.records.entries import FindingIn
from vivid_arm.records.fingerprint import MARK, wholes
from vivid_arm.records.rows.builds import get_build
from vivid_arm.records.rows.instruments import list_instruments
from vivid_arm.records.state.board import Sought, all_worked_out, board_page
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.load import build_states
from vivid_arm.records.tables import Build, Reading, Summary
from vivid_arm.records.writes import box, orders, setup, sign_off


def made_anew(state: BuildState) -> dict[str, Any]:
    raise AssertionError(f"{state.build.name} was computed again")


def never_needed(build: Build, error: Exception) -> dict[str, Any]:
    raise AssertionError(f"{build.name}: {error}") from error


@pytest.fixture
def seeded(empty: Engine) -> Engine:
    seeding.seed(database.sessions(empty), 3)
    fill(database.sessions(empty))
    return empty


@pytest.mark.slow
def test_seeded_builds_are_measured_and_summarised(seeded: Engine) -> None:
    with database.sessions(seeded)() as session:
        assert session.scalar(select(func.count()).select_from(Reading)) == 3 * 16 * 10
        page = board_page(session, Sought(), 0, 30, made_anew, never_needed)
        assert page.total == 3
        ids = list(session.scalars(select(Build.id)))
        for state in build_states(session, ids):
            assert len(state.known) == 16
            assert board_body(state) in page.bodies


@pytest.mark.slow
@pytest.mark.parametrize(
    "write", ["reading", "build", "valve", "instrument", "box", "order", "finding"]
)
def test_any_write_makes_the_summary_anew(seeded: Engine, write: str) -> None:
    with database.sessions(seeded).begin() as session:
        build = get_build(session, session.scalars(select(Build.id)).first() or uuid4())
        assert build is not None
        _write(session, build, write)
    with database.sessions(seeded)() as session, pytest.raises(AssertionError, match="again"):
        board_page(session, Sought(), 0, 30, made_anew, never_needed)


@pytest.mark.slow
def test_a_build_that_cannot_be_computed_leaves_the_board_standing(seeded: Engine) -> None:
    """Its row says so; the other rows are whole, and it is not worked out again each time."""
    with database.sessions(seeded).begin() as session:
        broken = session.scalars(select(Build).order_by(Build.name)).first()
        assert broken is not None
        spoil = text(
            "UPDATE builds SET prior = '{\"intake\": 7}', version = version + 1 WHERE id = :id"
        )
        session.execute(spoil, {"id": broken.id})
    with database.sessions(seeded).begin() as session:
        page = board_page(session, Sought(), 0, 30, board_body, uncomputed_body)
    faults = {b["name"]: b["fault"] for b in page.bodies}
    assert [name for name, fault in faults.items() if fault] == [broken.name]
    assert "intake: expected an object" in faults[broken.name]
    assert all(b["valves"]["intake"] for b in page.bodies if not b["fault"])
    with database.sessions(seeded)() as session:
        kept = board_page(session, Sought(), 0, 30, made_anew, never_needed)
    assert {b["name"]: b["fault"] for b in kept.bodies} == faults


@pytest.mark.slow
def test_rows_that_are_left_when_time_is_up_say_so_and_come_when_asked_again(
    seeded: Engine,
) -> None:
    """As after an update of the program, when every row is stale."""
    with database.sessions(seeded).begin() as session:
        session.execute(update(Summary).values(stamp="of another program"))
        assert not all_worked_out(session)
        first = board_page(session, Sought(), 0, 30, board_body, uncomputed_body, within_s=0)
        assert all(b["pending"] and not any(b["valves"].values()) for b in first.bodies)
        assert {b["next_step"]["sentence"] for b in first.bodies} == {"Being worked out anew."}
    with database.sessions(seeded).begin() as session:
        assert not all_worked_out(session)
        again = board_page(session, Sought(), 0, 30, board_body, uncomputed_body, within_s=60)
        assert not any(b["pending"] for b in again.bodies)
        assert all_worked_out(session)


def _write(session: Session, build: Build, write: str) -> None:
    valve = build.valves[0]
    if write == "reading":
        add_settled(session, valve, "11")
    elif write == "build":
        setup.change_build(session, build, build.version, {"travel_in": 0.15})
    elif write == "valve":
        setup.expect_length(session, valve, valve.version, "7.4", "in")
    elif write == "box":
        rods = {
            "id": uuid4(), "convention": "theoretical", "diameter_in": 0.3125, "count": 16,
            "lifter_end": "ball", "rocker_end": "ball", "note": "",
        }  # fmt: skip
        box.new_box_rod(session, rods, "7.4", "in")
    elif write == "order":
        state = build_states(session, [build.id])[0]
        sheet = order_data.to_dict(order_data.order_sheet(state, datetime.now(UTC)))
        orders.draft(session, state, uuid4(), "set", "", sheet, "Tess")
    elif write == "finding":
        state = build_states(session, [build.id])[0]
        found = FindingIn(key=uuid4(), name="coil", valve="1I", text="0.07")
        sign_off.add_finding(session, state, state.valves[0], found)
    else:
        tool = list_instruments(session)[0]
        setup.change_instrument(session, tool, tool.version, {"closed_in": 6.81})


def rows_read(plan: dict[str, Any], table: str) -> float:
    """How many rows of a table a plan took into its hands, whether it kept them or not."""
    own = (plan["Actual Rows"] + plan.get("Rows Removed by Filter", 0)) * plan["Actual Loops"]
    below = sum(rows_read(part, table) for part in plan.get("Plans", ()))
    return below + (own if plan.get("Relation Name") == table else 0)


def test_a_shop_counted_while_it_came_in_is_not_read_whole_for_each_build(empty: Engine) -> None:
    """The database's own count, taken before a large import ends, says the tables are empty."""
    builds = 33
    with empty.connect() as coming, coming.begin():
        seeding.seed(sessionmaker(coming, join_transaction_mode="create_savepoint"), builds)
        with empty.connect().execution_options(isolation_level="AUTOCOMMIT") as other:
            other.execute(text("ANALYZE"))
    with database.sessions(empty)() as session:
        ids = list(session.scalars(select(Build.id)))
        marks = wholes(session, ids)
        query = MARK.params(of=ids[0]).compile(empty, compile_kwargs={"literal_binds": True})
        told = text(f"EXPLAIN (ANALYZE, FORMAT JSON) {query}".replace(":", r"\:"))
        (found,) = session.scalars(told).one()
        lines = session.scalars(select(func.count()).select_from(Reading)).one()
    assert len(marks) == builds
    assert rows_read(found["Plan"], "readings") <= 2 * lines / builds
