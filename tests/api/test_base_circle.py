"""The whole engine through HTTP: cam card, crank wheel, every method, head map."""

from collections.abc import Callable
from typing import Any
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from tests.builders import CAM

Json = dict[str, Any]


Make = Callable[..., Json]


def change(client: TestClient, build: Json, **values: Any) -> Any:
    now = client.get(f"/api/builds/{build['id']}").json()
    body = {"version": now["version"]} | values
    return client.patch(f"/api/builds/{build['id']}", json=body)


@pytest.fixture
def caliper(client: TestClient) -> Json:
    body = {
        "id": str(uuid4()), "kind": "caliper", "name": "Caliper", "low_in": 0.0, "high_in": 12.0,
        "accuracy_in": 0.001,
    }  # fmt: skip
    return client.post("/api/instruments", json=body).json()  # type: ignore[no-any-return]


def measure(client: TestClient, build: Json, valve: int, **values: Any) -> Any:
    url = f"/api/builds/{build['id']}/valves/{build['valves'][valve]['id']}/measures"
    return client.post(url, json={"key": str(uuid4())} | values)


def test_windows_and_stops_follow_the_cam_card(client: TestClient, make_build: Make) -> None:
    """Derived by hand: ICL 106, LSA 110, 290/290; cylinder 1 overlaps at 360."""
    build = make_build(cam=CAM)
    url = f"/api/builds/{build['id']}/base_circle"
    wheel = client.get(url).json()
    windows = {w["name"]: (w["from_deg"], w["to_deg"]) for w in wheel["windows"]}
    assert windows["1I"] == (611, 1041)
    assert windows["1E"] == (391, 821)
    plans = {p["school"]: p for p in wheel["plans"]}
    assert [len(plans[s]["stops"]) for s in ("fewest", "tdc", "opening_closing")] == [2, 8, 16]
    assert plans["fewest"]["saves"] == "2 stops instead of 8, 270° less to turn"
    corners = client.get(url, params={"selection": "corners"}).json()["plans"][0]
    names = [v["name"] for s in corners["stops"] for v in s["valves"]]
    assert sorted(names) == ["1E", "1I", "2E", "2I", "7E", "7I", "8E", "8I"]
    same = {"cam": CAM, "selection": "corners"}
    assert client.post("/api/compute/base_circle", json=same).json()["plans"][0] == corners


def test_an_engine_is_changed_as_a_whole_and_reset_with_its_layout(
    client: TestClient, make_build: Make
) -> None:
    build = make_build()
    engine = build["engine"] | {"firing_order": [1, 5, 4, 2, 6, 3, 7, 8], "numbering": "along"}
    kept = change(client, build, engine=engine).json()
    assert kept["engine"] == engine
    wheel = client.get(f"/api/builds/{build['id']}/base_circle").json()
    assert [t["cylinder"] for t in wheel["tdcs"]][:3] == [1, 5, 4]
    assert wheel["plans"][0]["state"] == "none"
    twice = change(client, build, engine=engine | {"firing_order": [1, 1, 4, 2, 6, 3, 7, 8]})
    assert (twice.status_code, twice.json()["field"]) == (422, "firing_order")
    assert "1 twice; 5 missing" in twice.json()["detail"]
    six = change(client, build, layout="inline", cylinders=6).json()
    assert six["engine"]["firing_order"] == [1, 5, 3, 6, 2, 4]


def test_a_lobe_table_comes_and_goes_and_a_broken_one_names_its_line(
    client: TestClient, make_build: Make
) -> None:
    build = make_build(cam=CAM)
    url = f"/api/builds/{build['id']}/cam/intake"
    text = client.get(f"{url}.csv").text
    version = client.get(f"/api/builds/{build['id']}").json()["version"]
    kept = client.put(url, json={"version": version, "csv": text}).json()
    assert kept["lobe_tables"] == ["intake"]
    assert client.get(f"{url}.csv").text == text
    lines = text.splitlines()
    lines[40] = lines[40].replace(",", ",x")
    broken = client.put(url, json={"version": kept["version"], "csv": "\n".join(lines)})
    assert (broken.status_code, broken.json()["field"]) == (422, "table")
    assert broken.json()["detail"].startswith("Line 41: lift_in")
    gone = client.put(url, json={"version": kept["version"], "csv": None}).json()
    assert gone["lobe_tables"] == []


def test_every_method_lands_in_one_log_and_is_combined(
    client: TestClient, make_build: Make, caliper: Json
) -> None:
    build = make_build(ratio_intake=1.6, fastener_pitch_in=0.0492126)
    by_caliper = {"instrument_id": caliper["id"]}
    sent = [
        {"method": "extend", "reading": "7.401 7.403 7.402"} | by_caliper,
        {"method": "gap_short", "reading": "0.040 + 0.025", "rod": "7.362"} | by_caliper,
        {"method": "turns", "reading": "1", "rod": "7.480"},
        {"method": "indicator", "reading": "78 thou", "rod": "7.480"},
        {"method": "gap_bottomed", "reading": "0.195", "rod": "7.480"},
    ]
    for body in sent:
        answer = measure(client, build, 0, **body)
        assert answer.status_code == 201, answer.text
    station = answer.json()
    zeros = [line["length_in"] for line in station["log"]]
    ratio = station["ratio"]
    assert zeros[:2] == pytest.approx([7.402, 7.362 + 0.065 / ratio])
    lever = 0.0492126 * (1 + 1 / ratio)
    assert station["log"][2]["preload_in"] == pytest.approx(lever, abs=2e-6)
    assert station["log"][2]["plain_in"] == pytest.approx(0.0492126, abs=1e-6)
    assert zeros[4] == pytest.approx(7.480 - (0.2 - 0.195 / ratio))
    assert station["verdict"]["state"] == "settled"
    assert station["combined"]["odd"] is None
    assert sum(p["weight"] for p in station["combined"]["parts"]) == pytest.approx(1)
    assert station["valve"]["u_in"] < 0.001
    odd = measure(client, build, 0, method="extend", reading="7.460", **by_caliper).json()
    assert odd["combined"]["odd"] == "Extend in place (6)"
    assert odd["verdict"]["state"] == "conflict"
    assert odd["suspicion"]["off_in"] == pytest.approx(0.058, abs=0.001)
    assert "its other measurements" in odd["suspicion"]["sentence"]


def test_a_repeat_that_is_off_is_doubted_with_its_causes(
    client: TestClient, make_build: Make, caliper: Json
) -> None:
    body = {"method": "extend", "instrument_id": caliper["id"], "reading": "7.401 7.351 7.402"}
    said = measure(client, make_build(), 0, **body).json()["suspicion"]
    assert said["sentence"] == "1I reads {off} shorter than its other repeats."
    assert said["off_in"] == pytest.approx(-0.050)
    assert {c["cause"] for c in said["causes"]} & {"off_heel", "cup"}


def test_a_measurement_repeated_with_its_key_is_one_reading(
    client: TestClient, make_build: Make
) -> None:
    build = make_build()
    body = {"key": str(uuid4()), "method": "indicator", "reading": "0.055", "rod": "7.4"}
    lines = [len(measure(client, build, 0, **body).json()["log"]) for _ in range(2)]
    assert lines == [1, 1]
    other = measure(client, build, 0, **body | {"reading": "0.060"})
    assert other.status_code == 409


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"method": "extend", "reading": "7.4"}, "instrument_id"),
        ({"method": "turns", "reading": "12", "rod": "7.4"}, "turns"),
        ({"method": "gap_short", "reading": "0.06"}, "rod"),
        ({"method": "gap_short", "reading": "6000", "rod": "7.4"}, "gap"),
        ({"method": "gap_bottomed", "reading": "0.45", "rod": "7.4"}, "gap"),
        ({"method": "indicator", "reading": "", "rod": "7.4"}, "push"),
        ({"method": "bracket", "reading": "1"}, "method"),
    ],
)
def test_a_measurement_that_cannot_be_is_refused_by_its_field(
    client: TestClient, make_build: Make, body: Json, field: str
) -> None:
    answer = measure(client, make_build(), 0, **body)
    assert (answer.status_code, answer.json()["field"]) == (422, field)


def test_prediction_starts_the_bracket_and_doubts_a_far_reading(
    client: TestClient, make_build: Make, settle: Callable[..., Any]
) -> None:
    """Derived by hand: 7.400 less 0.040 preload, base circle 0.040 smaller: 7.380."""
    prior = {
        "intake": {"rod_in": 7.4, "preload_in": 0.04},
        "changes": {"base_circle": {"intake_in": -0.04, "within_in": 0.002}},
    }
    build = make_build(prior=prior)
    first = build["valves"][0]
    assert first["predicted_in"] == pytest.approx(7.380)
    assert first["predicted_u_in"] == pytest.approx(0.001 / 3**0.5)
    url = f"/api/builds/{build['id']}/valves/{first['id']}"
    assert client.get(url).json()["next_trial"]["length_in"] == pytest.approx(7.275)
    said = settle(build, 0, "10").json()["suspicion"]
    assert said["off_in"] == pytest.approx(7.3 - 7.38, abs=1e-3)
    assert "predicted" in said["sentence"]
    assert said["causes"][0]["cause"] in ("off_heel", "cup")


def test_head_map_shows_the_odd_reading_and_striking_it_clears_the_map(
    client: TestClient, make_build: Make, settle: Callable[..., Any]
) -> None:
    build = make_build()
    names = [v["name"] for v in build["valves"]]
    for n, name in enumerate(names):
        settle(build, n, "9" if name == "3I" else "11")
    url = f"/api/builds/{build['id']}"
    found = client.get(f"{url}/heads").json()
    states = {v["name"]: v["state"] for h in found["heads"] for v in h["valves"]}
    assert states.pop("3I") == "suspicious"
    assert set(states.values()) == {"fits"}
    assert [s["name"] for s in found["suspicions"]] == ["3I"]
    kept = client.get(url).json()
    assert "3I" in kept["next_step"]["sentence"]
    assert [v["name"] for v in kept["valves"] if v["doubted"]] == ["3I"]
    valve = build["valves"][names.index("3I")]
    station = client.get(f"{url}/valves/{valve['id']}").json()
    for line in station["log"]:
        void = {"key": str(uuid4()), "reading_id": line["id"], "reason": "On the lobe"}
        client.post(f"{url}/valves/{valve['id']}/voids", json=void)
    settle(build, names.index("3I"), "11")
    after = client.get(f"{url}/heads").json()
    assert after["suspicions"] == []
    assert after["measured"] == 16
    assert [f["about"] for f in after["remarks"]] == ["spread"]


def test_the_board_is_paged_searched_and_never_stale(
    client: TestClient, make_build: Make, settle: Callable[..., Any]
) -> None:
    builds = [make_build(name=f"Mill {n} 100%") for n in range(3)]
    page = client.get("/api/builds", params={"search": "0%", "limit": 2}).json()
    assert (page["total"], len(page["builds"])) == (3, 2)
    assert client.get("/api/builds", params={"search": "_ill"}).json()["total"] == 0
    settle(builds[0], 0, "11")
    top = client.get("/api/builds").json()["builds"][0]
    assert top["id"] == builds[0]["id"]
    assert top["valves"]["intake"]["estimate_in"] == pytest.approx(7.35)
    again = client.get("/api/builds").json()["builds"][0]
    assert again == top
    rod = builds[0]["instrument"]
    client.patch(
        f"/api/instruments/{rod['id']}", json={"version": rod["version"], "closed_in": 6.9}
    )
    corrected = client.get("/api/builds").json()["builds"][0]
    assert corrected["valves"]["intake"]["estimate_in"] == pytest.approx(7.45)


def test_solid_lifters_take_lash_and_no_preload(
    client: TestClient, make_build: Make, settle: Callable[..., Any]
) -> None:
    build = make_build(lifter_kind="solid", lash_intake_in=0.018, lash_exhaust_in=0.020)
    for n in (0, 1):
        settle(build, n, "11")
    kept = client.get(f"/api/builds/{build['id']}").json()
    assert [g["taken"] for g in kept["groups"]] == [None, None]
    assert "Solid lifters" in kept["groups"][0]["verdict"]["what"]
    assert kept["next_step"]["station"] == "order", "the board leads on to the order"
    without = make_build(lifter_kind="solid")
    for n in (0, 1):
        settle(without, n, "11")
    asked = client.get(f"/api/builds/{without['id']}").json()["next_step"]
    assert (asked["station"], "enter the lash" in asked["sentence"]) == ("setup", True)


def test_an_order_from_another_method_names_its_reading_and_what_the_heads_say(
    client: TestClient, make_build: Make, caliper: Json
) -> None:
    build = make_build(layout="inline", cylinders=4)
    names = [v["name"] for v in build["valves"]]
    for n, name in enumerate(names):
        reading = f"{7.35 + 0.007 * (int(name[0]) - 1):.4f}"
        measure(
            client,
            build,
            n,
            method="extend",
            reading=reading,
            instrument_id=caliper["id"],
            by="Ann",
        )
    sheet = client.get(f"/api/builds/{build['id']}/order.json").json()
    row = next(r for r in sheet["evidence"] if r["valve"] == "2I")
    assert (row["readings"], row["measured_by"]) == (1, "Ann")
    assert row["zero_lash_in"] == pytest.approx(7.357)
    assert any(
        "head is not square: its rear wants 21 thou longer" in p for p in sheet["open_points"]
    )
    said = client.get(f"/api/builds/{build['id']}").json()["next_step"]["sentence"]
    assert said == "Order sheet is ready, but a head is not square: see Heads"
    assert client.get(f"/api/builds/{build['id']}/order.pdf").content.startswith(b"%PDF")


def test_heads_can_be_asked_without_a_build(client: TestClient) -> None:
    valves = [
        {"cylinder": c, "kind": "intake", "zero_lash_in": 7.3 if c == 3 else 7.4}
        for c in range(1, 9)
    ]
    answer = client.post("/api/compute/heads", json={"valves": valves}).json()
    assert [one["name"] for one in answer["doubts"]] == ["3I"]
    assert answer["doubts"][0]["off_in"] == pytest.approx(-0.1)
    assert answer["spread_in"] == {"intake": pytest.approx(0), "exhaust": None}
    twice = client.post("/api/compute/heads", json={"valves": [valves[0], valves[0]]})
    assert (twice.status_code, twice.json()["field"]) == (422, "valves")


def test_the_stop_of_a_reading_is_kept_and_tells_of_the_heel(
    client: TestClient, make_build: Make, settle: Callable[..., Any]
) -> None:
    """Two short at one stop of the plan: the crank was not where it was thought to be."""
    build = make_build()
    names = [v["name"] for v in build["valves"]]
    for n, name in enumerate(names):
        short = name in ("3I", "6E")
        settle(build, n, "9 1/8" if short else "11", crank_deg=90.0 if short else 450.0)
    said = {
        s["name"]: s for s in client.get(f"/api/builds/{build['id']}/heads").json()["suspicions"]
    }
    assert set(said) == {"3I", "6E"}
    assert all(s["causes"][0]["cause"] == "off_heel" for s in said.values())
    table = client.get(f"/api/builds/{build['id']}/readings.csv").text
    assert ",90," in table
    kept = client.get(f"/api/builds/{build['id']}/file.json").json()
    assert {r["crank_deg"] for r in kept["readings"]} == {90.0, 450.0}


def test_a_known_tall_stem_explains_its_share_and_the_rest_stays_open(
    client: TestClient, make_build: Make, settle: Callable[..., Any]
) -> None:
    """On a fixed rocker a tip 30 thou taller asks for a rod 30 / R0 shorter (statics of the
    lever): what is read beyond it stays open, and the others are inferred without it."""
    build = make_build(mount="pedestal", preload_low_in=0.03, preload_high_in=0.09,
                       preload_target_in=0.06)  # fmt: skip
    for n, valve in enumerate(build["valves"]):
        if valve["name"] in ("1I", "2I", "7I", "8I"):
            settle(build, n, "10 5/8" if valve["name"] == "2I" else "11")
    url = f"/api/builds/{build['id']}"
    at = next(v for v in build["valves"] if v["name"] == "2I")
    here = f"{url}/valves/{at['id']}"
    doubted = client.get(here).json()["suspicion"]
    assert doubted["off_in"] == pytest.approx(-0.01875, abs=0.002)
    kept = client.patch(here, json={"version": at["version"], "stem": "30"})
    assert kept.status_code == 200, kept.text
    assert (kept.json()["suspicion"], kept.json()["valve"]["stem_in"]) == (None, 0.03)
    heads = client.get(f"{url}/heads").json()
    said = next(r for r in heads["remarks"] if r["about"] == "known")
    assert said["what"].startswith("2I: its tip stands {s} taller")
    assert said["smalls"]["e"] == pytest.approx(0.03 / 1.744, abs=0.001)
    assert said["smalls"]["r"] < 0.004
    rows = {r["name"]: r for r in client.get(f"{url}/decide").json()["rows"]}
    assert rows["3I"]["zero_lash_in"] == pytest.approx(rows["1I"]["zero_lash_in"], abs=0.002)
    assert rows["2I"]["zero_lash_in"] == pytest.approx(
        rows["1I"]["zero_lash_in"] - 0.01875, abs=0.002
    )
    file = client.get(f"{url}/file.json").json()
    assert {v["stem_in"] for v in file["valves"]} == {None, 0.03}
    away = client.patch(here, json={"version": kept.json()["valve"]["version"], "stem": ""})
    assert away.json()["valve"]["stem_in"] is None
    assert away.json()["suspicion"] is not None
    refused = client.patch(here, json={"version": away.json()["valve"]["version"], "stem": "3 in"})
    assert (refused.status_code, refused.json()["field"]) == (422, "change")


def test_a_third_valve_starts_just_short_of_the_two_that_agree(
    client: TestClient, make_build: Make, settle: Callable[..., Any]
) -> None:
    """With feelers: half a turn short of them; where they do not agree, the usual two turns."""
    for other, short in (("11", 0.025), ("10 1/2", 0.1)):
        build = make_build()
        at = {v["name"]: n for n, v in enumerate(build["valves"])}
        settle(build, at["1I"], "11")
        settle(build, at["3I"], other)
        url = f"/api/builds/{build['id']}/valves/{build['valves'][at['5I']]['id']}"
        step = client.get(url).json()["next_trial"]
        middle = (7.35 + 6.8 + 0.05 * (11 if other == "11" else 10.5)) / 2
        assert step["length_in"] == pytest.approx(middle - short, abs=0.007)


def test_a_doubted_reading_asks_for_the_lifter_while_it_would_tell(
    client: TestClient, make_build: Make, settle: Callable[..., Any]
) -> None:
    build = make_build()
    for n, valve in enumerate(build["valves"]):
        settle(build, n, "10 3/8" if valve["name"] == "3I" else "11")
    url = f"/api/builds/{build['id']}"

    def doubted(lifter: str | None) -> tuple[bool, list[str]]:
        final = {"measured_with": "", "lifter": lifter, "changes": {}}
        kept = client.patch(
            url, json={"version": client.get(url).json()["version"], "final": final}
        )
        assert kept.status_code == 200, kept.text
        (found,) = client.get(f"{url}/heads").json()["suspicions"]
        return found["asks_lifter"], [c["cause"] for c in found["causes"]]

    asks, causes = doubted(None)
    assert (asks, "lifter_up" in causes) == (True, True)
    assert doubted("pumped")[1][0] == "lifter_up"
    asks, causes = doubted("solid")
    assert (asks, "lifter_up" in causes) == (False, False)


def test_the_first_trial_starts_where_the_other_valves_read(
    client: TestClient, make_build: Make, settle: Callable[..., Any]
) -> None:
    """Its own kind first; with none measured its cylinder's other kind, as weak evidence."""
    build = make_build(gaps=False)
    names = {v["name"]: v for v in build["valves"]}
    settle(build, [v["name"] for v in build["valves"]].index("1I"), "11")

    def first(name: str) -> Any:
        return client.get(f"/api/builds/{build['id']}/valves/{names[name]['id']}").json()[
            "next_trial"
        ]

    assert first("3I")["length_in"] == pytest.approx(7.35, abs=0.013)
    assert "other valves" in first("3I")["reason"]
    assert first("1E")["length_in"] == pytest.approx(7.35, abs=0.013)
    assert first("3E") is None, "another cylinder's other kind tells nothing"
