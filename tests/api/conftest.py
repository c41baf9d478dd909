"""The application on the test database, asked through its real HTTP interface."""

from collections.abc import Callable, Iterator
from typing import Any
from uuid import uuid4

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import Engine

from tests.builders import settling

Json = dict[str, Any]


@pytest.fixture
def client(app: FastAPI, empty: Engine) -> Iterator[TestClient]:
    with TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
        yield client


@pytest.fixture
def rod(client: TestClient) -> Json:
    body = {
        "id": str(uuid4()), "kind": "checking_rod", "name": "Rod", "closed_in": 6.8,
        "pitch_in": 0.05, "most_turns": 20,
    }  # fmt: skip
    answer = client.post("/api/instruments", json=body)
    assert answer.status_code == 201, answer.text
    return answer.json()  # type: ignore[no-any-return]


@pytest.fixture
def make_build(client: TestClient, rod: Json) -> Callable[..., Json]:
    def make(**settings: Any) -> Json:
        body = {
            "id": str(uuid4()), "name": "Test build", "instrument_id": rod["id"],
            "preload_low_in": 0.05, "preload_high_in": 0.1, "preload_target_in": 0.07,
            "travel_in": 0.2,
        }  # fmt: skip
        answer = client.post("/api/builds", json=body | settings)
        assert answer.status_code == 201, answer.text
        return answer.json()  # type: ignore[no-any-return]

    return make


@pytest.fixture
def trial(client: TestClient) -> Callable[..., Any]:
    def send(build: Json, valve: int, setting: str, feel: str, **more: Any) -> Any:
        url = f"/api/builds/{build['id']}/valves/{build['valves'][valve]['id']}/trials"
        body = {"key": str(uuid4()), "setting": setting, "feel": feel} | more
        return client.post(url, json=body)

    return send


@pytest.fixture
def settle(trial: Callable[..., Any]) -> Callable[..., Any]:
    """Measure a valve to zero lash at so many turns; the last answer."""

    def measure(build: Json, valve: int, turns: str, **more: Any) -> Any:
        answers = [trial(build, valve, x, feel, **more) for x, feel in settling(turns)]
        assert [a.status_code for a in answers] == [201] * 3, answers[-1].text
        return answers[-1]

    return measure
