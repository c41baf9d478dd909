"""Requests no page would send: each is a problem in the one shape, and never an error of ours."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from threading import Event
from typing import Any
from uuid import uuid4

import httpx
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text

from vivid_arm.api.app import MOST_BODY_BYTES

Json = dict[str, Any]
Make = Callable[..., Json]


def told(answer: Any, status: int) -> Json:
    assert answer.status_code == status, answer.text[:300]
    assert answer.headers["content-type"] == "application/problem+json"
    assert answer.headers["x-content-type-options"] == "nosniff"
    found: Json = answer.json()
    assert found["status"] == status
    assert found["detail"]
    return found


@pytest.mark.parametrize(
    ("method", "path", "status"),
    [
        ("GET", "/assets/nope.js", 404), ("GET", "/api/nope", 404), ("GET", "/" + "x" * 300, 404),
        ("GET", "/%00", 404), ("GET", "/assets/%2e%2e/%2e%2e/x", 404), ("PUT", "/api/builds", 405),
        ("GET", "/api/builds?search=%00", 422), ("GET", "/api/builds?search=%ED%A0%80", 200),
        ("GET", "/api/builds?offset=9999999999999999999999", 422),
        ("GET", "/api/builds/" + "9" * 300, 422), ("GET", "/api/backups/..%2f..%2fetc", 404),
        ("GET", "/api/backups/day-2026-11-26.vivid-arm.zip", 404),
    ],
)  # fmt: skip
def test_addresses(client: TestClient, method: str, path: str, status: int) -> None:
    answer = client.request(method, path)
    if status == 200:
        assert answer.status_code == 200
        return
    told(answer, status)
    if status == 405:
        assert "POST" in answer.headers["allow"]


@pytest.mark.parametrize(
    "name", ["", " ", "\t", "\u00a0", "\u200b", "a\nb", "\x00", "a\u2028b", "x" * 201]
)
def test_a_name_of_blanks_or_controls_is_refused(client: TestClient, name: str) -> None:
    body = {"id": str(uuid4()), "name": name}
    assert told(client.post("/api/builds", json=body), 422)["field"] == "name"


def test_a_lone_surrogate_is_no_text(client: TestClient) -> None:
    body = f'{{"id": "{uuid4()}", "name": "\\ud800"}}'
    headers = {"content-type": "application/json"}
    told(client.post("/api/builds", content=body, headers=headers), 422)


@pytest.mark.parametrize("body", [b"", b"{", b"[" * 100_000, b"\xff\xfe", b"null", b"1e999"])
def test_bodies_that_are_none(client: TestClient, body: bytes) -> None:
    headers = {"content-type": "application/json"}
    answer = client.post("/api/builds", content=body, headers=headers)
    told(answer, 400 if body[:1] == b"[" else 422)


@pytest.mark.parametrize("value", [0, 1, "yes", None, [], "true"])
def test_a_yes_is_a_yes(client: TestClient, make_build: Make, value: Any) -> None:
    build = make_build(layout="single", cylinders=1)
    body = {"key": str(uuid4()), "name": "tip", "valve": "1I", "yes": value}
    told(client.post(f"/api/builds/{build['id']}/findings", json=body), 422)


def test_a_body_too_long_is_not_read(client: TestClient, make_build: Make) -> None:
    """Told by its length, and where none is said, while it comes in."""
    build = make_build()
    url = f"/api/builds/{build['id']}/readings.csv"
    headers = {"content-length": str(MOST_BODY_BYTES + 1), "content-type": "text/csv"}
    told(client.post(url, content=b"x", headers=headers), 413)
    sent = 0

    def endless() -> Any:
        nonlocal sent
        while sent < 3 * MOST_BODY_BYTES:
            sent += 1_000_000
            yield b"x" * 1_000_000

    headers = {"content-type": "application/json"}
    answer = client.post("/api/builds", content=endless(), headers=headers)
    assert told(answer, 413)["detail"].startswith("More than 20 MB")


def test_one_cell_of_200_kb_is_named(client: TestClient, make_build: Make) -> None:
    build = make_build()
    table = f"valve,kind,reading,feel\n1I,trial,{'1' * 200_000},zero\n"
    answer = client.post(f"/api/builds/{build['id']}/readings", json={"text": table})
    assert len(told(answer, 422)["detail"]) < 1000


@pytest.mark.parametrize("start", ["=", "+", "-", "@", "\t", "\r", "\n"])
def test_no_cell_is_a_formula(
    client: TestClient, make_build: Make, trial: Callable[..., Any], empty: Engine, start: str
) -> None:
    """A spreadsheet would run it; the sheet keeps the words and not the start."""
    build = make_build()
    trial(build, 0, "10", "zero", by="Tess")
    with empty.begin() as connection:
        connection.execute(text("SET LOCAL session_replication_role = replica"))
        connection.execute(text("UPDATE readings SET taken_by = :by"), {"by": f"{start}1+1"})
        connection.execute(text("UPDATE builds SET version = version + 1"))
    table = client.get(f"/api/builds/{build['id']}/readings.csv").text
    assert f",{start}1+1" not in table
    assert f',"{start}1+1' not in table
    assert "1+1" in table


@pytest.mark.parametrize("shelf", ["archive", "bin"])
def test_a_build_put_away_comes_back_as_it_was(
    client: TestClient, make_build: Make, shelf: str
) -> None:
    build, other = make_build(name="Spoilt"), make_build(name="Sound")
    url = f"/api/builds/{build['id']}"
    before = client.get(url).json()
    for _ in range(2):
        put = client.delete(url) if shelf == "bin" else client.post(f"{url}/archive")
        assert put.status_code == 204
    board = client.get("/api/builds").json()
    counts = {"archive": board["archived"], "bin": board["binned"]}
    assert [b["id"] for b in board["builds"]] == [other["id"]]
    assert (counts[shelf], sum(counts.values())) == (1, 1)
    away = client.get(f"/api/builds?shelf={shelf}").json()
    assert [b["id"] for b in away["builds"]] == [build["id"]]
    for _ in range(2):
        assert client.post(f"{url}/back").status_code == 204
    assert client.get("/api/builds").json()["total"] == 2
    same = {k: v for k, v in client.get(url).json().items() if k not in ("version", "updated_at")}
    assert same == {k: before[k] for k in same}
    told(client.delete(f"/api/builds/{uuid4()}"), 404)


@pytest.mark.parametrize(
    ("code", "words"),
    [("53100", "the disk is full"), ("25006", "read-only"), ("58030", "the disk gives errors")],
)
def test_a_disk_that_takes_nothing_is_said(
    client: TestClient, make_build: Make, trial: Callable[..., Any], empty: Engine,
    code: str, words: str,
) -> None:  # fmt: skip
    """PostgreSQL's own error codes, raised where it would raise them."""
    build = make_build()
    refuse = (
        "CREATE OR REPLACE FUNCTION refuse() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN"
        f" RAISE EXCEPTION 'no' USING ERRCODE = '{code}'; END $$"
    )
    with empty.begin() as connection:
        connection.execute(text(refuse))
        for table in ("readings", "pulse"):
            connection.execute(text(f"CREATE TRIGGER full_disk BEFORE INSERT ON {table}"
                                    " FOR EACH ROW EXECUTE FUNCTION refuse()"))  # fmt: skip
    try:
        answer = told(trial(build, 0, "10", "zero"), 507)
        health = client.get("/api/health")
    finally:
        with empty.begin() as connection:
            for table in ("readings", "pulse"):
                connection.execute(text(f"DROP TRIGGER full_disk ON {table}"))
    assert words in answer["detail"]
    assert (health.status_code, health.json()["status"]) == (503, "cannot write")
    assert words in health.json()["why"]
    assert client.get("/api/health").json()["status"] == "ok"
    assert trial(build, 0, "10", "zero").status_code == 201


def test_the_document_is_made_beside_what_else_is_answered(
    live: str, app: FastAPI, monkeypatch: pytest.MonkeyPatch
) -> None:
    """On a busy machine it takes seconds; nobody waits for it, and it is not cut short."""
    made, asked = app.openapi(), Event()
    goes_on = Event()

    def slowly() -> Json:
        asked.set()
        assert goes_on.wait(30)
        return made

    monkeypatch.setattr(app, "openapi", slowly)
    with ThreadPoolExecutor() as beside:
        document = beside.submit(httpx.get, f"{live}/api/openapi.json", timeout=30)
        assert asked.wait(30)
        others = [httpx.get(f"{live}/api/health"), httpx.delete(f"{live}/api/builds")]
        goes_on.set()
    assert [other.status_code for other in others] == [200, 405]
    assert document.result().json()["paths"] == made["paths"]
