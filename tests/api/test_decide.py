"""The decision through HTTP: ways, growth, schools, the rod, the box and the cut list."""

import csv
import io
from collections.abc import Callable
from typing import Any
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient
from pypdf import PdfReader

Json = dict[str, Any]
Make = Callable[..., Json]
Trial = Callable[..., Any]


@pytest.fixture
def build(client: TestClient, make_build: Make, settle: Trial) -> Json:
    """Four cylinders; 3I is 0.01875 shorter than the other intakes, and a gap confirms it."""
    made = make_build(layout="inline", cylinders=4, preload_low_in=0.055, preload_high_in=0.08)
    for valve, turns in ((0, "10 3/4"), (2, "10 3/4"), (4, "10 3/8"), (6, "10 3/4"), (1, "12")):
        settle(made, valve, turns, by="Tess")
    gap = {"key": str(uuid4()), "method": "gap_short", "reading": "0.030", "rod": "7.300"}
    third = made["valves"][4]["id"]
    assert client.post(url(made, "valves", third, "measures"), json=gap).status_code == 201
    return made


def url(build: Json, *more: str) -> str:
    return "/".join([f"/api/builds/{build['id']}", *more])


def change(client: TestClient, build: Json, **values: Any) -> Any:
    version = client.get(url(build)).json()["version"]
    return client.patch(url(build), json={"version": version} | values)


def test_ways_of_buying_beside_each_other(client: TestClient, build: Json) -> None:
    found = client.get(url(build, "decide")).json()
    ways = {w["strategy"]: w for w in found["ways"]}
    assert [x["valves"] for x in ways["fewest"]["lots"]] == [
        ["3I"], ["1I", "2I", "4I"], ["1E", "2E", "3E", "4E"],
    ]  # fmt: skip
    assert len(ways["one"]["lots"]) == 1
    assert ways["one"]["outside"]
    assert found["strategy"] == "kinds"
    assert change(client, build, plan={"strategy": "fewest"}).status_code == 200
    now = client.get(url(build, "decide")).json()
    assert now["verdict"]["what"] == "2E is at the limit of its window.", "only inferred"
    assert now["verdict"]["state"] == "closing", "too unsure to be called settled"
    assert [r["name"] for r in now["rows"] if r["inferred"]] == ["2E", "3E", "4E"]
    sheet = client.get(url(build, "order.json")).json()
    assert [(x["quantity"], x["valves"]) for x in sheet["lines"]] == [
        (1, ["3I"]), (3, ["1I", "2I", "4I"]), (4, ["1E", "2E", "3E", "4E"]),
    ]  # fmt: skip
    assert sheet["inferred"] == ["2E", "3E", "4E"]
    drawn = client.get(url(build, "heads")).json()
    assert [(x["count"], x["length_in"]) for x in drawn["rods"]] == [
        (1, 7.375), (3, 7.4), (4, 7.475),
    ]  # fmt: skip
    heads = drawn["heads"][0]["valves"]
    assert {v["name"]: v["rod_in"] for v in heads}["3I"] == 7.375
    assert {v["state"] for v in heads if v["name"] in ("1I", "2I")} == {"fits"}


def test_the_board_shows_the_rod_that_its_valve_gets(client: TestClient, build: Json) -> None:
    """One length serves no kind here: bought freely, 1I has a rod of its own that is inside."""
    change(client, build, plan={"strategy": "fewest"})
    row = next(b for b in client.get("/api/builds").json()["builds"] if b["id"] == build["id"])
    drawn, shown = row["taken"]["intake"], row["valves"]["intake"]["name"]
    rows = {r["name"]: r for r in client.get(url(build, "decide")).json()["rows"]}
    assert drawn["length_in"] == rows[shown]["length_in"]
    assert drawn["inside"] is rows[shown]["inside"]
    assert drawn["preload_low_in"] == pytest.approx(rows[shown]["preload_in"])


def test_a_sure_decision_names_what_was_inferred(client: TestClient, build: Json) -> None:
    """Sure only where the shop's own engines have fewer odd valves than the usual one in 25."""
    change(client, build, preload_low_in=0.045, preload_high_in=0.095, plan={"strategy": "fewest"})
    usual = client.get(url(build, "decide")).json()
    assert (usual["odd_one_in"], usual["verdict"]["state"]) == (25, "closing")
    assert "one in 25 of those is odd" in usual["verdict"]["why"]
    change(client, build, plan={"strategy": "fewest", "odd_one_in": 100})
    said = client.get(url(build, "decide")).json()["verdict"]
    assert (said["state"], said["what"]) == ("settled", "2 lengths put every valve inside.")
    assert said["then"] == "Inferred, not measured: 2E, 3E, 4E. Measure them first."


def test_the_hot_engine_moves_the_preload(client: TestClient, build: Json) -> None:
    before = client.get(url(build, "decide")).json()
    assert (before["growth"], before["stack"]) == ({}, [])
    change(client, build, plan={"block": "aluminium", "head": "aluminium"})
    found = client.get(url(build, "decide")).json()
    for row in found["rows"]:
        growth = found["growth"][row["kind"]]
        total = sum(t["value_in"] for t in growth["terms"])
        assert row["hot_in"] == pytest.approx(row["preload_in"] + total)
        assert abs(row["chances"]["hot"] - row["counted"]["hot"]) < 0.03
    own = {"height_in": 6.0, "material": "steel", "rise_k": 50.0}
    change(client, build, plan={"block": "iron", "head": "iron", "parts": {"block": own}})
    stack = {p["part"]: p for p in client.get(url(build, "decide")).json()["stack"]}
    assert stack["block"]["own"]
    assert (stack["block"]["height_in"], stack["block"]["material"]) == (6.0, "steel")
    assert not stack["head"]["own"]
    hot = change(client, build, plan={"block": "iron", "head": "iron", "parts": {
        "rod": own | {"rise_k": 5000.0}}})  # fmt: skip
    assert hot.status_code == 422


def test_a_school_brings_its_window_and_an_own_figure_ends_it(
    client: TestClient, build: Json
) -> None:
    kept = change(client, build, preload_school="near_bottom", travel_in=0.09).json()
    assert (kept["preload_low_in"], kept["preload_target_in"], kept["preload_high_in"]) == (
        pytest.approx(0.06), pytest.approx(0.07), pytest.approx(0.08),
    )  # fmt: skip
    longer = change(client, build, travel_in=0.12).json()
    assert longer["preload_target_in"] == pytest.approx(0.10), "the school follows the travel"
    own = change(client, build, preload_target_in=0.095).json()
    assert (own["preload_school"], own["preload_target_in"]) == (None, pytest.approx(0.095))


def test_a_window_held_in_turns_is_thou_by_either_rule(client: TestClient, build: Json) -> None:
    """Common practice: half a turn to one and a half of a 20 thread are 25 to 75 thou by the
    plain rule; the lever pushes the rod further by 1 + 1/R0."""
    held = {"low": 0.5, "high": 1.5, "rule": "plain"}
    kept = change(client, build, fastener_pitch_in=0.05, preload_turns=held, travel_in=0.2).json()
    ends = [kept[f"preload_{name}_in"] for name in ("low", "target", "high")]
    assert ends == pytest.approx([0.025, 0.05, 0.075])
    assert kept["turns_in"]["plain"] == pytest.approx([0.025, 0.075])
    low, high = kept["turns_in"]["lever"]
    lever = 1 + 1 / near_closed(client, build)
    assert (low, high) == (pytest.approx(0.025 * lever, abs=2e-4), pytest.approx(3 * low))
    by_lever = change(client, build, preload_turns=held | {"rule": "lever"}).json()
    assert by_lever["preload_high_in"] == pytest.approx(high, abs=1e-6)
    finer = change(client, build, fastener_pitch_in=0.04).json()
    assert finer["preload_high_in"] == pytest.approx(0.8 * high, abs=1e-6), "follows the thread"
    sheet = client.get(url(build, "order.json")).json()
    assert sheet["preload_school"].startswith("1/2 to 1 1/2 turns of the fastener, lever rule")
    own = change(client, build, preload_target_in=0.05).json()
    assert (own["preload_turns"], own["preload_target_in"]) == (None, 0.05)
    change(client, build, preload_turns=held)
    school = change(client, build, preload_school="tie_bar").json()
    assert (school["preload_turns"], school["preload_low_in"]) == (None, 0.04)


@pytest.mark.parametrize(
    ("held", "field"),
    [({"low": 1.5, "high": 0.5}, "preload_low"), ({"low": 0.3, "high": 1}, "turns"),
     ({"low": 0.5, "high": 5}, "travel"), ({"low": 0.5, "high": 9}, "preload_turns")],
)  # fmt: skip
def test_a_window_in_turns_that_cannot_be_is_refused(
    client: TestClient, build: Json, held: Json, field: str
) -> None:
    refused = change(client, build, preload_turns=held)
    assert refused.status_code == 422, refused.text
    assert refused.json()["field"].startswith(field), refused.text


def test_a_school_brings_its_window_to_a_new_build_too(client: TestClient) -> None:
    def made(**settings: Any) -> Json:
        body = {"id": str(uuid4()), "name": "New"} | settings
        answer = client.post("/api/builds", json=body)
        assert answer.status_code == 201, answer.text
        kept: Json = answer.json()
        return kept

    school = made(preload_school="tie_bar")
    window = [school[f"preload_{name}_in"] for name in ("low", "high", "target")]
    assert window == pytest.approx([0.040, 0.060, 0.050])
    own = made(preload_school="tie_bar", preload_high_in=0.055, preload_low_in=0.045,
               preload_target_in=0.05)  # fmt: skip
    assert own["preload_high_in"] == 0.055
    long = made(preload_school="long_travel")
    assert (long["travel_in"], long["preload_high_in"]) == (0.200, 0.100)


def near_closed(client: TestClient, build: Json) -> float:
    """R0 as the build has it."""
    return float(client.get(url(build, "valves", build["valves"][0]["id"])).json()["ratio"])


def test_solid_lifters_need_their_lash_first(client: TestClient, build: Json) -> None:
    change(client, build, lifter_kind="solid", mount="shaft_adjustable")
    refused = client.get(url(build, "decide"))
    assert (refused.status_code, refused.json()["field"]) == (422, "lash_intake_in")
    change(client, build, lash_intake_in=0.016, lash_exhaust_in=0.018)
    found = client.get(url(build, "decide")).json()
    assert found["mode"] == "lash"
    row = next(r for r in found["rows"] if r["name"] == "1I")
    assert row["preload_in"] == pytest.approx(-0.016 / near_closed(client, build))
    assert row["off_bottom_in"] is None
    assert abs(row["turns"]) <= found["reach_turns"]


def test_nothing_measured_decides_nothing(client: TestClient, make_build: Make) -> None:
    assert client.get(url(make_build(), "decide")).json() is None


def test_the_rod_beside_others(client: TestClient, build: Json) -> None:
    rod = {"spring_lbf": 350.0, "others": [{"diameter_in": 0.375}], "trial_diameter_in": 0.3125,
           "clearance_in": 0.065}  # fmt: skip
    assert change(client, build, rod=rod).status_code == 200
    found = client.get(url(build, "rod")).json()
    thin, thick = found["strengths"]
    assert thick["safety"] > thin["safety"]
    assert thin["load_lbf"] == pytest.approx(350 * 1.6)
    assert found["room"] == {"largest_in": 0.3825, "usual": "3/8"}
    alone = client.post("/api/compute/rod", json={
        "diameter_in": 0.375, "wall_in": 0.080, "length_in": found["length_in"],
        "spring_lbf": 350.0, "ratio": 1.6}).json()  # fmt: skip
    assert alone["euler_lbf"] == pytest.approx(thick["euler_lbf"])
    bad = change(client, build, rod={"diameter_in": 0.3125, "wall_in": 0.3})
    assert (bad.status_code, bad.json()["field"]) == (422, "wall_in")


def test_cut_list(client: TestClient, build: Json) -> None:
    assert client.get(url(build, "cut-list.csv")).status_code == 422
    change(client, build, rod={"sample_overall_in": 7.4, "sample_tube_in": 7.1, "bar_in": 36.0})
    rows = list(csv.DictReader(io.StringIO(client.get(url(build, "cut-list.csv")).text)))
    sheet = client.get(url(build, "order.json")).json()
    wanted = {v: x["length_in"] for x in sheet["lines"] for v in x["valves"]}
    assert {r["valve"]: float(r["finished_in"]) for r in rows} == wanted
    assert all(
        float(r["finished_in"]) - float(r["tube_in"]) == pytest.approx(0.3, abs=1e-4) for r in rows
    )
    pdf = client.get(url(build, "cut-list.pdf"))
    text = "\n".join(p.extract_text() for p in PdfReader(io.BytesIO(pdf.content)).pages)
    assert f"{float(rows[0]['tube_in']):.4f} in" in text
    off = [float(rows[0]["finished_in"]) + 0.004, float(rows[1]["finished_in"]) - 0.006]
    typed = {"rods": " ".join(f"{x:.4f}" for x in off)}
    pressed = client.post(url(build, "cut-list", "pressed"), json=typed).json()
    assert [(p["valve"], p["within"]) for p in pressed] == [
        (rows[0]["valve"], True), (rows[1]["valve"], False),
    ]  # fmt: skip
    many = client.post(url(build, "cut-list", "pressed"), json={"rods": "7.4 " * 9})
    assert (many.status_code, many.json()["code"]) == (422, "too_many")
    short = change(client, build, rod={"sample_overall_in": 7.4, "sample_tube_in": 7.5})
    assert (short.status_code, short.json()["field"]) == (422, "sample_tube_in")


def test_shelf_lengths_are_weighed_where_there_are_enough(client: TestClient, build: Json) -> None:
    exact = {"id": str(uuid4()), "length": "7.3380", "convention": "measured", "count": 3}
    odd = {"id": str(uuid4()), "length": "7.4560", "count": 16}
    for body in (exact, odd):
        assert client.post("/api/box", json=body).status_code == 201
    change(client, build, plan={"strategy": "best"})
    lots = {x["length_in"]: x for x in client.get(url(build, "decide")).json()["lots"]}
    assert 7.456 not in lots, "no valve wants it more than another"
    change(client, build, preload_low_in=0.04, preload_high_in=0.07, preload_target_in=0.056)
    lots = {x["length_in"]: x for x in client.get(url(build, "decide")).json()["lots"]}
    assert lots[7.456]["in_box"] == 16
    bad = client.post("/api/box", json=exact | {"id": str(uuid4()), "length": "74"})
    assert (bad.status_code, bad.json()["field"]) == (422, "rod_length")


def test_a_script_gets_the_same_answer(client: TestClient, build: Json) -> None:
    change(client, build, plan={"strategy": "fewest", "block": "iron", "head": "aluminium"})
    found = client.get(url(build, "decide")).json()
    body = {
        "valves": [
            {"name": r["name"], "zero_lash_in": r["zero_lash_in"], "u_in": r["u_in"],
             "ratio": near_closed(client, build), "inferred": r["inferred"]}
            for r in found["rows"]
        ],
        "preload_low_in": 0.055, "preload_high_in": 0.08, "preload_target_in": 0.07,
        "travel_in": 0.2, "block": "iron", "head": "aluminium",
    }  # fmt: skip
    alone = client.post("/api/compute/decide", json=body).json()
    for mine, row in zip(alone["rows"], found["rows"], strict=True):
        assert mine["length_in"] == row["length_in"]
        assert mine["chance_cold"] == pytest.approx(row["chances"]["cold"])
        assert mine["hot_in"] == pytest.approx(row["hot_in"])
    wrong = client.post("/api/compute/decide", json=body | {"valves": []})
    assert wrong.status_code == 422


def test_lengths_that_can_be_had_need_no_steps(
    client: TestClient, make_build: Make, settle: Trial
) -> None:
    """A shop that owns 7.396 and 7.405 buys those, and nothing between."""
    made = make_build(layout="single", cylinders=1)
    settle(made, 0, "10 3/4")
    settle(made, 1, "10 3/4")
    change(client, made, plan={"lengths_in": [7.405, 7.396, 7.6]})
    found = client.get(url(made, "decide")).json()
    assert {r["length_in"] for r in found["rows"]} == {7.405}
    kept = client.get(url(made)).json()
    assert [c["length_in"] for c in kept["groups"][0]["candidates"]] == [7.396, 7.405, 7.6]
    bad = change(client, made, plan={"lengths_in": [74]})
    assert (bad.status_code, "plan" in bad.json()["field"]) == (422, True)


def test_the_final_engines_gasket_is_carried_into_every_result(
    client: TestClient, make_build: Make, settle: Trial
) -> None:
    """Measured on a 0.055 gasket, run on 0.051: the head comes 4 thou down, the rod 4 shorter."""
    made = make_build(layout="single", cylinders=1)
    settle(made, 0, "10 3/4")
    settle(made, 1, "10 3/4")
    before = client.get(url(made, "decide")).json()["rows"][0]["zero_lash_in"]
    final = {
        "measured_with": "0.055 gasket, bled lifters, light springs",
        "changes": {"gasket": {"intake_in": 0.004, "exhaust_in": 0.004, "within_in": 0.001}},
    }
    assert change(client, made, final=final).status_code == 200
    found = client.get(url(made, "decide")).json()
    row = found["rows"][0]
    assert row["zero_lash_in"] == pytest.approx(before - 0.004, abs=1e-6)
    assert "intake rods 4 thou shorter than it measured (measured with 0.055" in " ".join(
        found["warnings"]
    )
    valve = made["valves"][0]["id"]
    station = client.get(url(made, "valves", valve)).json()
    assert station["valve"]["estimate_in"] == pytest.approx(before), "the reading stays as it was"
    assert station["exact_in"] == pytest.approx(before - 0.004 + 0.070)
    assert any(
        "0.055 gasket" in p for p in client.get(url(made, "order.json")).json()["open_points"]
    )


def test_an_odd_valve_drags_nothing_that_is_inferred(
    client: TestClient, make_build: Make, settle: Trial
) -> None:
    made = make_build(layout="inline", cylinders=6)
    intakes = [i for i, v in enumerate(made["valves"]) if v["kind"] == "intake"]
    for n, turns in zip(intakes, ("10 3/4", "10 3/4", "10 3/4", "11 1/4", "10 3/4"), strict=False):
        settle(made, n, turns)
    odd = made["valves"][intakes[3]]
    gap = {"key": str(uuid4()), "method": "gap_short", "reading": "0.0435", "rod": "7.3375"}
    client.post(url(made, "valves", odd["id"], "measures"), json=gap)
    heads = client.get(url(made, "heads")).json()
    assert [r["valves"] for r in heads["remarks"] if r["about"] == "odd"] == [["4I"]]
    rows = {r["name"]: r for r in client.get(url(made, "decide")).json()["rows"]}
    assert rows["6I"]["inferred"]
    assert rows["6I"]["zero_lash_in"] == pytest.approx(7.3375, abs=2e-4)


def test_growth_read_on_the_engine_counts_before_the_stack(client: TestClient, build: Json) -> None:
    """Hot and cold readings say 15 thou less: they count, and the stack is held to them."""
    plan = {"strategy": "fewest", "block": "aluminium", "head": "aluminium"}
    change(client, build, plan=plan)
    stack = client.get(url(build, "decide")).json()["growth"]["intake"]
    assert (stack["read_in"], stack["change_in"]) == (None, stack["stack_in"])
    change(client, build, plan=plan | {"grown_in": {"intake": -0.015}})
    found = client.get(url(build, "decide")).json()
    read = found["growth"]["intake"]
    assert (read["change_in"], read["u_in"]) == (-0.015, 0.002)
    assert read["fit"] == pytest.approx(-0.015 / stack["stack_in"])
    row = next(r for r in found["rows"] if r["kind"] == "intake")
    assert row["hot_in"] == pytest.approx(row["preload_in"] - 0.015)
    assert row["chances"]["hot"] == pytest.approx(row["counted"]["hot"], abs=0.03)


def test_what_all_valves_share_is_counted_once_in_the_chance_of_the_set(
    client: TestClient, build: Json
) -> None:
    """A gasket known to ± 5 thou moves all rods together: the set is likelier inside than if each
    valve had the same uncertainty of its own (the product of their chances)."""
    gasket = {"gasket": {"intake_in": 0.004, "exhaust_in": 0.004, "within_in": 0.008}}
    change(client, build, preload_low_in=0.045, preload_high_in=0.085, preload_target_in=0.065,
           final={"changes": gasket}, plan={"strategy": "best", "odd_one_in": 1000})  # fmt: skip
    found = client.get(url(build, "decide")).json()
    alone = 1.0
    for row in found["rows"]:
        alone *= row["chances"]["cold"]
    worst = min(row["chances"]["cold"] for row in found["rows"])
    assert alone + 0.02 < found["all_inside"] <= worst + 1e-6
