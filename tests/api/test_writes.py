"""Writes: safe to repeat, safe at once, in either unit."""

import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from uuid import uuid4

import httpx
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, select, text
from sqlalchemy.orm import Session

from tests.builders import wait_for, web
from vivid_arm.records.fingerprint import fingerprint
from vivid_arm.records.state import load
from vivid_arm.records.tables import Summary

Json = dict[str, Any]
Make = Callable[..., Json]
Trial = Callable[..., Any]


def test_the_same_build_from_many_at_once_is_one(live: str) -> None:
    body = {"id": str(uuid4()), "name": "At once", "layout": "inline", "cylinders": 4}

    def send(_: int) -> tuple[int, int]:
        answer = web.post(f"{live}/api/builds", json=body)
        return answer.status_code, len(answer.json()["valves"])

    with ThreadPoolExecutor(6) as pool:
        assert set(pool.map(send, range(12))) == {(201, 8)}
    assert web.get(f"{live}/api/builds").json()["total"] == 1


def test_of_two_changes_at_once_one_is_told(live: str) -> None:
    """Twelve tablets change the same build: one is kept, the others see both values."""
    body = {"id": str(uuid4()), "name": "Start"}
    build = web.post(f"{live}/api/builds", json=body).json()
    url = f"{live}/api/builds/{build['id']}"

    def send(n: int) -> httpx.Response:
        change = {"version": build["version"], "name": f"Name {n}"}
        return web.patch(url, json=change)

    with ThreadPoolExecutor(6) as pool:
        answers = list(pool.map(send, range(12)))
    kept = [a.json()["name"] for a in answers if a.status_code == 200]
    refused = [a.json()["context"] for a in answers if a.status_code == 409]
    assert (len(kept), len(refused)) == (1, 11)
    assert all(r["stored"] == {"name": kept[0]} for r in refused)
    assert web.get(url).json()["name"] == kept[0]


def test_a_stale_instrument_change_gets_both_values(client: TestClient, rod: Json) -> None:
    url = f"/api/instruments/{rod['id']}"
    assert client.patch(url, json={"version": 1, "closed_in": 6.7}).status_code == 200
    stale = client.patch(url, json={"version": 1, "closed_in": 6.9})
    assert stale.status_code == 409
    assert stale.json()["context"] == {"yours": {"closed_in": 6.9}, "stored": {"closed_in": 6.7}}
    assert client.patch(url, json={"version": 1, "closed_in": 6.7}).json()["version"] == 2


def test_a_bad_correction_of_an_instrument_keeps_the_old(client: TestClient, rod: Json) -> None:
    url = f"/api/instruments/{rod['id']}"
    for change in ({"most_turns": 100.0}, {"closed_in": None}, {"convention": None}):
        assert client.patch(url, json={"version": 1} | change).status_code == 422
    assert client.get("/api/instruments").json() == [rod]


@pytest.mark.parametrize(
    ("unit", "gap"),
    [("in", "0.032"), ("mm", "0.8128"), ("mm", "32 thou"), ("in", "0.8128mm")],
)
def test_gaps_in_either_unit(
    make_build: Make, trial: Callable[..., Any], unit: str, gap: str
) -> None:
    station = trial(make_build(), 0, "10", "loose", gap=gap, unit=unit).json()
    expected = 7.3 + 0.032 / station["ratio"]
    assert station["valve"]["estimate_in"] == pytest.approx(expected, abs=2e-5)
    assert station["log"][0]["gap_in"] == pytest.approx(0.032, abs=1e-6)


def test_a_caliper_read_in_millimetres(
    client: TestClient, make_build: Make, trial: Callable[..., Any]
) -> None:
    caliper = {
        "id": str(uuid4()), "kind": "caliper", "name": "C", "low_in": 0.0, "high_in": 12.0,
    }  # fmt: skip
    client.post("/api/instruments", json=caliper)
    build = make_build(instrument_id=caliper["id"])
    station = trial(build, 0, "185.42", "zero", unit="mm").json()
    assert station["valve"]["estimate_in"] == pytest.approx(7.3, abs=1e-6)
    assert (station["log"][0]["raw"], station["log"][0]["turns"]) == ("185.42", None)
    assert station["verdict"]["then"].startswith("Felt as zero: 25 thou shorter must feel loose")
    trial(build, 0, "184.80", "loose", unit="mm")
    settled = trial(build, 0, "185.42", "zero", unit="mm").json()
    assert settled["verdict"]["then"] == "Go to the next valve."


def test_a_trial_that_replaces_another(make_build: Make, trial: Callable[..., Any]) -> None:
    build = make_build()
    first = trial(build, 0, "10", "tight").json()["log"][0]
    again = trial(build, 0, "10", "loose", replaces=first["id"], reason="Misread").json()
    assert [(x["number"], x["struck"], x["struck_reason"]) for x in again["log"]] == [
        (1, True, "Misread"),
        (2, False, None),
    ]
    assert again["verdict"]["what"] == "Longer than {l}."
    twice = trial(build, 0, "10", "zero", replaces=first["id"])
    assert (twice.status_code, twice.json()["code"]) == (409, "conflict")


def test_more_cylinders_bring_more_valves_and_fewer_take_only_empty_ones(
    client: TestClient, make_build: Make, trial: Callable[..., Any]
) -> None:
    build = make_build(layout="inline", cylinders=4)
    url = f"/api/builds/{build['id']}"
    more = client.patch(url, json={"version": build["version"], "cylinders": 6}).json()
    assert [v["name"] for v in more["valves"]][-4:] == ["5I", "5E", "6I", "6E"]
    trial(more, 11, "10", "loose")
    refused = client.patch(url, json={"version": more["version"], "cylinders": 4})
    assert refused.status_code == 422
    assert "drop valves that have readings" in refused.json()["detail"]
    assert len(client.get(url).json()["valves"]) == 12


def test_headers_of_pages_and_answers(client: TestClient) -> None:
    assert client.get("/api/builds").headers["cache-control"] == "no-store"
    page = client.get("/builds/anything/order")
    assert page.headers["cache-control"] == "no-cache"
    script = page.text.split('src="')[1].split('"')[0]
    assert "immutable" in client.get(script).headers["cache-control"]
    for answer in (page, client.get("/api/builds")):
        assert answer.headers["x-content-type-options"] == "nosniff"
        assert answer.headers["referrer-policy"] == "no-referrer"


def wait_until_it_waits(engine: Engine) -> None:
    """Until another transaction waits for a lock; at most 30 s."""
    waiting = text("SELECT count(*) FROM pg_stat_activity WHERE wait_event_type = 'Lock'")
    for _ in range(600):
        with engine.connect() as connection:
            if connection.scalar(waiting):
                return
        time.sleep(0.05)
    raise AssertionError("nothing ever waited for the lock")


def test_a_trial_on_a_valve_that_is_just_being_taken_away(live: str, empty: Engine) -> None:
    """Another tablet drops the cylinder between the request and its write: 409, nothing kept."""
    body = {"id": str(uuid4()), "kind": "checking_rod", "name": "R", "closed_in": 6.8,
            "pitch_in": 0.05, "most_turns": 20.0}  # fmt: skip
    rod = web.post(f"{live}/api/instruments", json=body).json()
    body = {"id": str(uuid4()), "name": "B", "instrument_id": rod["id"]}
    build = web.post(f"{live}/api/builds", json=body).json()
    valve = build["valves"][-1]["id"]
    url = f"{live}/api/builds/{build['id']}/valves/{valve}/trials"
    trial = {"key": str(uuid4()), "setting": "10", "feel": "loose"}
    with ThreadPoolExecutor(1) as pool:
        with empty.begin() as connection:
            connection.execute(text("DELETE FROM valves WHERE id = :id"), {"id": valve})
            sent = pool.submit(httpx.post, url, json=trial, trust_env=False, timeout=30)
            wait_until_it_waits(empty)
        answer = sent.result()
    assert (answer.status_code, answer.json()["code"]) == (409, "conflict")
    assert "Nothing was kept; try again." in answer.json()["detail"]


def test_a_reading_leaves_its_row_of_the_board_as_it_now_is(
    client: TestClient, make_build: Make, trial: Trial, empty: Engine
) -> None:
    """Another process that shows the board a little later need not work the build out again."""
    build = make_build()
    for count, (setting, feel) in enumerate((("10", "loose"), ("11", "tight")), 1):
        assert trial(build, 0, setting, feel).status_code == 201
        wait_for(lambda: kept_row(empty) is not None)
        row = client.get("/api/builds").json()["builds"][0]
        assert row == kept_row(empty)
        assert row["valves"]["intake"]["trials"] == count


def kept_row(engine: Engine) -> dict[str, Any] | None:
    """The board's row of the one build there is, where it is the build's as it stands."""
    with Session(engine) as session:
        kept = session.scalars(select(Summary)).one_or_none()
        mark = fingerprint(session, kept.build_id) if kept is not None else None
        return kept.body if kept is not None and mark and kept.stamp == mark.whole else None


@pytest.mark.parametrize("kind", ["trial", "measure", "count_back", "void", "mark", "mark_void"])
def test_the_answer_to_a_reading_is_its_station_and_its_build(
    client: TestClient, make_build: Make, trial: Trial, kind: str
) -> None:
    """What is sent back is what would be read a moment later: nothing is asked for twice."""
    build = make_build()
    url = f"/api/builds/{build['id']}/valves/{build['valves'][0]['id']}"
    mark = {"key": str(uuid4()), "inboard": "-0.02", "outboard": "0.02"}
    first = trial(build, 0, "10", "loose").json()
    tried = client.post(f"{url}/marks", json=mark).json()
    path, body = {
        "trial": ("trials", {"setting": "11", "feel": "tight"}),
        "measure": ("measures", {"method": "indicator", "reading": "0.05", "rod": "7.4"}),
        "count_back": ("count-backs", {"turns": "10"}),
        "void": ("voids", {"reading_id": first["log"][0]["id"], "reason": "Misread"}),
        "mark": ("marks", {"inboard": "-0.01", "outboard": "0.03", "rod": "7.425"}),
        "mark_void": ("marks/voids", {"reading_id": tried["marks"][0]["id"], "reason": "Smeared"}),
    }[kind]
    answer = client.post(f"{url}/{path}", json={"key": str(uuid4())} | body)
    assert answer.status_code == 201, answer.text
    kept = answer.json()
    load._remembered.clear()  # and it is what is worked out from nothing but the rows
    assert kept.pop("build") == client.get(f"/api/builds/{build['id']}").json()
    assert kept == client.get(url + ("/rocker" if "mark" in kind else "")).json()


def test_a_trial_set_with_another_instrument_says_which(
    client: TestClient, make_build: Make, trial: Trial
) -> None:
    build = make_build()
    caliper = {"id": str(uuid4()), "kind": "caliper", "name": "C", "low_in": 0.0, "high_in": 12.0}
    client.post("/api/instruments", json=caliper)
    station = trial(build, 0, "7.31", "loose", instrument_id=caliper["id"], sure=True).json()
    line = station["log"][0]
    assert (line["instrument"], line["turns"]) == ("C", None)
    assert line["length_in"] == pytest.approx(7.31)
    unknown = trial(build, 0, "7.31", "loose", instrument_id=str(uuid4()))
    assert (unknown.status_code, unknown.json()["field"]) == (422, "instrument_id")
    indicator = {"id": str(uuid4()), "kind": "indicator", "name": "Dial"}
    client.post("/api/instruments", json=indicator)
    wrong = trial(build, 0, "7.31", "loose", instrument_id=indicator["id"], sure=True)
    assert (wrong.status_code, wrong.json()["code"]) == (422, "wrong_kind")


def other_rod(client: TestClient, name: str = "Rod B", **more: Any) -> Json:
    body = {
        "id": str(uuid4()), "kind": "checking_rod", "name": name, "closed_in": 7.8,
        "pitch_in": 0.05, "most_turns": 20,
    }  # fmt: skip
    kept: Json = client.post("/api/instruments", json=body | more).json()
    return kept


def use(client: TestClient, build: Json, rod: Json) -> None:
    change = {"version": build["version"], "instrument_id": rod["id"]}
    assert client.patch(f"/api/builds/{build['id']}", json=change).status_code == 200


@pytest.mark.parametrize("chosen", [0, 1], ids=["as the screen showed", "as the build has it now"])
def test_a_trial_set_on_another_rod_than_shown_is_asked_about(
    client: TestClient, make_build: Make, trial: Trial, rod: Json, chosen: int
) -> None:
    """The screen shows rod A while the build was given rod B elsewhere: both lengths to choose."""
    build = make_build()
    use(client, build, other_rod(client))
    shown = {"instrument_id": rod["id"], "instrument_version": rod["version"]}
    refused = trial(build, 0, "11", "loose", **shown)
    assert refused.status_code == 409
    assert "Which was it?" in refused.json()["detail"]
    choices = refused.json()["context"]["choices"]
    assert [c["words"] for c in choices] == ["Rod: 7.3500 in", "Rod B: 8.3500 in"]
    kept = trial(build, 0, "11", "loose", **choices[chosen]["change"]).json()
    assert [line["length_in"] for line in kept["log"]] == [pytest.approx((7.35, 8.35)[chosen])]


def test_turns_that_arrive_after_a_change_to_a_caliper_are_no_length(
    client: TestClient, make_build: Make, trial: Trial, rod: Json
) -> None:
    build = make_build()
    caliper = {"id": str(uuid4()), "kind": "caliper", "name": "C", "low_in": 0.0, "high_in": 12.0}
    use(client, build, client.post("/api/instruments", json=caliper).json())
    shown = {"instrument_id": rod["id"], "instrument_version": rod["version"]}
    refused = trial(build, 0, "11", "loose", **shown).json()
    assert [c["words"] for c in refused["context"]["choices"]] == [
        "Rod: 7.3500 in", "C: 11.0000 in",
    ]  # fmt: skip
    odd = trial(build, 0, "2 1/8", "loose", **shown).json()["context"]["choices"]
    assert [c["words"] for c in odd] == ["Rod: 6.9063 in"], "a caliper reads no 2 1/8 in"


def test_a_rod_corrected_since_it_was_shown_is_said(
    client: TestClient, make_build: Make, trial: Trial, rod: Json
) -> None:
    build = make_build()
    change = {"version": rod["version"], "closed_in": 6.3}
    client.patch(f"/api/instruments/{rod['id']}", json=change)
    shown = {"instrument_id": rod["id"], "instrument_version": rod["version"]}
    refused = trial(build, 0, "11", "loose", **shown).json()
    assert "Rod was corrected" in refused["detail"]
    (choice,) = refused["context"]["choices"]
    assert choice["words"] == "Rod: 6.8500 in"
    url = f"/api/builds/{build['id']}/valves/{build['valves'][0]['id']}/count-backs"
    counted = client.post(url, json={"key": str(uuid4()), "turns": "11"} | shown)
    assert counted.status_code == 409
    body = {"key": str(uuid4()), "turns": "11"} | choice["change"]
    assert client.post(url, json=body).status_code == 201


def test_a_caliper_corrected_since_it_was_shown_is_said(
    client: TestClient, make_build: Make
) -> None:
    build = make_build()
    caliper = {"id": str(uuid4()), "kind": "caliper", "name": "C", "low_in": 0.0, "high_in": 12.0}
    client.post("/api/instruments", json=caliper)
    client.patch(f"/api/instruments/{caliper['id']}", json={"version": 1, "accuracy_in": 0.001})
    url = f"/api/builds/{build['id']}/valves/{build['valves'][0]['id']}/measures"
    body = {"key": str(uuid4()), "method": "extend", "reading": "7.33; 7.331"}
    shown = {"instrument_id": caliper["id"], "instrument_version": 1}
    refused = client.post(url, json=body | shown)
    assert refused.status_code == 409
    (choice,) = refused.json()["context"]["choices"]
    assert client.post(url, json=body | choice["change"]).status_code == 201
