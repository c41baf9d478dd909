"""Devices of a shop with accounts: paired by a code, ended, and where each of them stands."""

import re
from uuid import uuid4

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text

from tests.api.test_accounts import (
    PASSWORD,
    Enter,
    browser,
    enter,
    nobody,
    owner,
    peopled,
    quick_hashes,
)
from tests.hearing import hearing
from tests.standins import serving
from vivid_arm.api.app import make_app
from vivid_arm.demo import shop
from vivid_arm.records import accounts, database

__all__ = ["enter", "nobody", "owner", "peopled", "quick_hashes"]


def paired(app: FastAPI, by: TestClient, label: str = "Phone") -> TestClient:
    """A device signed in by a code that somebody made."""
    code = by.post("/api/pairings").json()["code"]
    device = browser(app)
    answer = device.post("/api/pair", json={"code": code, "label": label})
    assert answer.status_code == 200, answer.text
    return device


def test_a_device_is_paired_once_within_two_minutes(
    peopled: FastAPI, owner: TestClient, engine: Engine
) -> None:
    told = owner.post("/api/pairings").json()
    assert told["address"] == f"http://127.0.0.1/pair#{told['code']}"
    assert told["only_here"] is True
    phone = browser(peopled)
    body = {"code": told["code"].lower(), "label": "Phone"}
    assert phone.post("/api/pair", json=body).json()["name"] == "Orla"
    assert phone.get("/api/builds").status_code == 200
    again = browser(peopled).post("/api/pair", json=body)
    assert (again.status_code, again.json()["code"]) == (403, "not_let_in")
    late = owner.post("/api/pairings").json()["code"]
    with engine.begin() as connection:
        left = "until BETWEEN now() + interval '110 s' AND now() + interval '2 min'"
        assert connection.scalar(text(f"SELECT count(*) FROM invitations WHERE {left}")) == 1
        connection.execute(text("UPDATE invitations SET until = now() - interval '1 s'"))
    assert browser(peopled).post("/api/pair", json={"code": late}).status_code == 403


def test_a_code_opens_only_what_it_was_made_for(peopled: FastAPI, owner: TestClient) -> None:
    me = owner.get("/api/accounts").json()[0]
    first = owner.post("/api/pairings").json()["code"]
    second = owner.post("/api/pairings").json()["code"]
    lost = owner.post(f"/api/accounts/{me['id']}/code").json()["code"]
    assert browser(peopled).post("/api/pair", json={"code": first}).status_code == 403
    assert browser(peopled).post("/api/pair", json={"code": lost}).status_code == 403
    taken = {"code": second, "password": "another three words"}
    assert browser(peopled).post("/api/join", json=taken).status_code == 403
    assert browser(peopled).post("/api/pair", json={"code": second}).status_code == 200
    assert browser(peopled).post("/api/join", json=taken | {"code": lost}).status_code == 200


def test_a_code_of_whoever_was_shut_out_is_void(
    peopled: FastAPI, owner: TestClient, enter: Enter
) -> None:
    tess = enter("builder")
    code = tess.post("/api/pairings").json()["code"]
    a = next(x for x in owner.get("/api/accounts").json() if x["name"] == "A builder")
    owner.patch(f"/api/accounts/{a['id']}", json={"version": a["version"], "active": False})
    assert browser(peopled).post("/api/pair", json={"code": code}).status_code == 403


def test_pairing_codes_are_not_guessed(peopled: FastAPI, owner: TestClient) -> None:
    owner.post("/api/pairings")
    wrong = [
        browser(peopled).post("/api/pair", json={"code": f"ABCD-EFGH-{n:04}"}) for n in range(40)
    ]
    assert {a.status_code for a in wrong} == {403, 429}
    assert sum(a.status_code == 403 for a in wrong) <= 26


def test_a_device_does_what_its_account_may_and_no_more(peopled: FastAPI, enter: Enter) -> None:
    phone = paired(peopled, enter("apprentice"))
    refused = phone.post(f"/api/builds/{uuid4()}/signatures", json={})
    assert (refused.status_code, refused.json()["code"]) == (403, "role")
    assert phone.get("/api/accounts").status_code == 403


def test_whoever_was_signed_in_on_a_device_before_is_signed_out(
    peopled: FastAPI, owner: TestClient, enter: Enter
) -> None:
    """A code of somebody else's does not leave two people in one browser."""
    tess = enter("builder")
    token = tess.cookies["vivid-arm"]
    code = owner.post("/api/pairings").json()["code"]
    assert tess.post("/api/pair", json={"code": code}).json()["name"] == "Orla"
    assert tess.get("/api/me").json()["name"] == "Orla"
    old = browser(peopled)
    old.cookies.set("vivid-arm", token, domain="127.0.0.1", path="/")
    assert old.get("/api/builds").status_code == 401


def test_a_device_is_ended_by_whose_it_is_or_an_owner(
    peopled: FastAPI, owner: TestClient, enter: Enter
) -> None:
    tess = enter("builder")
    phone = paired(peopled, tess, "Phone of Tess")
    listed = tess.get("/api/devices").json()
    assert [(e["label"], e["here"]) for e in listed if e["label"]] == [("Phone of Tess", False)]
    (mine,) = [e["id"] for e in listed if e["label"]]
    owners = owner.get("/api/devices").json()[0]["id"]
    assert tess.post(f"/api/devices/{owners}/sign-out").status_code == 404
    assert tess.post(f"/api/devices/{uuid4()}/sign-out").status_code == 404
    assert len(tess.post(f"/api/devices/{mine}/sign-out").json()) == 1
    assert phone.get("/api/builds").status_code == 401
    assert tess.post(f"/api/devices/{mine}/sign-out").status_code == 200
    assert owner.post(f"/api/devices/{mine}/sign-out").status_code == 200


@pytest.fixture
def stocked(owner: TestClient, engine: Engine) -> tuple[str, str, str]:
    """A build of the demo: its id, one of its valves, that valve's name."""
    with database.sessions(engine).begin() as session:
        shop.load(session)
    build = owner.get("/api/builds").json()["builds"][0]["id"]
    valve = owner.get(f"/api/builds/{build}").json()["valves"][-1]
    return build, valve["id"], valve["name"]


def test_who_is_where(
    peopled: FastAPI, owner: TestClient, engine: Engine, stocked: tuple[str, str, str]
) -> None:
    build, valve, name = stocked
    phone = paired(peopled, owner)
    here = {"station": "zero_lash", "build_id": build, "valve_id": valve, "turns": 9.125}
    (own,) = phone.post("/api/here", json=here).json()
    assert (own["mine"], own["name"], own["label"]) == (True, "Orla", "Phone")
    (seen,) = owner.get("/api/here").json()
    assert (seen["mine"], seen["valve_name"], seen["turns"]) == (False, name, 9.125)
    # A valve of another build, or one that is not there, is nowhere.
    phone.post("/api/here", json=here | {"valve_id": str(uuid4())})
    assert owner.get("/api/here").json()[0]["valve_name"] is None
    phone.post("/api/here", json=here | {"build_id": str(uuid4())})
    lost = owner.get("/api/here").json()[0]
    assert (lost["build_id"], lost["valve_id"]) == (None, None)
    with engine.begin() as connection:
        connection.execute(text("UPDATE sign_ins SET there_at = now() - interval '51 s'"))
    assert owner.get("/api/here").json() == []


@pytest.mark.parametrize(
    ("field", "value"),
    [("station", "Zero lash"), ("station", ""), ("build_id", "x"), ("turns", 101), ("turns", -1)],
)
def test_a_place_that_cannot_be_is_refused(owner: TestClient, field: str, value: object) -> None:
    refused = owner.post("/api/here", json={"station": "rocker", field: value})
    assert (refused.status_code, refused.json()["field"]) == (422, field)


def test_without_accounts_there_are_no_devices(client: TestClient) -> None:
    for path in ("/api/pairings", "/api/pair", "/api/here"):
        body = {"code": "ABCD", "station": "board"} if path != "/api/pairings" else None
        assert client.post(path, json=body).status_code in (404, 422)
    assert client.get("/api/here").status_code == 404


@pytest.mark.slow
def test_a_stream_ends_with_the_sign_in(working: str, empty: Engine) -> None:
    app = make_app(working, people=True)
    with serving(app) as url:
        with database.sessions(empty).begin() as session:
            code = accounts.first_code(session)
        orla = browser(app)
        orla.post("/api/join", json={"code": code, "name": "Orla", "password": PASSWORD})
        phone = paired(app, orla)
        cookies = {"vivid-arm": phone.cookies["vivid-arm"]}
        with hearing(url, cookies=cookies) as ear:
            orla.post("/api/here", json={"station": "board"})
            ear.until(lambda t: t["what"] == "people")
            (device,) = [e["id"] for e in orla.get("/api/devices").json() if e["label"]]
            orla.post(f"/api/devices/{device}/sign-out")
            assert ear.until(lambda t: t["what"] == "ended")


def test_a_pairing_leads_to_no_name_that_was_forged(owner: TestClient) -> None:
    forged = owner.post("/api/pairings", headers={"host": "evil.example"})
    assert forged.status_code == 400
    lent = owner.post("/api/pairings", headers={"x-forwarded-host": "evil.example"}).json()
    assert lent["address"].startswith("http://127.0.0.1/pair#")
    other = owner.post("/api/pairings", headers={"origin": "https://evil.example"})
    assert other.status_code == 403


def test_the_picture_of_a_pairing_is_a_svg_of_its_own(owner: TestClient) -> None:
    """It loads nothing from elsewhere; what it says is read from it in the browser's test."""
    picture = owner.post("/api/pairings").json()["picture"]
    assert picture.startswith("data:image/svg+xml")
    assert not re.search(r"href|script|url\(", picture)
