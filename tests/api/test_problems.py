"""Bad input: one problem shape, field and limit and likely slip, never a 5xx."""

import asyncio
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from typing import Any
from uuid import uuid4

import httpx
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Connection, Engine, text
from starlette.responses import PlainTextResponse
from starlette.types import Message, Receive, Scope, Send

from tests.builders import wait_for
from tests.standins import serving, sharing
from vivid_arm.api import app
from vivid_arm.api.crowd import Crowd
from vivid_arm.records import database

Json = dict[str, Any]


def check_problem(answer: Any, status: int, *words: str, field: str | None = None) -> Json:
    assert answer.status_code == status, answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    body: Json = answer.json()
    assert body["status"] == status
    assert {"type", "title", "code", "detail"} <= body.keys()
    if field:
        assert body["field"] == field
    for word in words:
        assert word in body["detail"]
    return body


@pytest.mark.parametrize(
    ("setting", "gap", "field", "words", "suggested"),
    [
        ("", "", "turns", ("Turns are empty",), None),
        ("ten", "", "turns", ("not a count of turns",), None),
        ("-2", "", "turns", ("outside 0 to 60",), "2"),
        ("10.3", "", "turns", ("not a whole number of eighths",), "10 1/4"),
        ("21", "", "turns", ("more than this rod opens (20)",), None),
        ("10", "650", "gap", ("Gap at the tip", "outside 0.0005 in to 0.5000 in"), "65.0 thou"),
        ("10", ".155 mm", "gap", ("would be 6.1 thou; were inches meant?",), ".155 in"),
        ("10", "wide", "gap", ("not a length",), None),
    ],
)
def test_bad_trials(
    make_build: Callable[..., Json],
    trial: Callable[..., Any],
    client: TestClient,
    setting: str,
    gap: str,
    field: str,
    words: tuple[str, ...],
    suggested: str | None,
) -> None:
    build = make_build()
    body = check_problem(trial(build, 0, setting, "loose", gap=gap), 422, *words, field=field)
    assert body.get("suggestion", {}).get("text") == suggested
    url = f"/api/builds/{build['id']}/valves/{build['valves'][0]['id']}"
    assert client.get(url).json()["log"] == []


@pytest.mark.parametrize(
    ("text", "words", "suggested"),
    [
        ("70", "outside 3.0000 in to 12.0000 in", "7.0 in"),
        ("0.7", "outside 3.0000 in to 12.0000 in", "7.0 in"),
        ("7402", "outside", "7.402 in"),
        ("abc", "not a length", None),
        ("", "empty", None),
        ("13", "Length on this caliper", None),
    ],
)
def test_bad_caliper_readings(
    client: TestClient,
    make_build: Callable[..., Json],
    trial: Callable[..., Any],
    text: str,
    words: str,
    suggested: str | None,
) -> None:
    caliper = {
        "id": str(uuid4()), "kind": "caliper", "name": "C", "low_in": 0.0, "high_in": 12.0,
    }  # fmt: skip
    client.post("/api/instruments", json=caliper)
    build = make_build(instrument_id=caliper["id"])
    body = check_problem(trial(build, 0, text, "loose"), 422, words)
    assert body.get("suggestion", {}).get("text") == suggested


def test_gap_on_a_tight_rod(make_build: Callable[..., Json], trial: Callable[..., Any]) -> None:
    answer = trial(make_build(), 0, "10", "tight", gap="0.020")
    check_problem(answer, 422, "felt as tight leaves no gap", field="gap")


def test_no_instrument(make_build: Callable[..., Json], trial: Callable[..., Any]) -> None:
    answer = trial(make_build(instrument_id=None), 0, "10", "loose")
    check_problem(answer, 422, "No instrument is chosen")


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"cylinders": 7}, "cylinders", "does not fit layout V"),
        ({"ratio_intake": 16.0}, "ratio", "outside 1 to 2.5"),
        ({"preload_low_in": 0.12}, "preload_low", "runs backwards"),
        ({"travel_in": 0.09}, "travel", "would bottom"),
        ({"travel_in": 70.0}, "travel", "outside"),
        ({"lifter_hole_in": 0.25, "lifter_ball_in": 0.2}, "oil_hole", "does not fit a ball"),
        ({"gauge_circle_in": 0.4}, "gauge_circle", "does not fit a ball"),
        ({"name": None}, "name", "empty"),
        ({"instrument_id": str(uuid4())}, "instrument_id", "not in the shop"),
        ({"picked_intake_in": 0.7}, "rod_length", "outside"),
        ({"colour": "red"}, "colour", "unknown field"),
        ({"travel_in": "0.2"}, "travel_in", "expected a number"),
    ],
)
def test_bad_settings_change_nothing(
    client: TestClient, make_build: Callable[..., Json], change: Json, field: str, words: str
) -> None:
    build = make_build()
    url = f"/api/builds/{build['id']}"
    answer = client.patch(url, json={"version": build["version"]} | change)
    check_problem(answer, 422, words, field=field)
    assert client.get(url).json()["version"] == build["version"]


@pytest.mark.parametrize(
    ("figures", "field", "words"),
    [
        ({"closed_in": 68.0}, "closed_length", "outside 3.0000 in to 16.0000 in"),
        ({"closed_in": None}, "closed_in", "empty"),
        ({"pitch_in": 0.5}, "thread_pitch", "outside"),
        ({"most_turns": 0.0}, "most_turns", "outside 1 to 60"),
        ({"kind": "caliper", "low_in": 12.0, "high_in": 6.0}, "high_in", "runs backwards"),
        ({"kind": "caliper", "low_in": None}, "low_in", "empty"),
        ({"kind": "caliper", "most_turns": 1e4}, "most_turns", "expected at most 9999"),
    ],
)
def test_bad_instruments(client: TestClient, figures: Json, field: str, words: str) -> None:
    body = {
        "id": str(uuid4()), "kind": "checking_rod", "name": "R", "closed_in": 6.8,
        "pitch_in": 0.05, "most_turns": 20.0,
    }  # fmt: skip
    check_problem(client.post("/api/instruments", json=body | figures), 422, words, field=field)
    assert client.get("/api/instruments").json() == []


def test_what_is_not_there(client: TestClient, make_build: Callable[..., Json]) -> None:
    build = make_build()
    check_problem(client.get(f"/api/builds/{uuid4()}"), 404, "no such build")
    check_problem(client.get(f"/api/builds/{build['id']}/valves/{uuid4()}"), 404, "no such valve")
    check_problem(client.get("/api/nothing"), 404)
    check_problem(client.delete("/api/builds"), 405)
    check_problem(client.get(f"/api/builds/{build['id']}/order.pdf"), 422, "nothing to order")


def test_other_hosts_and_framing_are_refused(client: TestClient) -> None:
    for host in ("evil.example", "127.0.0.1.evil.example", "", "[", "10.0.0.5:8610"):
        check_problem(
            client.get("/api/health", headers={"host": host}), 400, "does not answer to this name"
        )
    for host in ("localhost:8610", "[::1]:8610", "127.0.0.1"):
        assert client.get("/api/health", headers={"host": host}).status_code == 200
    headers = client.get("/").headers
    assert "default-src 'self'" in headers["content-security-policy"]
    assert "frame-ancestors 'none'" in headers["content-security-policy"]


def test_a_form_of_another_site_cannot_write(client: TestClient) -> None:
    """What a browser sends across sites without asking (text/plain) is not read as JSON."""
    body = '{"id": "00000000-0000-4000-8000-000000000001", "name": "Planted"}'
    for kind in ("text/plain", "application/x-www-form-urlencoded"):
        answer = client.post("/api/builds", content=body, headers={"content-type": kind})
        check_problem(answer, 422)
    assert client.get("/api/builds").json()["builds"] == []


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({"origin": "http://127.0.0.1:9999"}, 403),
        ({"origin": "http://localhost"}, 403),
        ({"origin": "null"}, 403),
        ({"sec-fetch-site": "cross-site"}, 403),
        ({"sec-fetch-site": "same-site"}, 403),
        ({"origin": "http://127.0.0.1", "sec-fetch-site": "same-origin"}, 201),
        ({"sec-fetch-site": "none"}, 201),
        ({}, 201),
    ],
)
def test_only_its_own_pages_write(client: TestClient, headers: Json, status: int) -> None:
    """Another loopback origin's page may post forms and bodyless requests without asking."""
    body = {"id": str(uuid4()), "name": "From a page"}
    answer = client.post("/api/builds", json=body, headers=headers)
    assert answer.status_code == status
    assert answer.headers["cross-origin-resource-policy"] == "same-origin"
    assert answer.headers["x-content-type-options"] == "nosniff"
    read = client.get("/api/builds", headers=headers)
    assert read.json()["total"] == (1 if status == 201 else 0)
    for send in (client.patch, client.put, client.delete):
        other = send("/api/builds", headers={"origin": "http://evil.example"})
        assert other.status_code == 403


@pytest.mark.parametrize(
    "name",
    ["", "   ", "\u00a0", "two\nlines", "tab\there", "bell\u0007", "null\u0000",
     "turned \u202e back", "isolated \u2066 x", "line \u2028 parted",
     "x\n}}body::before{content:'forged'}"],
)  # fmt: skip
def test_a_name_is_one_line_of_text(
    client: TestClient, make_build: Callable[..., Json], name: str
) -> None:
    refused = client.post("/api/builds", json={"id": str(uuid4()), "name": name})
    check_problem(refused, 422, field="name")
    build = make_build()
    change = {"version": build["version"], "name": name}
    check_problem(client.patch(f"/api/builds/{build['id']}", json=change), 422, field="name")


def test_pages_do_not_leave_their_folder(client: TestClient) -> None:
    answer = client.get("/..%2f..%2fpyproject.toml")
    assert '<div id="app">' in answer.text


def test_a_page_is_never_too_late(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    """Where a machine stands still for a while, its page comes after that."""
    monkeypatch.setattr(app, "_LIMIT_S", 0.0)
    check_problem(client.get("/api/instruments"), 503, "No answer in time")
    assert '<div id="app">' in client.get("/builds/anything/setup").text


@pytest.mark.parametrize(("still_s", "status"), [(1.3, 200), (0.0, 503)])
def test_what_stood_still_with_the_whole_process_is_answered(
    monkeypatch: pytest.MonkeyPatch, still_s: float, status: int
) -> None:
    """It has its time once the process goes on; one that hangs by itself has not."""
    monkeypatch.setattr(app, "_LIMIT_S", 0.2)
    told: list[Message] = []

    async def work(scope: Scope, receive: Receive, send: Send) -> None:
        await asyncio.sleep(0)
        time.sleep(still_s)
        await asyncio.sleep(0.05 if still_s else 30)
        await PlainTextResponse("kept")(scope, receive, send)

    async def send(message: Message) -> None:
        told.append(message)

    async def receive() -> Message:
        return {"type": "http.request"}

    scope = {"type": "http", "method": "GET", "path": "/api/box", "headers": []}
    asyncio.run(app._in_time(work, scope, receive, send))
    assert told[0]["status"] == status


def test_openapi_documents_every_refusal(client: TestClient) -> None:
    document = client.get("/api/openapi.json").json()
    for path in document["paths"].values():
        for operation in path.values():
            refusal = operation["responses"]["422"]["content"]
            assert list(refusal) == ["application/problem+json"]


@contextmanager
def held_up(
    working: str, empty: Engine, monkeypatch: pytest.MonkeyPatch, crowd: Crowd | None = None
) -> Iterator[tuple[str, Callable[[], None], Future[httpx.Response]]]:
    """A shop that works on a request that waits for a lock: its address, and what lets it go on."""
    monkeypatch.setattr(database, "PATIENCE_S", 60)
    monkeypatch.setattr(app, "_LIMIT_S", 60.0)
    made = app.make_app(working, crowd=crowd)
    with serving(made) as url, ThreadPoolExecutor() as pool, empty.begin() as held:
        held.execute(text("LOCK TABLE instruments IN ACCESS EXCLUSIVE MODE"))
        hung = pool.submit(httpx.get, f"{url}/api/instruments", timeout=90, trust_env=False)
        wait_for(lambda: waits_for_a_lock(held))

        def let_go() -> None:
            held.execute(text("ROLLBACK"))

        yield url, let_go, hung


def test_what_hangs_does_not_hang_those_behind_it(
    working: str, empty: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    """One request waits for a lock; the next is answered while it does, and so is it at last."""
    with held_up(working, empty, monkeypatch) as (url, let_go, hung):
        assert httpx.get(f"{url}/api/box", timeout=60, trust_env=False).status_code == 200
        assert not hung.done()
        let_go()
        assert hung.result().status_code == 200


def test_of_many_who_wait_some_are_sent_to_another_process(
    working: str, empty: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Where another process of the port has nobody waiting, an answer ends its connection."""
    with (
        sharing(crowd := Crowd(2)),
        held_up(working, empty, monkeypatch, crowd) as (url, let_go, hung),
        ThreadPoolExecutor(6) as pool,
        httpx.Client(base_url=url, timeout=60, trust_env=False) as http,
    ):
        asked = [pool.submit(httpx.get, f"{url}/api/box", timeout=60, trust_env=False)
                 for _ in range(6)]  # fmt: skip
        assert "close" in {one.result().headers.get("connection") for one in asked}
        let_go()
        assert hung.result().status_code == 200
        assert "connection" not in http.get("/api/box").headers, "nobody waits any more"


def waits_for_a_lock(session: Connection) -> bool:
    return bool(session.scalar(text("SELECT count(*) FROM pg_locks WHERE NOT granted")))
