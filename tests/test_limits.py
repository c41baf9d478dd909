"""The page of limits says what the code holds to."""

from pathlib import Path

import pytest

from vivid_arm.api import app, crowd, deps
from vivid_arm.api.board import routes as board
from vivid_arm.api.rocker import views as rocker
from vivid_arm.core.engine import cam
from vivid_arm.documents import photos, readings
from vivid_arm.outside import supplier
from vivid_arm.records import (
    accounts,
    database,
    fields,
    happenings,
    nods,
    shapes,
    whereabouts,
)
from vivid_arm.records.state import load
from vivid_arm.records.state.rocker import MOST_TRIES
from vivid_arm.records.writes import notes, orders, practice

PAGE = (Path(__file__).parents[1] / "docs" / "limits.md").read_text()
PIXELS = photos.MOST_PIXELS


@pytest.mark.parametrize(
    "line",
    [
        f"| body of a request | {app.MOST_BODY_BYTES // 10**6} MB |",
        f"| photo | {photos.MOST_BYTES // 10**6} MB; {PIXELS['JPEG'] // 10**6} megapixels (JPEG, "
        f"HEIC), {PIXELS['PNG'] // 10**6} (PNG); {photos.MOST_SIDE_PX} px a side |",
        f"| table of readings (CSV) | {readings.MOST_ROWS} lines |",
        f"| table of a lobe (CSV) | {cam.MOST_ROWS} lines |",
        f"| notes of a build | {notes.MOST_NOTES} |",
        f"| orders of a build, drafts counted | {orders.MOST_ORDERS} |",
        f"| deeds on a practice engine | {practice.MOST_DEEDS} |",
        f"| lengths that a decision may choose among | {shapes.MOST_LENGTHS} |",
        f"| answer of the supplier | {supplier._MOST_BYTES // 10**6} MB, "
        f"{supplier.TIMEOUT_S:g} s |",
        f"supplier) | {app._LIMIT_S:g} s; {app._LONG_S:g} s |",
        f"| statement, connection or place in the pool | {database.PATIENCE_S} s |",
        f"| rows of a board worked out at once | {board.WORKED_OUT_WITHIN_S:g} s |",
        f"| tries of a valve that are weighed | {MOST_TRIES}, the latest |",
        f"| tries of a valve whose expectation is told | {rocker._TOLD_OF}; of over "
        f"{rocker._FITTED // rocker._TOLD_OF} fewer, {rocker._FITTED} / tries |",
        f"| builds a process remembers whole | {load._MOST_REMEMBERED} |",
        f"| requests a process works on at once | {deps.AT_ONCE}, long ones besides | wait in "
        f"their order, {deps.TURN_WITHIN_S:g} s at most |",
        f"| requests that wait in one process of a port | {crowd.MORE_BY} more than in another | "
        "an answer ends its connection: the next comes to whoever is free to take it |",
        f"| requests that wait in one process while it looks ahead | {deps.BUSY_WITH} | nothing is "
        "foreseen; a page asks again after 10 s |",
        f"| wrong passwords for a name; from an address | {accounts.FREE_TRIES}; "
        f"{accounts.FREE_TRIES_FROM_ONE_PLACE} | 429 with Retry-After: 1 s, doubling to "
        f"{accounts.MOST_WAIT_S} s |",
        f"| idle sign-in; any sign-in | {accounts.IDLE.total_seconds() / 3600:g} h; "
        f"{accounts.LONGEST.days} days |",
        f"| code of an account | {accounts.CODE_LASTS.total_seconds() / 3600:g} h, one use |",
        f"| pairing code of a device | {accounts.PAIRING_LASTS.seconds // 60} min, one use |",
        f"| where a device stands | {whereabouts.GONE_AFTER.seconds} s unless said again |",
        f"| what a page has not heard yet | {happenings._MOST_WAITING} things |",
        f"| valves listed that wait for a nod | {nods._MOST}, the latest |",
        f"| shortest password | {accounts.SHORTEST_PASSWORD} characters |",
        f"| time of a reading | from {fields.FIRST_YEAR} to a day ahead |",
    ],
)
def test_a_limit_of_the_page_is_that_of_the_code(line: str) -> None:
    assert line in PAGE
