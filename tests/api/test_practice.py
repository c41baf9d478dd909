"""Practice engines through the interface: one played to its end, nothing told before it."""

import io
import json
from typing import Any
from uuid import UUID, uuid4

import pytest
from fastapi.testclient import TestClient
from pypdf import PdfReader
from sqlalchemy import Engine

from vivid_arm.core.practice.scenarios import SCENARIOS
from vivid_arm.core.practice.score import final_zero_lash_in
from vivid_arm.core.practice.tools import Bench
from vivid_arm.core.practice.truth import Truth, rods_in, truth_of
from vivid_arm.records import database
from vivid_arm.records.tables import Exercise

Json = dict[str, Any]


def begin(client: TestClient, scenario: str = "pump", seed: int = 7, **more: Any) -> Json:
    body = {"id": str(uuid4()), "scenario": scenario, "seed": seed} | more
    answer = client.post("/api/practice", json=body, headers={"X-By": "Ada"})
    assert answer.status_code == 201, answer.text
    return answer.json()  # type: ignore[no-any-return]


def deed(client: TestClient, exercise: Json, name: str, **how: Any) -> Json:
    body = {"key": str(uuid4()), "name": name, "how": how}
    answer = client.post(f"/api/practice/{exercise['id']}/deeds", json=body)
    assert answer.status_code == 201, answer.text
    return answer.json()["got"]  # type: ignore[no-any-return]


def secrets_of(truth: Truth) -> set[str]:
    """Figures that only the engine knows, as they would be written to a tenth of a thou."""
    found = {f"{f.size_in:.4f}" for f in truth.faults if f.size_in} | {f"{truth.pitch_in:.5f}"}
    for valve in truth.valves.values():
        train = vars(valve.train).values()
        found |= {f"{x:.4f}" for x in (valve.zero_lash_in, *train) if abs(x) > 0.01}
        found |= {f"{final_zero_lash_in(truth, Bench(), valve):.4f}"}
    return {x for x in found if not x.endswith("00")}


@pytest.mark.parametrize("code", [s.code for s in SCENARIOS])
def test_nothing_of_the_truth_leaves_before_the_end(client: TestClient, code: str) -> None:
    """Every answer of the bench and of the stations is searched for every figure of the engine."""
    exercise, truth = begin(client, code, 31), truth_of(code, 31)
    first = next(iter(truth.valves))
    url, build = f"/api/practice/{exercise['id']}", f"/api/builds/{exercise['build_id']}"
    said = [json.dumps(exercise)]
    said += [json.dumps(deed(client, exercise, name, **how)) for name, how in [
        ("turn_crank", {"to_deg": 300.0}), ("fit", {"valve": first}), ("turn_rod", {"eighths": 3}),
        ("feel", {}), ("spin", {}), ("feeler", {"blade_in": 0.02}),
        ("watch", {"valve": first, "on": "rod"}), ("watch", {"valve": first, "on": "retainer"}),
        ("press_down", {"valve": first}), ("clay", {"valve": first}), ("mark", {}),
        ("angle", {"by": "square"}),
        ("wrench", {"bank": truth.valves[first].bank}), ("springs", {}),
    ]]  # fmt: skip
    valves = client.get(build).json()["valves"]
    for path in (url, f"{url}/trains/{first}", "/api/practice", build, f"{build}/heads",
                 f"{build}/valves/{valves[0]['id']}", f"{build}/base_circle"):  # fmt: skip
        said.append(client.get(path).text)
    if not exercise["sealed"] and exercise["hints_left"]:
        said.append(client.post(f"{url}/hints").text)
    whole = "\n".join(said)
    assert [x for x in secrets_of(truth) if x in whole] == []
    assert "zero_lash_in" not in client.get(url).text
    if truth.faults:
        assert all(f'"{f.where}", "size' not in whole for f in truth.faults)


def test_an_engine_is_played_from_the_first_turn_to_the_score(client: TestClient) -> None:
    """By what the bench gives and the station says, as a builder would: both valves inside."""
    exercise = begin(client)
    assert client.get(f"/api/practice/{exercise['id']}/certificate.pdf").status_code == 404
    url = f"/api/builds/{exercise['build_id']}"
    build = client.get(url).json()
    assert build["name"] == "Practice: The pump engine"
    assert client.get("/api/builds").json()["total"] == 0, "not on the shop's board"
    assert client.get("/api/instruments").json() == [], "nor its rod among the shop's"
    turned = 2.0
    for valve in build["valves"]:
        stops = client.get(f"{url}/base_circle", params={"selection": "all"}).json()
        heel = next(w for w in stops["windows"] if w["name"] == valve["name"])
        middle = (heel["from_deg"] + heel["to_deg"]) / 2 % 720
        deed(client, exercise, "turn_crank", to_deg=middle)
        deed(client, exercise, "fit", valve=valve["name"])
        here = f"{url}/valves/{valve['id']}"
        step = client.get(here).json()["next_trial"]
        for _ in range(8):
            if step is None:
                break
            deed(client, exercise, "turn_rod", eighths=round((step["turns"] - turned) * 8))
            turned = step["turns"]
            felt = deed(client, exercise, "feel")["felt"]
            trial = {
                "key": str(uuid4()),
                "setting": f"{turned} turns",
                "feel": {"rattles": "loose", "swings": "loose", "drags": "zero"}.get(felt, "tight"),
            }
            if felt in ("rattles", "swings"):
                drags = [
                    t
                    for t in range(1, 120)
                    if deed(client, exercise, "feeler", blade_in=t / 1000)["blade"] == "drags"
                ]
                trial |= {"gap": str(drags[0] / 1000)} if drags else {}
            step = client.post(f"{here}/trials", json=trial).json()["next_trial"]
    decision = client.get(f"{url}/decide").json()
    rods = {row["name"]: row["length_in"] for row in decision["rows"]}
    bought = client.put(f"/api/practice/{exercise['id']}/rods", json={"rods": rods})
    assert bought.json()["credits_left"] == exercise["credits_left"] - 24
    ending = client.post(f"/api/practice/{exercise['id']}/ending").json()
    assert ending["right"], ending["valves"]
    assert {v["runs"] for v in ending["valves"]} == {"right"}
    truth = truth_of("pump", 7)
    for shown in ending["valves"]:
        assert shown["zero_lash_in"] == pytest.approx(truth.valves[shown["name"]].zero_lash_in)
        assert 0.02 < shown["sweep_in"] < 0.2
        assert shown["edge_in"] > 0.04
    assert ending["misread"] is None
    took = {s["words"]: (s["spent"], s["best"]) for s in ending["spent"]}
    assert (took["rods bought"], took["credits"]) == ((2, 2), (24, 24))
    assert took["trials"][1] == 4 <= took["trials"][0]
    again = client.post(f"/api/practice/{exercise['id']}/ending").json()
    assert (again["points"], again["valves"]) == (ending["points"], ending["valves"])
    for paper in (f"/api/practice/{exercise['id']}/certificate.pdf", f"{url}/order.pdf",
                  f"{url}/report.pdf"):  # fmt: skip
        pages = PdfReader(io.BytesIO(client.get(paper).content)).pages
        assert all("Practice: no real engine" in sheet.extract_text() for sheet in pages), paper
    late = {"key": str(uuid4()), "name": "feel"}
    refused = client.post(f"/api/practice/{exercise['id']}/deeds", json=late)
    assert (refused.status_code, refused.json()["code"]) == (422, "ended")
    row = client.get("/api/practice").json()["exercises"][0]
    assert (row["person"], row["points"]) == ("Ada", ending["points"])
    lines = client.get("/api/practice/results.csv").text.splitlines()
    assert lines[1].startswith(f"Ada,pump,7,{ending['points']}")


def test_a_deed_is_done_once_however_often_it_is_sent(client: TestClient) -> None:
    exercise = begin(client)
    url = f"/api/practice/{exercise['id']}/deeds"
    body = {"key": str(uuid4()), "name": "turn_rod", "how": {"eighths": 10}}
    first, second = client.post(url, json=body).json(), client.post(url, json=body).json()
    assert (first["exercise"]["turn_part"], second["exercise"]["deeds"]) == (0.25, 1)
    assert first == second
    other = client.post(url, json=body | {"name": "spin", "how": {}})
    assert (other.status_code, other.json()["code"]) == (409, "conflict")


@pytest.mark.parametrize(
    ("path", "body", "field"),
    [
        ("", {"scenario": "moon"}, "scenario"),
        ("", {"scenario": "pump", "seed": -1}, "seed"),
        ("", {"scenario": "pump", "seed": 10**400}, "seed"),
        ("/deeds", {"name": "feel"}, "valve"),
        ("/deeds", {"name": "fit", "how": {"valve": "9I"}}, "valve"),
        ("/deeds", {"name": "fit", "how": {"eighths": 2}}, "how"),
        ("/deeds", {"name": "turn_crank", "how": {"to_deg": 721}}, "to_deg"),
        ("/deeds", {"name": "caliper", "how": {"over": "5I"}}, "over"),
        ("/rods", {"rods": {"1I": 25.0}}, "rods"),
        ("/rods", {"rods": {"7E": 7.0}}, "rods"),
        ("/ending", None, "rods"),
    ],
)
def test_what_cannot_be_is_refused(
    client: TestClient, path: str, body: Json | None, field: str
) -> None:
    here = "/api/practice" + (f"/{begin(client)['id']}{path}" if path else "")
    own = {"id": str(uuid4())} if not path else {"key": str(uuid4())} if path == "/deeds" else {}
    send = client.put if path == "/rods" else client.post
    answer = send(here, json=None if body is None else own | body)
    assert answer.status_code == 422
    assert answer.json()["field"].split(".")[-1] in (field, "rod_length"), answer.text


def test_hints_are_three_steps_and_a_sealed_one_gives_none(client: TestClient) -> None:
    exercise = begin(client, "label", 5)
    url = f"/api/practice/{exercise['id']}/hints"
    words = [client.post(url).json()["words"] for _ in range(3)]
    assert len(set(words)) == 3
    assert client.post(url).json()["code"] == "no_hints"
    sealed = begin(client, "label", 5, sealed=True)
    refused = client.post(f"/api/practice/{sealed['id']}/hints")
    assert (refused.status_code, refused.json()["code"]) == (422, "sealed")


def test_a_practice_engine_stays_out_of_the_shops_orders_and_can_be_thrown_away(
    client: TestClient,
) -> None:
    exercise = begin(client)
    order = {"id": str(uuid4()), "purpose": "set"}
    refused = client.post(f"/api/builds/{exercise['build_id']}/orders", json=order)
    assert (refused.status_code, refused.json()["code"]) == (422, "practice")
    assert client.delete(f"/api/practice/{exercise['id']}").status_code == 204
    assert client.get(f"/api/practice/{exercise['id']}").status_code == 404
    assert client.get("/api/practice").json()["exercises"] == []


def test_one_start_is_one_engine_however_often_it_is_sent(client: TestClient) -> None:
    body = {"id": str(uuid4()), "scenario": "comeback", "seed": 3}
    first = client.post("/api/practice", json=body).json()
    assert client.post("/api/practice", json=body).json() == first
    assert len(client.get("/api/practice").json()["exercises"]) == 1


def test_the_mark_seen_can_be_read_off_its_photo(client: TestClient, empty: Engine) -> None:
    """The bench's photo is a picture like any other: the station's own reading finds the mark."""
    exercise = begin(client, "sweep", 12)
    url = f"/api/practice/{exercise['id']}"
    assert client.get(f"{url}/mark.jpg").status_code == 404
    deed(client, exercise, "fit", valve="1I")
    deed(client, exercise, "turn_rod", eighths=40)
    deed(client, exercise, "mark")
    picture = client.get(f"{url}/mark.jpg")
    assert picture.headers["content-type"] == "image/jpeg"
    with database.sessions(empty)() as session:
        left = session.get_one(Exercise, UUID(exercise["id"])).bench.mark
    assert left is not None
    assert all(f"{x:.4f}" not in client.get(url).text for x in left)
    sent = client.post(
        f"/api/builds/{exercise['build_id']}/photos",
        data={"id": str(uuid4())}, files={"file": ("mark.jpg", picture.content, "image/jpeg")},
    ).json()  # fmt: skip
    overlay = sent["overlay"]
    read = sorted(overlay[e] / overlay["radius"] * 0.3415 / 2 for e in ("inboard", "outboard"))
    either = [sorted(left), sorted(-x for x in left)]
    assert any(read == pytest.approx(edges, abs=0.006) for edges in either)


def test_an_engine_with_its_rods_in_is_judged_by_turns(client: TestClient) -> None:
    """No checking rod, no length in mind: turns of the fasteners give the preload."""
    exercise = begin(client, "turns", 3)
    assert len(exercise["bought"]) == 8
    build = client.get(f"/api/builds/{exercise['build_id']}").json()
    assert build["instrument"] is None
    valve = build["valves"][0]
    stops = client.get(f"/api/builds/{build['id']}/base_circle", params={"selection": "all"}).json()
    heel = next(w for w in stops["windows"] if w["name"] == valve["name"])
    deed(client, exercise, "turn_crank", to_deg=(heel["from_deg"] + heel["to_deg"]) / 2 % 720)
    deed(client, exercise, "back_off", valve=valve["name"])
    said = [deed(client, exercise, "draw_down", eighths=1)["words"] for _ in range(60)]
    free = sum("has play" in words for words in said)
    down = next(n for n, words in enumerate(said) if "wrench stops" in words)
    measure = {
        "key": str(uuid4()), "method": "turns", "reading": str((down - free) / 8), "rod": "",
    }  # fmt: skip
    kept = client.post(f"/api/builds/{build['id']}/valves/{valve['id']}/measures", json=measure)
    assert kept.status_code == 201, kept.text
    truth = truth_of("turns", 3)
    preload = rods_in(truth)[valve["name"]] - truth.valves[valve["name"]].zero_lash_in
    assert kept.json()["log"][0]["preload_in"] == pytest.approx(preload, abs=0.015)
