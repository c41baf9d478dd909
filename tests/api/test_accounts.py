"""A shop with accounts: who is let in, what each role may, and what is tried against it."""

import re
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest
from argon2 import PasswordHasher
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text

from vivid_arm.api.accounts.guard import rights_table, roles_with
from vivid_arm.api.app import make_app
from vivid_arm.demo import shop
from vivid_arm.records import accounts, database
from vivid_arm.records.accounts import RIGHTS

ROOT = Path(__file__).parents[2]
Json = dict[str, Any]
PASSWORD = "three words apart"
Enter = Callable[[str], TestClient]


@pytest.fixture(autouse=True)
def quick_hashes(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    """Passwords as dear as they are kept only where that is asked about."""
    if "kept_as_it_is" not in request.node.name:
        cheap = PasswordHasher(time_cost=1, memory_cost=8, parallelism=1)
        monkeypatch.setattr(accounts, "_hasher", cheap)
        monkeypatch.setattr(accounts, "_NOBODY", cheap.hash("nobody"))


@pytest.fixture(scope="module")
def peopled(working: str) -> FastAPI:
    """The application of a shop with accounts."""
    return make_app(working, people=True)


@pytest.fixture
def nobody(peopled: FastAPI, empty: Engine) -> Iterator[TestClient]:
    """A browser that is not signed in."""
    with TestClient(peopled, base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
        yield client


def browser(app: FastAPI) -> TestClient:
    return TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False)


def first_code(engine: Engine) -> str:
    with database.sessions(engine).begin() as session:
        code = accounts.first_code(session)
    assert code is not None
    return code


@pytest.fixture
def owner(peopled: FastAPI, nobody: TestClient, engine: Engine) -> TestClient:
    """The first owner's browser."""
    client = browser(peopled)
    body = {"code": first_code(engine), "name": "Orla", "password": PASSWORD}
    assert client.post("/api/join", json=body).json()["role"] == "owner"
    return client


@pytest.fixture
def enter(peopled: FastAPI, owner: TestClient) -> Enter:
    """A browser of somebody with a role, invited by the owner."""

    def invited(role: str) -> TestClient:
        body = {"id": str(uuid4()), "name": f"A {role}", "role": role}
        made = owner.post("/api/accounts", json=body)
        assert made.status_code == 201, made.text
        client = browser(peopled)
        joined = client.post("/api/join", json={"code": made.json()["code"], "password": PASSWORD})
        assert joined.json()["name"] == f"A {role}"
        return client

    return invited


def operations(app: FastAPI) -> list[tuple[str, str, str]]:
    """Method, address with nothing behind it, and right of everything behind the guard."""
    return [
        (method, re.sub(r"\{[^}]*\}", str(uuid4()), path), right)
        for method, path, right in rights_table(app)
        if path != "/api/live"
    ]


def ask(client: TestClient, method: str, path: str) -> tuple[int, str]:
    body = {} if method in ("POST", "PUT", "PATCH") else None
    answer = client.request(method, path, json=body)
    kind = answer.headers.get("content-type", "")
    return answer.status_code, answer.json()["code"] if "problem" in kind else ""


def test_nobody_is_let_in_anywhere(peopled: FastAPI, nobody: TestClient) -> None:
    asked = operations(peopled)
    assert len(asked) > 90
    told = {(m, p): ask(nobody, m, p) for m, p, _ in asked}
    assert {k: v for k, v in told.items() if v != (401, "sign_in")} == {}
    assert nobody.get("/api/live").status_code == 401
    for path in ("/api/accounts", "/api/password"):
        assert ask(nobody, "GET" if path.endswith("s") else "POST", path)[0] in (401, 422)
    assert nobody.get("/").status_code == 200
    assert nobody.get("/api/me").json() == {
        "accounts": True, "first": True, "name": None, "role": None, "rights": [],
    }  # fmt: skip


@pytest.mark.parametrize("role", RIGHTS)
def test_every_role_against_every_operation(peopled: FastAPI, enter: Enter, role: str) -> None:
    client = enter(role)
    for method, path, right in operations(peopled):
        refused = ask(client, method, path) == (403, "role")
        assert refused == (role not in roles_with(right)), (method, path, right)  # type: ignore[arg-type]
    assert (client.get("/api/accounts").status_code == 403) == (role != "owner")


def test_the_table_of_roles_is_that_of_the_code(peopled: FastAPI) -> None:
    kept = (ROOT / "docs" / "roles.md").read_text()
    lines = [
        f"| {method} | `{path}` | {right} | {', '.join(roles_with(right))} |"
        for method, path, right in rights_table(peopled)
    ]
    assert "\n".join(lines) in kept


def test_a_code_is_for_one_use_and_a_poor_password_does_not_spend_it(
    peopled: FastAPI, nobody: TestClient, engine: Engine
) -> None:
    code = first_code(engine)
    for poor in ("short", "Orla Orla Orla", "aaaaaaaaaaaaaa"):
        body = {"code": code, "name": "Orla Orla Orla", "password": poor}
        assert nobody.post("/api/join", json=body).json()["code"] == "poor_password"
    body = {"code": code.lower().replace("-", " "), "name": "Orla", "password": PASSWORD}
    answer = nobody.post("/api/join", json=body)
    assert answer.json()["name"] == "Orla"
    again = browser(peopled).post("/api/join", json=body | {"name": "Eve"})
    assert (again.status_code, again.json()["code"]) == (403, "not_let_in")
    with database.sessions(engine).begin() as session:
        assert accounts.first_code(session) is None
        old = accounts.new_code(session, accounts.accounts(session)[0])
        session.execute(text("UPDATE invitations SET until = now() - interval '1 s'"))
    late = {"code": old, "password": PASSWORD}
    assert browser(peopled).post("/api/join", json=late).status_code == 403


def test_nothing_that_opens_is_kept_as_it_is(owner: TestClient, engine: Engine) -> None:
    token = owner.cookies["vivid-arm"]
    with engine.connect() as connection:
        hashed = connection.execute(text("SELECT password FROM accounts")).scalar_one()
        rows = str(connection.execute(text("SELECT * FROM sign_ins")).all())
    assert hashed.startswith("$argon2id$v=19$m=65536,t=3,p=4$")
    assert token not in rows
    assert PASSWORD not in hashed


def test_guesses_are_slowed_also_many_at_once(peopled: FastAPI, owner: TestClient) -> None:
    wrong = {"name": "orla", "password": "not the one"}
    with ThreadPoolExecutor(12) as pool:
        told = list(
            pool.map(lambda _: browser(peopled).post("/api/sign-in", json=wrong), range(12))
        )
    assert {a.status_code for a in told} == {403, 429}
    assert 5 <= sum(a.status_code == 403 for a in told) <= 7
    late = next(a for a in told if a.status_code == 429)
    assert int(late.headers["retry-after"]) >= 1
    # The right one has to wait too: a guess is not told from it in that time.
    right = {"name": "Orla", "password": PASSWORD}
    for _ in range(3):
        browser(peopled).post("/api/sign-in", json=wrong)
    assert browser(peopled).post("/api/sign-in", json=right).status_code == 429
    assert owner.get("/api/builds").status_code == 200


def test_the_old_password_is_not_guessed_from_a_browser_left_open(owner: TestClient) -> None:
    wrong = {"old": "not the one at all", "new": "another three words"}
    told = [owner.post("/api/password", json=wrong).status_code for _ in range(7)]
    assert told[:5] == [422] * 5
    assert 429 in told


def test_whoever_gets_in_is_not_slowed_by_it(peopled: FastAPI, owner: TestClient) -> None:
    """Thirty sign-ins from one address, as behind a shared one, and a slip now and then."""
    right = {"name": "Orla", "password": PASSWORD}
    for n in range(30):
        if n % 10 == 9:
            browser(peopled).post("/api/sign-in", json=right | {"password": "a slip of the hand"})
        assert browser(peopled).post("/api/sign-in", json=right).status_code == 200, n


def test_a_first_owner_without_a_readable_name_is_refused(
    nobody: TestClient, engine: Engine
) -> None:
    body = {"code": first_code(engine), "name": "\u200b", "password": PASSWORD}
    refused = nobody.post("/api/join", json=body)
    assert (refused.status_code, refused.json()["field"]) == (422, "name")
    assert nobody.post("/api/join", json=body | {"name": " "}).json()["name"] == "Owner"


def test_a_name_that_is_not_there_is_refused_alike(owner: TestClient, peopled: FastAPI) -> None:
    wrong = [{"name": n, "password": "not the one"} for n in ("Orla", "Nobody here")]
    told = [browser(peopled).post("/api/sign-in", json=body) for body in wrong]
    assert told[0].status_code == told[1].status_code == 403
    assert told[0].json() == told[1].json()


def test_a_sign_in_gives_a_token_of_its_own(peopled: FastAPI, owner: TestClient) -> None:
    """One that was there before is not taken on: nobody can be signed in with a planted one."""
    planted = browser(peopled)
    planted.cookies.set("vivid-arm", "planted-by-somebody-else", domain="127.0.0.1", path="/")
    answer = planted.post("/api/sign-in", json={"name": "ORLA", "password": PASSWORD})
    told = answer.headers["set-cookie"]
    assert "planted" not in told
    assert all(w in told for w in ("HttpOnly", "SameSite=strict", "Path=/"))
    assert owner.cookies["vivid-arm"] not in told


def test_signing_out_ends_it_here_or_everywhere(peopled: FastAPI, owner: TestClient) -> None:
    second = browser(peopled)
    second.post("/api/sign-in", json={"name": "Orla", "password": PASSWORD})
    token = second.cookies["vivid-arm"]
    assert len(owner.get("/api/accounts").json()[0]["devices"]) == 2
    second.post("/api/sign-out", json={})
    assert second.get("/api/builds").status_code == 401
    replayed = browser(peopled)
    replayed.cookies.set("vivid-arm", token, domain="127.0.0.1", path="/")
    assert replayed.get("/api/builds").status_code == 401
    second.post("/api/sign-in", json={"name": "Orla", "password": PASSWORD})
    owner.post("/api/sign-out", json={"everywhere": True})
    assert second.get("/api/builds").status_code == 401
    assert owner.get("/api/builds").status_code == 401


@pytest.mark.parametrize(
    "worn", ["seen_at = now() - interval '12 h 1 min'", "made_at = now() - interval '31 d'"]
)
def test_a_sign_in_that_lies_idle_ends(owner: TestClient, engine: Engine, worn: str) -> None:
    with engine.begin() as connection:
        connection.execute(text(f"UPDATE sign_ins SET {worn}"))
    assert owner.get("/api/builds").status_code == 401


def test_another_password_signs_out_everywhere_else(peopled: FastAPI, owner: TestClient) -> None:
    other = browser(peopled)
    other.post("/api/sign-in", json={"name": "Orla", "password": PASSWORD})
    wrong = {"old": "not the one at all", "new": "another three words"}
    assert owner.post("/api/password", json=wrong).json()["field"] == "old"
    changed = owner.post("/api/password", json={"old": PASSWORD, "new": "another three words"})
    assert changed.json()["name"] == "Orla"
    assert other.get("/api/builds").status_code == 401
    assert owner.get("/api/builds").status_code == 200
    late = {"name": "Orla", "password": PASSWORD}
    assert browser(peopled).post("/api/sign-in", json=late).status_code == 403


def test_the_owner_shuts_out_and_cannot_shut_himself_out(
    peopled: FastAPI, owner: TestClient, enter: Enter
) -> None:
    tess = enter("builder")
    listed = {a["name"]: a for a in owner.get("/api/accounts").json()}
    a, me = listed["A builder"], listed["Orla"]
    less = {"version": me["version"], "role": "viewer"}
    alone = owner.patch(f"/api/accounts/{me['id']}", json=less)
    assert alone.json()["detail"].startswith("The shop's only owner stays its owner.")
    stale = owner.patch(f"/api/accounts/{a['id']}", json={"version": 99, "active": False})
    assert stale.status_code == 409
    change = {"version": a["version"], "active": False}
    shut = owner.patch(f"/api/accounts/{a['id']}", json=change).json()
    assert (shut["active"], shut["devices"]) == (False, [])
    assert tess.get("/api/builds").status_code == 401
    code = owner.post(f"/api/accounts/{a['id']}/code").json()["code"]
    body = {"code": code, "password": "another three words"}
    assert browser(peopled).post("/api/join", json=body).status_code == 403
    taken = {"id": str(uuid4()), "name": "ORLA", "role": "viewer"}
    assert owner.post("/api/accounts", json=taken).json()["field"] == "name"
    back = {"version": shut["version"], "active": True, "role": "owner"}
    assert owner.patch(f"/api/accounts/{a['id']}", json=back).json()["role"] == "owner"
    left = owner.patch(f"/api/accounts/{me['id']}", json=less)
    assert left.json()["role"] == "viewer"
    assert owner.get("/api/accounts").status_code == 403


def test_a_code_again_is_for_a_lost_password(peopled: FastAPI, owner: TestClient) -> None:
    me = owner.get("/api/accounts").json()[0]
    code = owner.post(f"/api/accounts/{me['id']}/code").json()["code"]
    body = {"code": code, "password": "a wholly new one"}
    assert browser(peopled).post("/api/join", json=body).json()["name"] == "Orla"
    assert owner.get("/api/builds").status_code == 401


def test_whoever_measures_is_named_without_typing(enter: Enter, engine: Engine) -> None:
    with database.sessions(engine).begin() as session:
        shop.load(session)
    tess = enter("apprentice")
    row = tess.get("/api/builds").json()["builds"][0]
    build = tess.get(f"/api/builds/{row['id']}").json()
    here = f"/api/builds/{build['id']}/valves/{build['valves'][-1]['id']}/trials"
    trial = {"key": str(uuid4()), "setting": "9", "feel": "loose"}
    kept = tess.post(here, json=trial, headers={"x-by": "Somebody"})
    assert kept.json()["log"][-1]["by"] == "A apprentice"
    forged = tess.post(here, json=trial | {"key": str(uuid4()), "by": "Orla"})
    assert forged.status_code == 422
    assert "entered by Orla, and A apprentice is signed in" in forged.json()["detail"]
    change = {"version": build["version"], "name": "Renamed"}
    tess.patch(f"/api/builds/{build['id']}", json=change, headers={"x-by": "Somebody"})
    told = tess.get(f"/api/builds/{build['id']}/history").json()
    assert told["events"][0]["by"] == "A apprentice"
    signed = tess.post(
        f"/api/builds/{build['id']}/signatures", json={"key": str(uuid4()), "by": "Orla"}
    )
    assert (signed.status_code, signed.json()["code"]) == (403, "role")
    assert signed.json()["detail"] == "An apprentice does not sign; ask a builder."


def test_readings_of_a_file_keep_their_names(enter: Enter, engine: Engine) -> None:
    with database.sessions(engine).begin() as session:
        shop.load(session)
    tess = enter("builder")
    row = tess.get("/api/builds").json()["builds"][0]
    table = "valve,kind,reading,feel,by\r\n8E,trial,9,loose,Olm of the night shift\r\n"
    kept = tess.post(f"/api/builds/{row['id']}/readings", json={"csv": table})
    assert kept.json() == {"lines": 1}
    with engine.connect() as connection:
        last = connection.execute(text("SELECT taken_by FROM readings ORDER BY id DESC LIMIT 1"))
        assert last.scalar_one() == "Olm of the night shift"


@pytest.mark.parametrize(
    ("host", "status"),
    [("127.0.0.1", 401), ("192.168.7.20", 401), ("[fe80::1]", 401), ("evil.example", 400)],
)
def test_it_answers_to_addresses_and_to_no_strange_name(
    nobody: TestClient, host: str, status: int
) -> None:
    forged = {"host": host, "x-forwarded-host": "127.0.0.1"}
    assert nobody.get("/api/builds", headers=forged).status_code == status


def test_without_accounts_nothing_is_asked(client: TestClient) -> None:
    assert client.get("/api/me").json()["accounts"] is False
    assert client.get("/api/builds").status_code == 200
    told = client.post("/api/sign-in", json={"name": "Orla", "password": PASSWORD})
    assert (told.status_code, "--people" in told.json()["detail"]) == (404, True)
    assert client.get("/api/accounts").status_code == 404
