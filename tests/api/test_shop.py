"""What the shop has learned, through the interface."""

import csv
import io
from collections.abc import Callable
from typing import Any
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

Json = dict[str, Any]
Make = Callable[..., Json]
Trial = Callable[..., Any]


def learned(client: TestClient) -> Json:
    answer = client.get("/api/shop/learned")
    assert answer.status_code == 200, answer.text
    return answer.json()  # type: ignore[no-any-return]


def test_an_empty_shop_says_what_to_read(client: TestClient) -> None:
    found = learned(client)
    assert (found["engines"], found["missing"], found["study"]) == (0, 0, None)
    assert "Feel zero twice" in found["method"]
    assert [k["spread"] for k in found["kinds"]] == [None, None]


def test_two_people_on_the_same_valves(client: TestClient, make_build: Make, trial: Trial) -> None:
    """Ben reads two thou longer than Ann, each within a thou of himself."""
    body = {
        "id": str(uuid4()), "kind": "caliper", "name": "Caliper", "low_in": 0, "high_in": 12,
        "accuracy_in": 0.001, "resolution_in": 0.0005,
    }  # fmt: skip
    caliper = client.post("/api/instruments", json=body).json()
    build = make_build(instrument_id=caliper["id"])
    for valve in range(0, 8, 2):
        for by, more in (("Ann", 0.0), ("Ben", 0.002)):
            for again in (0.0, 0.0005):
                read = f"{7.5 + valve / 100 + more + again:.4f}"
                assert trial(build, valve, read, "zero", by=by).status_code == 201
    study = learned(client)["study"]
    assert (study["readings"], study["valves"]) == (16, 4)
    people = {p["name"]: p["offset_in"] for p in study["persons"]}
    assert people["Ben"] - people["Ann"] == pytest.approx(0.002, abs=2e-4)
    assert people["Ben"] == pytest.approx(-people["Ann"])
    repeats = [p["repeat_in"] for p in study["persons"]]
    assert repeats == pytest.approx([0.0005 / 2**0.5] * 2)
    assert "two tools" in study["open"]


def test_engines_pool_their_spread_and_their_ratio(
    client: TestClient, make_build: Make, settle: Callable[..., Any]
) -> None:
    for n in range(5):
        build = make_build(
            r0_intake=1.6 + n / 100, ratio_intake=1.6,
            r0_exhaust=1.6 + n / 100 if n else None, ratio_exhaust=1.6,
        )  # fmt: skip
        settle(build, 0, "14.00", by="Ann")
        settle(build, 2, "14 1/8", by="Ann")
    found = learned(client)
    assert (found["engines"], found["missing"]) == (5, 0)
    spread = found["kinds"][0]["spread"]
    assert (spread["groups"], spread["freedom"]) == (5, 5)
    assert spread["sd_in"] == pytest.approx(0.00625 / 2**0.5, rel=0.05)
    (factor,) = found["factors"]
    assert (factor["mount"], factor["engines"]) == ("pedestal", 5)
    assert factor["mean"] == pytest.approx(1.0125, abs=1e-3)
    (hand,) = found["hands"]
    assert (hand["person"], hand["engines"]) == ("Ann", 5)
    rows = list(csv.DictReader(io.StringIO(client.get("/api/shop/learned.csv").text)))
    by_what = {(r["what"], r["whose"]): float(r["value"]) for r in rows if r["value"]}
    assert by_what["spread", "intake"] == pytest.approx(spread["sd_in"])
    assert by_what["R0 over catalogue", "pedestal"] == pytest.approx(factor["mean"])


@pytest.mark.parametrize("spoken", ["en", "de"])
def test_what_was_read_since_its_row_was_kept_is_learned_too(
    client: TestClient, make_build: Make, settle: Callable[..., Any], spoken: str
) -> None:
    """A board opened between two valves keeps a row that knows the first of them alone."""
    build = make_build()
    settle(build, 0, "14.00")
    assert client.get("/api/builds", headers={"Accept-Language": spoken}).status_code == 200
    assert learned(client)["kinds"][0]["spread"] is None
    settle(build, 2, "14 1/8")
    assert learned(client)["kinds"][0]["spread"]["groups"] == 1


def test_a_build_starts_from_what_the_shop_knew_then(
    client: TestClient, make_build: Make, settle: Callable[..., Any]
) -> None:
    """It keeps what it was given; what the shop learns later does not move it."""
    asked = {"mount": "pedestal", "person": "Ann"}
    assert client.get("/api/shop/starting", params=asked).json()["words"] == []
    for _ in range(5):
        settle(make_build(r0_intake=1.68, ratio_intake=1.6), 0, "14.00", by="Ann")
    learned(client)
    offered = client.get("/api/shop/starting", params=asked).json()
    assert len(offered["words"]) == 2
    build = make_build()
    url = f"/api/builds/{build['id']}"
    before = client.get(f"{url}/valves/{build['valves'][0]['id']}").json()
    change = {"version": build["version"], "starting": offered["figures"]}
    kept = client.patch(url, json=change)
    assert kept.status_code == 200, kept.text
    after = client.get(f"{url}/valves/{build['valves'][0]['id']}").json()
    assert after["ratio"] == pytest.approx(1.05 * build["ratio_intake"], rel=1e-3)
    assert after["ratio"] != before["ratio"]
    assert "5 engines of this shop" in after["ratio_words"]
    settle(make_build(r0_intake=1.60, ratio_intake=1.6), 0, "14.00", by="Ann")
    assert client.get(f"{url}/valves/{build['valves'][0]['id']}").json() == after
    again = client.patch(url, json={"version": kept.json()["version"], "starting": None})
    assert again.json()["starting"] is None
    now = client.get(f"{url}/valves/{build['valves'][0]['id']}").json()
    assert now["ratio_words"] == before["ratio_words"]


@pytest.mark.parametrize(
    ("figures", "field"),
    [
        ({"hands": [0.5, 0.5]}, "hands"),
        ({"factor": 3.0, "factor_u": 0.01}, "factor"),
        ({"factor": 1.05, "factor_u": 0}, "factor_u"),
    ],
)
def test_a_start_that_no_shop_has(
    client: TestClient, make_build: Make, figures: Json, field: str
) -> None:
    build = make_build()
    answer = client.patch(
        f"/api/builds/{build['id']}", json={"version": build["version"], "starting": figures}
    )
    assert answer.status_code == 422
    assert field in answer.json()["field"]


def test_practice_and_the_bin_teach_nothing(
    client: TestClient, make_build: Make, settle: Callable[..., Any]
) -> None:
    build = make_build()
    settle(build, 0, "14.00")
    assert learned(client)["engines"] == 1
    assert client.delete(f"/api/builds/{build['id']}").status_code == 204
    start = {"id": str(uuid4()), "scenario": "first", "seed": 1}
    client.post("/api/practice", json=start)
    assert learned(client)["engines"] == 0
