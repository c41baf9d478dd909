"""An apprentice's valves wait for a builder's nod, where the owner wants it so."""

from typing import Any
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine

from tests.api.test_accounts import Enter, enter, nobody, owner, peopled, quick_hashes
from tests.builders import worked_out
from vivid_arm.demo import shop
from vivid_arm.records import database

__all__ = ["enter", "nobody", "owner", "peopled", "quick_hashes"]
Json = dict[str, Any]


@pytest.fixture
def build(owner: TestClient, engine: Engine) -> str:
    """A measured build of the demo, on a shop that wants nods."""
    with database.sessions(engine).begin() as session:
        shop.load(session)
    assert owner.get("/api/shop-rules").json() == {"nods": False}
    assert owner.put("/api/shop-rules", json={"nods": True}).json() == {"nods": True}
    rows = worked_out(owner)
    return next(str(r["id"]) for r in rows if r["next_step"]["station"] == "order")


def valve_of(client: TestClient, build: str, at: int = 0) -> str:
    valve = client.get(f"/api/builds/{build}").json()["valves"][at]["id"]
    return f"/api/builds/{build}/valves/{valve}"


def measure(client: TestClient, valve: str) -> Json:
    """Feel the setting of the last trial again."""
    last = [line for line in client.get(valve).json()["log"] if line["kind"] == "trial"][-1]
    body = {"key": str(uuid4()), "setting": last["raw"], "feel": last["feel"], "sure": True}
    answer = client.post(f"{valve}/trials", json=body)
    assert answer.status_code == 201, answer.text
    found: Json = answer.json()
    return found


def nod(client: TestClient, valve: str, reading: int, key: str = "") -> Any:
    return client.post(f"{valve}/nods", json={"key": key or str(uuid4()), "reading_id": reading})


def test_a_valve_waits_until_a_builder_has_looked(
    owner: TestClient, enter: Enter, build: str
) -> None:
    jory, tess = enter("apprentice"), enter("builder")
    valve = valve_of(owner, build)
    assert owner.get("/api/nods").json() == []
    measure(tess, valve)
    assert owner.get("/api/nods").json() == []
    measure(jory, valve)
    (waits,) = tess.get("/api/nods").json()
    assert (waits["build_id"], waits["by"]) == (build, ["A apprentice"])
    refused = nod(jory, valve, waits["reading_id"])
    assert (refused.status_code, refused.json()["code"]) == (403, "role")
    measure(jory, valve)
    stale = nod(tess, valve, waits["reading_id"])
    assert (stale.status_code, "gone on" in stale.json()["detail"]) == (409, True)
    (waits,) = tess.get("/api/nods").json()
    key = str(uuid4())
    assert nod(tess, valve, waits["reading_id"], key).json() == []
    assert nod(tess, valve, waits["reading_id"], key).json() == []
    # What a builder adds needs none; what an apprentice adds needs another.
    measure(tess, valve)
    assert tess.get("/api/nods").json() == []
    measure(jory, valve)
    assert len(tess.get("/api/nods").json()) == 1


def test_what_was_struck_out_waits_for_nobody(owner: TestClient, enter: Enter, build: str) -> None:
    jory = enter("apprentice")
    valve = valve_of(owner, build, 1)
    line = measure(jory, valve)["log"][-1]["id"]
    assert len(owner.get("/api/nods").json()) == 1
    struck = {"key": str(uuid4()), "reading_id": line, "reason": "Misread"}
    assert owner.post(f"{valve}/voids", json=struck).status_code == 201
    assert owner.get("/api/nods").json() == []


def test_no_set_is_ordered_and_no_build_signed_without_it(
    owner: TestClient, enter: Enter, build: str
) -> None:
    jory = enter("apprentice")
    valve = valve_of(owner, build)
    measure(jory, valve)
    orders = owner.get(f"/api/builds/{build}/orders").json()
    assert any("No builder's nod yet on" in words for words in orders["open"])
    assert any("nod" in w for w in owner.get(f"/api/builds/{build}/sign_off").json()["open_points"])
    body = {"id": str(uuid4()), "purpose": "set", "supplier": False}
    drafted = owner.post(f"/api/builds/{build}/orders", json=body)
    assert drafted.status_code == 201, drafted.text
    place = f"/api/builds/{build}/orders/{body['id']}/place"
    refused = owner.post(place, json={})
    assert (refused.status_code, refused.json()["code"]) == (422, "no_nod")
    assert "A apprentice" in refused.json()["detail"]
    (waits,) = owner.get("/api/nods").json()
    nod(owner, valve, waits["reading_id"])
    assert owner.get(f"/api/builds/{build}/orders").json()["open"] != orders["open"]
    assert owner.post(place, json={}).status_code == 200


def test_an_apprentice_who_became_a_builder_needs_none(
    owner: TestClient, enter: Enter, build: str
) -> None:
    measure(enter("apprentice"), valve_of(owner, build))
    assert len(owner.get("/api/nods").json()) == 1
    a = next(x for x in owner.get("/api/accounts").json() if x["name"] == "A apprentice")
    owner.patch(f"/api/accounts/{a['id']}", json={"version": a["version"], "role": "builder"})
    assert owner.get("/api/nods").json() == []


def test_it_waits_only_where_the_owner_wants_it(
    owner: TestClient, enter: Enter, build: str
) -> None:
    jory = enter("apprentice")
    measure(jory, valve_of(owner, build))
    assert jory.put("/api/shop-rules", json={"nods": False}).status_code == 403
    owner.put("/api/shop-rules", json={"nods": False})
    assert owner.get("/api/nods").json() == []


def test_a_nod_on_a_line_that_is_not_there_is_refused(owner: TestClient, build: str) -> None:
    valve = valve_of(owner, build)
    assert nod(owner, valve, 2_000_000_000).status_code == 409
    assert nod(owner, valve, 0).json()["field"] == "reading_id"
    assert nod(owner, f"/api/builds/{build}/valves/{uuid4()}", 1).status_code == 404
