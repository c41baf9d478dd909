"""The job through HTTP: readings in, bracket, choice and order sheet out."""

import csv
import io
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any
from uuid import uuid4

import jsonschema_rs
import pytest
from fastapi.testclient import TestClient
from pydantic import TypeAdapter
from pypdf import PdfReader
from sqlalchemy import Engine

from tests.builders import worked_out
from vivid_arm.api.app import make_app
from vivid_arm.demo import shop
from vivid_arm.documents.order_data import OrderSheet
from vivid_arm.records import database
from vivid_arm.records.database import head
from vivid_arm.records.settings import BuildSettings

Json = dict[str, Any]
Make = Callable[..., Json]
Trial = Callable[..., Any]
ROOT = Path(__file__).parents[2]


def test_health(client: TestClient) -> None:
    body = client.get("/api/health").json()
    assert (body["status"], body["database"], body["migration"]) == ("ok", "ok", head())


def test_health_says_when_the_database_is_away() -> None:
    away = make_app("postgresql+psycopg://nobody:x@127.0.0.1:1/none")
    with TestClient(away, base_url="http://127.0.0.1") as client:
        assert client.get("/api/health").status_code == 503
        answer = client.get("/api/builds")
        assert (answer.status_code, answer.json()["code"]) == (503, "database")


def test_from_trials_to_order(client: TestClient, make_build: Make, settle: Trial) -> None:
    """Common practice: 6.800 closed, 10.75 turns, preload 0.070: exact 7.4075, bought 7.400."""
    build = make_build()
    station = settle(build, 0, "10 3/4").json()
    assert station["verdict"]["state"] == "settled"
    assert station["valve"]["estimate_in"] == pytest.approx(7.3375)
    assert station["exact_in"] == pytest.approx(7.4075)
    assert [c["length_in"] for c in station["candidates"] if c["best"]] == [7.4]
    settle(build, 1, "11")
    kept = client.get(f"/api/builds/{build['id']}").json()
    assert [g["taken"]["length_in"] for g in kept["groups"]] == [7.4, 7.425]
    assert kept["next_step"]["station"] == "order"


def test_repeated_reading_is_one_reading(
    client: TestClient, make_build: Make, trial: Trial
) -> None:
    build = make_build()
    key = str(uuid4())
    first = trial(build, 0, "10", "loose", gap="0.065", key=key)
    again = trial(build, 0, "10", "loose", gap="0.065", key=key)
    assert (first.status_code, again.status_code) == (201, 201)
    assert again.json()["log"] == first.json()["log"]
    assert len(again.json()["log"]) == 1


def test_repeated_build_and_instrument_are_one(client: TestClient, rod: Json) -> None:
    body = {"id": str(uuid4()), "name": "Once"}
    assert client.post("/api/builds", json=body).status_code == 201
    assert client.post("/api/builds", json=body).status_code == 201
    assert client.get("/api/builds").json()["total"] == 1
    again = {k: rod[k] for k in ("id", "kind", "name", "closed_in", "pitch_in", "most_turns")}
    client.post("/api/instruments", json=again)
    assert len(client.get("/api/instruments").json()) == 1


def test_gap_uses_the_valves_own_ratio(client: TestClient, make_build: Make, trial: Trial) -> None:
    build = make_build(ratio_intake=1.6, ratio_exhaust=1.82)
    intake = trial(build, 0, "10", "loose", gap="0.032").json()
    exhaust = trial(build, 1, "10", "loose", gap="32 thou").json()
    assert intake["valve"]["estimate_in"] == pytest.approx(7.3 + 0.032 / intake["ratio"], abs=2e-5)
    assert exhaust["valve"]["estimate_in"] == pytest.approx(
        7.3 + 0.032 / exhaust["ratio"], abs=2e-5
    )
    assert exhaust["ratio"] / intake["ratio"] == pytest.approx(1.82 / 1.6, rel=0.01)


def test_striking_out_keeps_the_line(client: TestClient, make_build: Make, trial: Trial) -> None:
    build = make_build()
    trial(build, 0, "11", "loose")
    station = trial(build, 0, "10", "tight").json()
    assert station["verdict"]["state"] == "conflict"
    assert station["contradictions"] == [[1, 2]]
    url = f"/api/builds/{build['id']}/valves/{build['valves'][0]['id']}/voids"
    body = {"key": str(uuid4()), "reading_id": station["log"][1]["id"], "reason": "Misread"}
    after = client.post(url, json=body).json()
    assert after["verdict"]["state"] == "closing"
    assert [(line["kind"], line["struck"]) for line in after["log"]] == [
        ("trial", False), ("trial", True), ("void", False),
    ]  # fmt: skip
    assert client.post(url, json=body).json()["log"] == after["log"]
    other = client.post(url, json=body | {"key": str(uuid4())})
    assert (other.status_code, other.json()["code"]) == (409, "conflict")


def test_count_back_finds_the_slip(client: TestClient, make_build: Make, trial: Trial) -> None:
    build = make_build()
    trial(build, 0, "10 1/4", "loose")
    url = f"/api/builds/{build['id']}/valves/{build['valves'][0]['id']}/count-backs"
    line = client.post(url, json={"key": str(uuid4()), "turns": "10 3/4"}).json()["log"][-1]
    assert line["count_agrees"] is False
    assert "0.0250 in longer" in line["sentence"]


def test_a_count_that_was_right_is_not_asked_for_again(
    client: TestClient, make_build: Make, trial: Trial, settle: Trial
) -> None:
    """Counted back since the last trial: on to the next valve; a trial more is counted again."""
    build = make_build()
    trial(build, 0, "10 3/8", "loose")
    assert "Count the turns back" in settle(build, 0, "10 1/2").json()["verdict"]["then"]
    here = f"/api/builds/{build['id']}/valves/{build['valves'][0]['id']}"
    running = client.get(here).json()["log"][-1]["turns_words"]
    body = {"key": str(uuid4()), "turns": running}
    counted = client.post(f"{here}/count-backs", json=body).json()
    assert counted["log"][-1]["count_agrees"]
    assert counted["verdict"]["then"] == "Go to the next valve."
    again = trial(build, 0, "10 1/2", "zero").json()["verdict"]
    assert (again["state"], "Count the turns back" in again["then"]) == ("settled", True)


def test_pairs_of_gaps_tell_the_ratio_of_all_valves_of_a_kind(
    client: TestClient, make_build: Make, trial: Trial
) -> None:
    """Derived by hand: 50 thou of rod close 80 thou of gap at 1I, so that 2I's R0 is near 1.6."""
    build = make_build()
    here = f"/api/builds/{build['id']}/valves"
    valves = {v["name"]: i for i, v in enumerate(build["valves"])}
    before = client.get(f"{here}/{build['valves'][valves['2I']]['id']}").json()["ratio"]
    trial(build, valves["1I"], "10", "loose", gap="0.090")
    trial(build, valves["1I"], "11", "loose", gap="0.010")
    other = client.get(f"{here}/{build['valves'][valves['2I']]['id']}").json()
    assert abs(other["ratio"] - 1.6) < 0.4 * abs(before - 1.6)
    assert "pairs of gaps" in other["ratio_words"]
    exhaust = client.get(f"{here}/{build['valves'][valves['2E']]['id']}").json()
    assert exhaust["ratio"] == before, "the exhausts are as they were"


def test_a_count_back_that_fails_is_a_conflict(
    client: TestClient, make_build: Make, trial: Trial, settle: Trial
) -> None:
    """11 tight, 10 loose, 10 1/2 zero, counted back 10: half a turn is missing somewhere."""
    build = make_build()
    trial(build, 0, "11", "tight")
    trial(build, 0, "10 3/8", "loose")
    settled = settle(build, 0, "10 1/2").json()
    assert settled["verdict"]["state"] == "settled"
    here = f"/api/builds/{build['id']}/valves/{build['valves'][0]['id']}"
    counted = client.post(f"{here}/count-backs", json={"key": str(uuid4()), "turns": "10"}).json()
    assert counted["verdict"]["state"] == "conflict"
    assert counted["verdict"]["what"].startswith("Counted back 10 turns")
    assert client.get(f"/api/builds/{build['id']}/decide").json() is None, "nothing is settled"
    line = counted["log"][-1]["id"]
    body = {"key": str(uuid4()), "reading_id": line, "reason": "Turns miscounted"}
    assert client.post(f"{here}/voids", json=body).status_code == 201
    assert client.get(here).json()["verdict"]["state"] == "settled"


def test_a_count_back_that_was_right_works_the_trials_out_again(
    client: TestClient, make_build: Make, trial: Trial
) -> None:
    """11 tight, 10 loose, 10 1/2 zero, counted back 10: half a turn shorter since some trial.

    Only the last one moved would be zero where the one before it was loose.
    """
    build = make_build()
    for turns, feel in (("11", "tight"), ("10", "loose"), ("10 1/2", "zero")):
        trial(build, 0, turns, feel)
    here = f"/api/builds/{build['id']}/valves/{build['valves'][0]['id']}"
    counted = client.post(f"{here}/count-backs", json={"key": str(uuid4()), "turns": "10"}).json()
    assert counted["next_trial"] is None, "nothing is set before it is answered"
    assert counted["valve"]["estimate_in"] is None, "and no length is shown"
    offers = {r["since"]: r for r in counted["recounts"]}
    assert set(offers) >= {1, 2}
    assert counted["recounts"][-1]["since"] == 3 or 3 not in offers, "the least likely last"
    assert offers[2]["words"] == "10 was right: 1/2 turn shorter since trial 2"
    body = {"key": str(uuid4()), "count_id": offers[2]["count_id"], "since": 2}
    first = client.post(f"{here}/recounts", json=body)
    assert first.status_code == 201, first.text
    after = client.post(f"{here}/recounts", json=body).json()
    assert after["log"] == first.json()["log"], "safe to repeat"
    counts = [(x["turns"], x["feel"]) for x in after["log"] if x["kind"] == "trial"
              and not x["struck"]]  # fmt: skip
    assert counts == [(11.0, "tight"), (9.5, "loose"), (10.0, "zero")]
    assert after["recounts"] == []
    assert after["verdict"]["state"] != "conflict"
    assert next(x for x in after["log"] if x["kind"] == "count_back")["count_agrees"]
    assert "count back" in after["log"][-1]["reason"]
    assert "Count the turns back" not in after["verdict"]["then"], "it was counted"
    wrong = client.post(f"{here}/recounts", json=body | {"count_id": 1, "key": str(uuid4())})
    assert (wrong.status_code, wrong.json()["field"]) == (422, "count_id")


@pytest.mark.parametrize(
    ("text", "turns", "length"),
    [("7.3", None, 7.3), ("7.5125 in", None, 7.5125), ("10 1/4", 10.25, 7.3125),
     ("7 1/4", 7.25, 7.1625), ("7.25 turns", 7.25, 7.1625), ("190.5 mm", None, 7.5),
     ("7.25 in", 9.0, 7.25), ("10.5", 10.5, 7.325)],
)  # fmt: skip
def test_a_length_typed_for_a_checking_rod_is_a_length(
    make_build: Make, trial: Trial, text: str, turns: float | None, length: float
) -> None:
    """A rod of 6.800 to 7.800: inside its lengths a length, inside its turns turns."""
    answer = trial(make_build(), 0, text, "loose")
    assert answer.status_code == 201, answer.text
    line = answer.json()["log"][0]
    assert line["length_in"] == pytest.approx(length, abs=1e-5)
    assert line["turns"] == (pytest.approx(turns) if turns is not None else None) or turns is None


def test_a_figure_that_is_turns_and_length_is_asked(
    client: TestClient, make_build: Make, trial: Trial
) -> None:
    build = make_build()
    asked = trial(build, 0, "7.25", "loose")
    assert asked.status_code == 409
    by_turns, by_length = asked.json()["context"]["choices"]
    assert by_turns["words"] == "7.25 turns: 7.1625 in"
    kept = trial(build, 0, by_length["change"]["setting"], "loose").json()
    assert kept["log"][0]["length_in"] == pytest.approx(7.25)


def test_stale_tab_gets_both_values(client: TestClient, make_build: Make) -> None:
    build = make_build()
    url = f"/api/builds/{build['id']}"
    first = client.patch(url, json={"version": build["version"], "travel_in": 0.18})
    stale = client.patch(url, json={"version": build["version"], "travel_in": 0.16})
    assert (first.status_code, stale.status_code) == (200, 409)
    assert stale.json()["context"] == {"yours": {"travel_in": 0.16}, "stored": {"travel_in": 0.18}}
    assert client.get(url).json()["travel_in"] == 0.18
    same = client.patch(url, json={"version": build["version"], "travel_in": 0.18})
    assert same.status_code == 200


def test_expected_length_of_a_valve(client: TestClient, make_build: Make) -> None:
    valve = (build := make_build(gaps=False))["valves"][0]
    url = f"/api/builds/{build['id']}/valves/{valve['id']}"
    body = {"version": valve["version"], "expected": "7 5/16"}
    first = client.patch(url, json=body).json()["next_trial"]
    assert (first["step"], first["turns_words"]) == ("first", "10 1/8")
    stale = client.patch(url, json=body | {"expected": "7.4"})
    assert stale.status_code == 409
    assert stale.json()["context"]["stored"] == {"expected_in": 7.3125}


def measured(make_build: Make, settle: Trial, **settings: Any) -> Json:
    build = make_build(
        name="=Odd & <named>", lifter_hole_in=0.1, rocker_hole_in=0.1,
        order_convention="measured", **settings,
    )  # fmt: skip
    settle(build, 0, "10 3/4", by="Tess")
    settle(build, 1, "12", by="Tess")
    return build


def test_order_as_csv(client: TestClient, make_build: Make, settle: Trial) -> None:
    """Two 5/16 balls with 0.100 holes: measured is 0.016432 under theoretical (by hand)."""
    build = measured(make_build, settle)
    answer = client.get(f"/api/builds/{build['id']}/order.csv")
    rows = list(csv.DictReader(io.StringIO(answer.text)))
    assert [(r["quantity"], r["length_in"], r["convention"]) for r in rows] == [
        ("8", "7.4000", "measured overall"),
        ("8", "7.4500", "measured overall"),
    ]
    assert rows[0]["length_mm"] == "187.96"
    assert rows[0]["valves"].split() == [f"{n}I" for n in range(1, 9)]
    assert rows[0]["build"] == "'=Odd & <named>"


def test_order_as_json_keeps_its_schema(
    client: TestClient, make_build: Make, settle: Trial
) -> None:
    build = measured(make_build, settle)
    sheet = client.get(f"/api/builds/{build['id']}/order.json").json()
    schema = json.loads((ROOT / "docs" / "order.schema.json").read_text())
    jsonschema_rs.validate(schema, sheet)
    assert schema == TypeAdapter(OrderSheet).json_schema()
    first = sheet["evidence"][0]
    assert (first["valve"], first["measured_by"], first["readings"]) == ("1I", "Tess", 3)
    assert first["preload_in"] == pytest.approx(7.4 + 0.016432 - 7.3375, abs=2e-6)
    assert sheet["open_points"][0].startswith("1 of 8 intake valves measured")


def test_order_as_pdf(client: TestClient, make_build: Make, settle: Trial) -> None:
    build = measured(make_build, settle)
    for unit, words in (("in", "7.4500 in"), ("mm", "189.23 mm")):
        answer = client.get(f"/api/builds/{build['id']}/order.pdf?unit={unit}")
        assert answer.headers["content-type"] == "application/pdf"
        text = "\n".join(p.extract_text() for p in PdfReader(io.BytesIO(answer.content)).pages)
        assert "=Odd & <named>" in text
        assert words in text
        assert "measured overall" in text
        assert "makers' sheets rule" in text


def test_own_pick_and_back(client: TestClient, make_build: Make, settle: Trial) -> None:
    build = measured(make_build, settle)
    url = f"/api/builds/{build['id']}"
    kept = client.get(url).json()
    picked = client.patch(url, json={"version": kept["version"], "picked_intake_in": 7.425}).json()
    assert picked["groups"][0]["taken"]["length_in"] == 7.425
    assert picked["groups"][0]["picked"]
    back = client.patch(url, json={"version": picked["version"], "picked_intake_in": None}).json()
    assert back["groups"][0]["taken"]["length_in"] == 7.4


@pytest.mark.slow
def test_demo_shop_is_made_by_the_same_rules_and_only_once(
    client: TestClient, empty: Engine
) -> None:
    for _ in range(2):
        with database.sessions(empty).begin() as session:
            assert shop.load(session) == 12
    builds = worked_out(client)
    assert {b["next_step"]["station"] for b in builds} == {
        "setup", "zero_lash", "rocker", "order", "sign_off",
    }  # fmt: skip
    assert len({b["engine_words"] for b in builds}) == 7


@pytest.mark.parametrize(
    ("path", "body", "expected"),
    [
        ("length", {"text": "7 5/16", "field": "rod_length"}, {"inches": 7.3125}),
        (
            "convention",
            {
                "length_in": 7.4, "given": "theoretical", "wanted": "measured",
                "lifter": {"kind": "ball", "ball_in": 0.3125, "oil_hole_in": 0.1},
                "rocker": {"kind": "ball", "ball_in": 0.3125, "oil_hole_in": 0.1},
            },
            {"length_in": pytest.approx(7.383568, abs=5e-7)},
        ),
        (
            "bracket",
            {"trials": [{"length_in": 7.3125, "feel": "zero"}]},
            {"estimate_in": pytest.approx(7.3125), "settled": False},
        ),
        (
            "candidates",
            {
                "zero_lash_in": [8.46], "preload_low_in": 0.05, "preload_high_in": 0.07,
                "preload_target_in": 0.06, "travel_in": 0.2,
            },
            {"exact_in": pytest.approx(8.52), "best_in": 8.525},
        ),
        (
            "method",
            {"method": "gap_short", "gap_in": 0.065, "rod_in": 7.5},
            {"zero_lash_in": pytest.approx(7.540625)},
        ),
        (
            "combine",
            {
                "measures": [
                    {"zero_lash_in": 7.400, "parts": [{"u_in": 0.001}]},
                    {"zero_lash_in": 7.403, "parts": [{"u_in": 0.002}]},
                ]
            },
            {"estimate_in": pytest.approx(7.4006), "weights": pytest.approx([0.8, 0.2])},
        ),
        ("firing-order", {"text": "1 3 4 2"}, {"firing_order": [1, 3, 4, 2]}),
        (
            "predict",
            {"zero_lash_in": 7.3, "changes": {"base_circle": [-0.04, 0.0], "head": [0.01, 0.0]}},
            {"zero_lash_in": pytest.approx(7.31), "u_in": 0},
        ),
    ],
)  # fmt: skip
def test_compute_needs_no_build(client: TestClient, path: str, body: Json, expected: Json) -> None:
    """The worked examples that the OpenAPI document gives."""
    answer = client.post(f"/api/compute/{path}", json=body).json()
    assert {k: answer[k] for k in expected} == expected
    rod = {"closed_in": 6.8, "pitch_in": 0.05, "most_turns": 20, "turns": 10.25}
    assert client.post("/api/compute/checking-rod", json=rod).json() == 7.3125


def test_a_build_is_set_up_like_an_earlier_one(
    client: TestClient, make_build: Make, settle: Trial
) -> None:
    """The whole set-up, none of the readings; safe to repeat; no practice engine for a pattern."""
    given = {"layout": "inline", "cylinders": 4, "mount": "pedestal", "ratio_intake": 1.7}
    first = measured(make_build, settle, **given)
    body = {"id": str(uuid4()), "name": "Its sister"}
    made = client.post(f"/api/builds/{first['id']}/like", json=body)
    assert made.status_code == 201, made.text
    build = made.json()
    own = {"id", "name", "version", "valves", "groups", "next_step", "updated_at", "summary"}
    known = client.get(f"/api/builds/{first['id']}").json()
    setup = [n for n in BuildSettings.model_fields if n not in own]
    assert {n: build[n] for n in setup} == {n: known[n] for n in setup}
    assert (build["name"], build["id"]) == ("Its sister", body["id"])
    assert sum(v["readings"] for v in build["valves"]) == 0
    assert sum(v["readings"] for v in known["valves"]) > 0
    again = client.post(f"/api/builds/{first['id']}/like", json=body).json()
    assert [v["id"] for v in again["valves"]] == [v["id"] for v in build["valves"]]
    assert client.get("/api/builds").json()["total"] == 2
    practice = client.post("/api/practice", json={"id": str(uuid4()), "scenario": "pump"}).json()
    refused = client.post(f"/api/builds/{practice['build_id']}/like",
                          json={"id": str(uuid4()), "name": "No"})  # fmt: skip
    assert (refused.status_code, refused.json()["code"]) == (422, "practice")
    assert client.post(f"/api/builds/{uuid4()}/like", json=body).status_code == 404
