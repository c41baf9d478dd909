"""From the mark to the rod on a stud: cases of the trade (common practice, no source)."""

from collections.abc import Callable
from typing import Any
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

Json = dict[str, Any]
Make = Callable[..., Json]


def stud(make_build: Make, lift_in: float, **settings: Any) -> Json:
    sheet = {
        "tip": "roller", "stem_in": 0.3415, "lifter_deg": 0.0, "offset_in": 0.0,
        "net_lift_in": lift_in, "school": "mid_lift", "shim_step_in": 0.005, "measured": {},
    }  # fmt: skip
    return make_build(mount="stud", geometry={"intake": sheet, "exhaust": None}, **settings)


def post(client: TestClient, build: Json, what: str, **body: Any) -> Json:
    url = f"/api/builds/{build['id']}/valves/{build['valves'][0]['id']}/{what}"
    answer = client.post(url, json={"key": str(uuid4())} | body)
    assert answer.status_code == 201, answer.text
    kept: Json = answer.json()
    return kept


def decided(client: TestClient, build: Json) -> tuple[set[float], list[str], str]:
    here = f"/api/builds/{build['id']}"
    found = client.get(f"{here}/decide").json()
    mail = client.get(f"{here}/order.txt").text
    return {row["length_in"] for row in found["rows"]}, found["warnings"], mail


HYDRAULIC = {
    "preload_low_in": 0.040, "preload_high_in": 0.060, "preload_target_in": 0.050,
    "travel_in": 0.140, "ratio_intake": 1.5, "ratio_exhaust": 1.5,
}  # fmt: skip


def test_the_rod_of_a_good_mark_carries_the_preload(client: TestClient, make_build: Make) -> None:
    """The try stood at zero lash: 7.275 with a square, centred mark asks for 7.275 + 0.050."""
    build = stud(make_build, 0.48, **HYDRAULIC)
    post(client, build, "trials", setting="9 1/2", feel="zero")
    post(client, build, "marks", inboard="-0.020", outboard="0.020", angle="0", rod="7.275")
    lengths, warnings, mail = decided(client, build)
    assert lengths == {7.325}
    (told,) = [w for w in warnings if w.startswith("Intake: ")]
    assert "7.2750 in at zero lash on 1I (its mark is good) + 50 thou preload = 7.3250 in" in told
    assert told in mail
    assert client.get(f"/api/builds/{build['id']}/order.json").json()["geometry"] == [told]


def test_solid_lifters_add_no_preload(client: TestClient, make_build: Make) -> None:
    build = stud(make_build, 0.48, lifter_kind="solid", lash_intake_in=0.02, lash_exhaust_in=0.02,
                 ratio_intake=1.5, ratio_exhaust=1.5)  # fmt: skip
    post(client, build, "trials", setting="9 1/2", feel="zero")
    post(client, build, "marks", inboard="-0.020", outboard="0.020", angle="0", rod="7.275")
    lengths, warnings, _ = decided(client, build)
    assert lengths == {7.275}
    assert any("7.2750 in at zero lash on 1I (its mark is good)." in w for w in warnings)


def test_an_undecided_mark_decides_no_rod(client: TestClient, make_build: Make) -> None:
    """One wide mark, its closed end not seen: too low or too high, and a coin orders no rod."""
    build = stud(make_build, 0.68, lifter_kind="solid", lash_intake_in=0.02, lash_exhaust_in=0.02,
                 ratio_intake=1.7, ratio_exhaust=1.7)  # fmt: skip
    post(client, build, "trials", setting="19", feel="zero")
    before, _, _ = decided(client, build)
    post(client, build, "marks", inboard="-0.030", outboard="0.050", rod="8.650")
    lengths, warnings, mail = decided(client, build)
    assert lengths == before
    (told,) = [w for w in warnings if "is not settled" in w]
    assert "too low or" in told
    assert "too high" in told
    assert "91.4 thou too low or 98.9 thou too high" in told
    assert "Read the arm's angle at half lift" in told
    assert told in mail
    assert told in client.get(f"/api/builds/{build['id']}/order.json").json()["open_points"]


@pytest.mark.parametrize(
    "edges",
    [("-0.045", "0.045"), ("0.010", "0.050"), ("-0.045", "-0.005"), ("-0.002", "0.002")],
    ids=["wide", "outboard", "inboard", "narrower than it can be"],
)
def test_a_mark_that_is_wide_or_aside_has_not_been_tried(
    client: TestClient, make_build: Make, edges: tuple[str, str]
) -> None:
    build = stud(make_build, 0.48, **HYDRAULIC)
    post(client, build, "trials", setting="9 1/2", feel="zero")
    post(client, build, "marks", inboard=edges[0], outboard=edges[1], rod="7.275")
    _, warnings, _ = decided(client, build)
    assert not any("its mark is good" in w for w in warnings)


def test_a_change_no_better_known_than_itself_is_no_advice(
    client: TestClient, make_build: Make
) -> None:
    """The headline asks for the next reading, never for a rod 25 thou longer ± 60."""
    build = stud(make_build, 0.55, **HYDRAULIC)
    post(client, build, "trials", setting="9 1/2", feel="zero")
    said = post(client, build, "marks", inboard="0.010", outboard="0.060", rod="7.275",
                closed_end="inboard")["verdict"]  # fmt: skip
    assert said["what"].startswith("Not settled: read the arm's angle")
    assert "only then change the rod" in said["then"].lower()


def test_no_rod_is_made_up_for_a_mark_on_a_stud(
    client: TestClient, make_build: Make, trial: Callable[..., Any]
) -> None:
    """Common practice: the mark belongs to the rod in the engine; none named is none known."""
    build = make_build(mount="stud")
    url = f"/api/builds/{build['id']}/valves/{build['valves'][0]['id']}"
    body = {"key": str(uuid4()), "inboard": "-0.020", "outboard": "0.020"}
    bare = client.post(f"{url}/marks", json=body)
    assert (bare.status_code, bare.json()["field"], bare.json()["code"]) == (422, "rod", "no_rod")
    trial(build, 0, "10 3/4", "zero", by="Tess")
    offered = client.post(f"{url}/marks", json=body)
    assert offered.status_code == 409
    (choice,) = offered.json()["context"]["choices"]
    assert choice["words"] == "The rod was 7.3375 in"
    kept = client.post(f"{url}/marks", json=body | choice["change"])
    assert kept.status_code == 201
    more = {"key": str(uuid4()), "inboard": "-0.021", "outboard": "0.020"}
    assert client.post(f"{url}/marks", json=more).status_code == 201, "as the try before stands"
    lifts = {"key": str(uuid4()), "pairs": "0.1 0.16; 0.2 0.33"}
    other = f"/api/builds/{build['id']}/valves/{build['valves'][1]['id']}"
    assert client.post(f"{other}/marks", json=lifts).status_code == 201, "lifts need no rod"
