"""Whatever a row holds that no check would let in: no page fails, and the board says which."""

from collections.abc import Callable
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text

Json = dict[str, Any]
pytestmark = pytest.mark.slow
PAGES = ("", "/base_circle", "/heads", "/decide", "/rod", "/orders", "/sign_off", "/readings.csv",
         "/file.json", "/order.pdf", "/report.pdf")  # fmt: skip


@pytest.mark.parametrize(
    "spoilt",
    [
        "UPDATE builds SET cam = '{}'", "UPDATE builds SET engine = '{\"firing_order\": []}'",
        "UPDATE builds SET lobe_tables = '{\"intake\": []}'", "UPDATE builds SET rod = '[]'",
        "UPDATE builds SET geometry = '{\"intake\": {\"tip\": \"hammer\"}}'",
        "UPDATE builds SET plan = '7'", "UPDATE builds SET prior = '{\"convention\": \"ells\"}'",
        "UPDATE builds SET limits = '{\"piston\": []}'", "UPDATE builds SET torque = '\"x\"'",
        "UPDATE builds SET ratio_intake = 0", "UPDATE builds SET travel_in = -1",
        "UPDATE builds SET stock_step_in = 0", "UPDATE builds SET picked_intake_in = 9999",
        "UPDATE instruments SET pitch_in = 0",
    ],
)  # fmt: skip
def test_a_spoilt_row_makes_no_page_fail(
    client: TestClient, make_build: Callable[..., Json], settle: Callable[..., Any],
    empty: Engine, spoilt: str,
) -> None:  # fmt: skip
    build, sound = make_build(), make_build(name="Sound")
    for found in (build, sound):
        settle(found, 0, "10")
    with empty.begin() as connection:
        connection.execute(
            text(spoilt + (f" WHERE id = '{build['id']}'" if "builds" in spoilt else ""))
        )
        connection.execute(text("UPDATE builds SET log_count = log_count + 1"))
    board = client.get("/api/builds")
    assert board.status_code == 200
    rows = {row["name"]: row for row in board.json()["builds"]}
    assert set(rows) == {"Test build", "Sound"}
    here = f"/api/builds/{build['id']}"
    answers = {page: client.get(here + page).status_code for page in PAGES}
    valve = f"{here}/valves/{build['valves'][0]['id']}"
    answers |= {page: client.get(valve + page).status_code for page in ("", "/rocker")}
    assert {page: code for page, code in answers.items() if code >= 500} == {}
    assert client.get(f"/api/builds/{sound['id']}/decide").status_code == 200


@pytest.mark.parametrize("at", ["99999-01-01", "9999-12-31 23:59:59-01", "infinity"])
def test_a_time_beyond_the_calendar_makes_no_page_fail(
    client: TestClient, make_build: Callable[..., Json], settle: Callable[..., Any],
    empty: Engine, at: str,
) -> None:  # fmt: skip
    """A line of the log kept by an earlier program; it can never be changed or taken out."""
    build = make_build()
    settle(build, 0, "10")
    copied = "key, valve_id, instrument_id, kind, raw, raw_gap, turns, length_in, feel, raw_rod, " \
        "reason, taken_by, build_version"  # fmt: skip
    with empty.begin() as connection:
        connection.execute(
            text(
                f"INSERT INTO readings ({copied}, number, taken_at) SELECT gen_random_uuid(), "
                f"{copied.removeprefix('key, ')}, 4, '{at}' FROM readings LIMIT 1"
            )
        )
        connection.execute(text("UPDATE builds SET log_count = log_count + 1"))
    assert client.get("/api/builds").status_code == 200
    here = f"/api/builds/{build['id']}"
    assert {page: c for page in PAGES if (c := client.get(here + page).status_code) >= 400} == {}
