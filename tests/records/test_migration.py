"""An older database with work in it comes up to date and keeps its work."""

from collections.abc import Iterator
from uuid import uuid4

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.engine import make_url

from tests.builders import at_revision
from vivid_arm.records import database
from vivid_arm.records.state.load import build_states
from vivid_arm.records.tables import Base


@pytest.fixture
def older(cluster_url: str) -> Iterator[Engine]:
    """A database of its own at the first migration."""
    name = f"older_{uuid4().hex[:8]}"
    admin = create_engine(cluster_url, isolation_level="AUTOCOMMIT")
    with admin.connect() as connection:
        connection.execute(text(f"CREATE DATABASE {name}"))
    engine = database.connect(make_url(cluster_url).set(database=name).render_as_string(False))
    at_revision(engine, "0001")
    yield engine
    engine.dispose()
    with admin.connect() as connection:
        connection.execute(text(f"DROP DATABASE {name}"))
    admin.dispose()


BUILD = """
INSERT INTO builds (id, version, name, layout, cylinders, ratio_intake, ratio_exhaust,
  preload_low_in, preload_high_in, preload_target_in, travel_in, gaps, lifter_end, lifter_ball_in,
  lifter_hole_in, rocker_end, rocker_ball_in, rocker_hole_in, gauge_circle_in, order_convention,
  stock_step_in, bias, instrument_id)
VALUES (:build, 3, 'Old mill', 'inline', 6, 1.5, 1.5, 0.02, 0.06, 0.04, 0.14, true, 'ball', 0.3125,
  0, 'ball', 0.3125, 0, 0.14, 'theoretical', 0.025, 'longer', :rod)
"""
ROWS = (
    "INSERT INTO instruments (id, version, kind, name, convention, closed_in, pitch_in, most_turns)"
    " VALUES (:rod, 1, 'checking_rod', 'Rod', 'theoretical', 6.8, 0.05, 20)",
    BUILD,
    "INSERT INTO valves (id, version, build_id, cylinder, kind)"
    " VALUES (:valve, 1, :build, 1, 'intake')",
    "INSERT INTO readings (key, valve_id, instrument_id, kind, number, raw, raw_gap, turns,"
    " length_in, feel, reason, taken_by, build_version) VALUES (gen_random_uuid(), :valve, :rod,"
    " 'trial', 1, '11', '', 11, 7.35, 'zero', '', 'Tess', 3)",
)


def test_a_measured_build_of_the_first_version_goes_on_as_it_was(older: Engine) -> None:
    ids = {"build": uuid4(), "rod": uuid4(), "valve": uuid4()}
    with older.begin() as connection:
        for row in ROWS:
            connection.execute(text(row), ids)
    for _ in range(2):
        at_revision(older, "head")
        with database.sessions(older)() as session:
            state = build_states(session, [ids["build"]])[0]
            assert state.valves[0].estimate_in == pytest.approx(7.35)
            assert state.engine.firing_order == (1, 5, 3, 6, 2, 4)
            assert (state.build.mount, state.build.lifter_kind) == ("pedestal", "hydraulic")
            assert state.build.version == 3
        at_revision(older, "0001", down=True)
        with older.connect() as connection:
            assert connection.scalar(text("SELECT count(*) FROM readings")) == 1


def test_migrations_match_the_models_and_go_back(older: Engine) -> None:
    """Alembic finds nothing to change, and down and up again works."""
    database.migrate(older)
    with older.connect() as connection:
        context = MigrationContext.configure(connection)
        assert compare_metadata(context, Base.metadata) == []
    at_revision(older, "base", down=True)
    assert database.revision(older) is None
    database.migrate(older)
    assert database.revision(older) == database.head()
