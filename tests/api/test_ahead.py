"""What each feel would make of the station, told before the rod is felt."""

from collections.abc import Callable
from typing import Any
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from vivid_arm.api import deps

Json = dict[str, Any]
Make = Callable[..., Json]
Trial = Callable[..., Any]

# Valve, turns, feel: a first valve settled, a second that a slip sets against it, a third that
# contradicts itself, and one that goes on after it was settled.
_JOB = [
    (0, 10.0, "loose"), (0, 11.0, "tight"), (0, 10.75, "zero"), (0, 10.5, "loose"),
    (2, 10.5, "loose"), (2, 10.75, "zero"), (2, 11.0, "tight"),
    (4, 14.0, "loose"), (4, 14.25, "zero"), (4, 14.5, "tight"),
    (6, 11.0, "loose"), (6, 10.0, "tight"), (6, 10.5, "zero"),
    (0, 10.75, "zero"), (0, 10.25, "tight"),
]  # fmt: skip


def _here(build: Json, valve: int) -> str:
    return f"/api/builds/{build['id']}/valves/{build['valves'][valve]['id']}"


@pytest.fixture
def ahead(client: TestClient) -> Callable[..., Any]:
    def ask(build: Json, valve: int, **asked: Any) -> Any:
        return client.get(f"{_here(build, valve)}/ahead", params=asked)

    return ask


def test_what_was_foreseen_is_what_the_reading_gives(
    client: TestClient, make_build: Make, trial: Trial, ahead: Trial
) -> None:
    build = make_build()
    states, doubted = set(), set()
    for valve, turns, feel in _JOB:
        before = client.get(_here(build, valve)).json()
        told = ahead(build, valve, turns=turns, crank_deg=120).json()
        kept = trial(build, valve, f"{turns} turns", feel, crank_deg=120).json()
        foreseen = told["once_felt"][feel]
        assert foreseen.pop("log") == before["log"], (valve, turns, feel)
        assert len(kept.pop("log")) == len(before["log"]) + 1
        kept.pop("build")
        assert foreseen == kept, (valve, turns, feel)
        assert told["instrument_id"] == build["instrument"]["id"]
        states.add(kept["verdict"]["state"])
        doubted.add(kept["suspicion"] is not None)
    assert {"closing", "settled", "conflict"} <= states, "the job comes by all of them"
    assert doubted == {True, False}


def test_the_feels_that_were_not_felt_leave_nothing(
    client: TestClient, make_build: Make, trial: Trial, ahead: Trial
) -> None:
    """Looking ahead to three feels keeps none of them, and moves nothing of the build."""
    build = make_build()
    trial(build, 0, "10", "loose")
    before = client.get(_here(build, 0)).json()
    happened = client.get(f"/api/builds/{build['id']}/history").json()
    found = ahead(build, 0, turns=10.75).json()["once_felt"]
    assert found["loose"]["verdict"]["what"] != found["tight"]["verdict"]["what"]
    assert client.get(_here(build, 0)).json() == before
    assert client.get(f"/api/builds/{build['id']}/history").json() == happened


@pytest.mark.parametrize(
    ("asked", "field"),
    [({"turns": 20.25}, "turns"), ({"turns": -1}, "turns"), ({}, "turns"),
     ({"turns": "nan"}, "turns"), ({"turns": 3, "crank_deg": 720}, "crank_deg")],
)  # fmt: skip
def test_a_rod_that_cannot_stand_so_is_refused(
    make_build: Make, ahead: Trial, asked: Json, field: str
) -> None:
    answer = ahead(make_build(), 0, **asked)
    assert (answer.status_code, answer.json()["field"]) == (422, field)


def test_only_a_checking_rod_is_looked_ahead_for(
    client: TestClient, make_build: Make, ahead: Trial
) -> None:
    body = {
        "id": str(uuid4()),
        "kind": "caliper",
        "name": "Long caliper",
        "low_in": 0,
        "high_in": 9,
    }
    caliper = client.post("/api/instruments", json=body).json()
    answer = ahead(make_build(instrument_id=caliper["id"]), 0, turns=3)
    assert (answer.status_code, answer.json()["code"]) == (422, "no_turns")
    assert ahead(make_build(instrument_id=None), 0, turns=3).json()["code"] == "no_turns"


def test_a_busy_shop_looks_ahead_for_nobody(
    make_build: Make, ahead: Trial, monkeypatch: pytest.MonkeyPatch
) -> None:
    build = make_build()
    assert set(ahead(build, 0, turns=3).json()["once_felt"]) == {"loose", "zero", "tight"}
    monkeypatch.setattr(deps, "BUSY_WITH", 0)
    assert ahead(build, 0, turns=3).json()["once_felt"] == {}
