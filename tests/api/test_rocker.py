"""The rocker's station over HTTP: marks, sheets, photos, and the same figures without a build."""

import io
from collections.abc import Callable
from typing import Any
from uuid import uuid4

import cv2
import pillow_heif
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from vivid_arm.api.rocker import views
from vivid_arm.demo.tip_photos import Scene, take
from vivid_arm.documents import photos

Json = dict[str, Any]
Make = Callable[..., Json]
SHEET = {"tip": "roller", "stem_in": 0.3415, "net_lift_in": 0.55}


def station(build: Json) -> str:
    return f"/api/builds/{build['id']}/valves/{build['valves'][0]['id']}"


def mark(client: TestClient, build: Json, **values: object) -> Any:
    body = {"key": str(uuid4()), **values}
    return client.post(f"{station(build)}/marks", json=body)


def picture(scene: Scene | None = None, kind: str = "PNG", **save: object) -> bytes:
    shown = take(scene or Scene(-0.02, 0.03))
    out = io.BytesIO()
    Image.fromarray(cv2.cvtColor(shown, cv2.COLOR_BGR2RGB)).save(out, kind, **save)  # type: ignore[arg-type]
    return out.getvalue()


def upload(client: TestClient, build: Json, body: bytes, photo_id: str = "") -> Any:
    return client.post(
        f"/api/builds/{build['id']}/photos",
        data={"id": photo_id or str(uuid4())},
        files={"file": ("tip.png", body)},
    )


def test_two_marks_and_a_correction(client: TestClient, make_build: Make) -> None:
    build = make_build(mount="stud", geometry={"intake": SHEET})
    first = mark(client, build, rod="7.700", inboard="-0.039", outboard="0.018").json()
    assert [m["number"] for m in first["marks"]] == [1]
    assert first["decided"] is False
    assert {first["error_in"] > 0, first["rivals"][0]["error_in"] > 0} == {True, False}
    assert first["next_readings"][0]["decides"]
    second = mark(client, build, rod="7.750", inboard="-0.028", outboard="0.021").json()
    assert second["decided"] is True
    assert second["error_in"] > 0
    assert second["marks"][1]["predicted"]["inboard_in"] < 0
    us = [m["error_u_in"] for m in second["marks"]]
    assert us[1] < us[0]
    asked = second["corrections"][0]
    assert asked["school"] == "mid_lift"
    assert asked["rounded_in"] == pytest.approx(7.825, abs=0.051)
    assert asked["change_in"] > 0.02
    assert round(asked["rounded_in"] / 0.025) * 0.025 == pytest.approx(asked["rounded_in"])
    assert second["verdict"]["what"].startswith("Not settled: read the arm's angle")
    third = mark(client, build, angle="3.4").json()
    assert third["verdict"]["what"].startswith("Take a rod")
    assert third["settled_in"] is not None


def test_lengths_are_in_the_orders_convention(client: TestClient, make_build: Make) -> None:
    """Theoretical overall is the centre length and two ball radii, 0.3125, more."""
    build = make_build(mount="stud", geometry={"intake": SHEET})
    mark(client, build, rod="7.3875", rod_convention="centre", inboard="-0.02", outboard="0.02")
    found = client.get(f"{station(build)}/rocker").json()
    assert found["convention"] == "theoretical"
    assert found["now_in"] == pytest.approx(7.7)
    batch = client.get(f"{station(build)}/rocker/motion").json()
    assert any(abs(s - 7.7) < 1e-9 for s in batch["settings"]["setting_in"])
    assert all(round(s / 0.025, 6) == round(s / 0.025) for s in batch["stocked_in"])


def test_the_batch_and_the_mechanism_say_the_same(client: TestClient, make_build: Make) -> None:
    build = make_build(mount="shaft", geometry={"intake": SHEET})
    mark(client, build, shim="0", inboard="-0.02", outboard="0.03", closed_end="inboard")
    batch = client.get(f"{station(build)}/rocker/motion").json()
    k = 50
    body = {
        "arm_in": batch["arm_in"], "cup_in": batch["cup_in"], "bend_deg": batch["bend_deg"],
        "tip_radius_in": batch["tip_radius_in"], "stem_in": batch["stem_in"],
        "seat_x_in": batch["seat_x_in"], "seat_y_in": batch["seat_y_in"],
        "fulcrum_in": batch["settings"]["fulcrum_in"][k],
        "height_in": batch["settings"]["height_in"][k],
        "lobe_in": [batch["lobe_in"][30], batch["lobe_in"][-1]],
    }  # fmt: skip
    alone = client.post("/api/compute/mechanism", json=body).json()
    assert alone["valve_in"][0] == pytest.approx(batch["valve_in"][k][30], abs=2e-5)
    assert alone["contact_in"][0] == pytest.approx(batch["contact_in"][k][30], abs=2e-5)
    assert alone["sweep_width_in"] == pytest.approx(batch["settings"]["width_in"][k], abs=5e-5)
    assert alone["error_in"] == pytest.approx(batch["settings"]["error_in"][k], abs=5e-5)


def test_what_was_expected_is_told_of_the_latest_tries_only(
    client: TestClient, make_build: Make, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Each is a fit of its own: a hundred tries on one valve must not cost a hundred."""
    monkeypatch.setattr(views, "_TOLD_OF", 2)
    build = make_build(mount="stud", geometry={"intake": SHEET})
    for inboard, outboard in (("-0.039", "0.018"), ("-0.038", "0.019"), ("-0.040", "0.017")):
        found = mark(client, build, rod="7.700", inboard=inboard, outboard=outboard).json()
    assert [m["predicted"] is None for m in found["marks"]] == [True, False, False]
    assert [m["error_in"] is None for m in found["marks"]] == [True, False, False]
    assert found["marks"][2]["error_in"] == pytest.approx(found["error_in"])


def test_marks_and_the_stateless_fit_say_the_same(client: TestClient, make_build: Make) -> None:
    build = make_build(mount="shaft", geometry={"intake": SHEET})
    kept = mark(client, build, shim="0", inboard="-0.02", outboard="0.03", angle="1.2").json()
    lines = {line["name"]: line["value"] for line in kept["sheet"]}
    body = {
        "rocker": "roller_shaft", "catalogue_ratio": 1.6, "stem_in": 0.3415, "rod_in": 7.5,
        "net_lift_in": 0.55,
        "tries": [{"setting_in": 0.0, "inboard_in": -0.02, "outboard_in": 0.03, "angle_deg": 1.2}],
    }  # fmt: skip
    alone = client.post("/api/compute/marks", json=body).json()
    assert alone["error_in"] == pytest.approx(kept["error_in"], abs=1e-9)
    assert alone["exact_in"] == pytest.approx(kept["corrections"][0]["exact_in"], abs=1e-9)
    assert lines["arm_in"] == 1.6


@pytest.mark.parametrize("ratio", [0, 0.4, 2.6, -1.6, 1e300])
def test_a_ratio_no_rocker_has_is_refused(client: TestClient, ratio: float) -> None:
    body = {
        "rocker": "shoe_stud", "catalogue_ratio": ratio, "stem_in": 0.3415, "rod_in": 7.5,
        "net_lift_in": 0.55, "tries": [{"setting_in": 7.5, "inboard_in": -0.02}],
    }  # fmt: skip
    answer = client.post("/api/compute/marks", json=body)
    assert (answer.status_code, answer.json()["field"]) == (422, "catalogue_ratio")


def test_r0_of_the_geometry_feeds_gaps_and_turns(client: TestClient, make_build: Make) -> None:
    """Once it is known better than the catalogue's: the same gap means another length."""
    build = make_build(mount="shaft")
    rod = {"key": str(uuid4()), "method": "gap_short", "reading": "0.065", "rod": "7.5"}
    before = client.post(f"{station(build)}/measures", json=rod).json()
    assert 1.07 * 1.6 < before["ratio"] < 1.12 * 1.6, "common practice: near closed"
    assert "a usual rocker's" in before["ratio_words"]
    known = {"bend_deg": {"value": 20, "u": 1}, "lean_deg": {"value": 2, "u": 0.5},
             "arm_in": {"value": 1.5, "u": 0.005}, "ratio": {"value": 1.6, "u": 0.01}}  # fmt: skip
    change = {"version": build["version"], "geometry": {"intake": SHEET | {"measured": known}}}
    assert client.patch(f"/api/builds/{build['id']}", json=change).status_code == 200
    mark(client, build, shim="0", inboard="-0.02", outboard="0.02", closed_end="inboard")
    after = client.get(station(build)).json()
    assert after["ratio"] == pytest.approx(1.85, abs=0.08)
    assert "R0 from the rocker's geometry" in after["ratio_words"]
    length = after["valve"]["estimate_in"]
    assert length == pytest.approx(7.5 + 0.065 / after["ratio"], abs=1e-6)
    assert length < before["valve"]["estimate_in"]
    assert after["valve"]["u_in"] < before["valve"]["u_in"]
    said = after["log"][0]["explanation"]
    assert any("geometry" in note for note in said["notes"])
    other = client.get(f"/api/builds/{build['id']}/valves/{build['valves'][1]['id']}").json()
    assert other["ratio"] == before["ratio"], "the exhausts are as they were"


def test_a_try_is_safe_to_repeat_and_stays_when_struck(
    client: TestClient, make_build: Make
) -> None:
    build = make_build(mount="shaft")
    key = str(uuid4())
    for _ in range(2):
        found = mark(client, build, key=key, shim="0", inboard="-0.02", outboard="0.03").json()
        assert len(found["marks"]) == 1
    other = mark(client, build, key=key, shim="0", inboard="-0.05", outboard="0.03")
    assert (other.status_code, other.json()["code"]) == (409, "conflict")
    void = {"key": str(uuid4()), "reading_id": found["marks"][0]["id"], "reason": "Mark smeared"}
    struck = client.post(f"{station(build)}/marks/voids", json=void).json()
    assert struck["marks"][0]["struck_reason"] == "Mark smeared"
    assert struck["marks"][0]["error_in"] is None
    assert struck["verdict"]["state"] == "waiting"


@pytest.mark.parametrize(
    ("values", "field", "words"),
    [
        ({}, "mark", "Nothing was seen"),
        ({"inboard": "0.03", "outboard": "-0.02"}, "outboard_in", "swap the two edges"),
        ({"inboard": "0.2", "outboard": "0.24"}, "inboard", "lies off a tip of 0.3415"),
        ({"inboard": "2000", "outboard": "0.03"}, "mark_edge", "2000 thou is outside"),
        ({"angle": "ninety"}, "angle", "is not an angle"),
        ({"lift": "610"}, "net_lift", "610 looks like 0.61 in"),
        ({"pairs": "0.3 0.1"}, "pairs", "no rocker's"),
        ({"lift": "0.70", "real_lift": "0.74"}, "real_in", "lost zero"),
        ({"inboard": "-0.02", "outboard": "0.02", "width": "0.04"}, "width_in", "width empty"),
    ],
)
def test_tries_that_cannot_be_right(
    client: TestClient, make_build: Make, values: Json, field: str, words: str
) -> None:
    build = make_build(mount="shaft")
    answer = mark(client, build, **values)
    assert (answer.status_code, answer.json()["field"]) == (422, field)
    assert words in answer.json()["detail"]
    assert client.get(f"{station(build)}/rocker").json()["marks"] == []


def test_a_rod_that_no_nut_can_take_is_refused_and_not_kept(
    client: TestClient, make_build: Make
) -> None:
    build = make_build(mount="stud", geometry={"intake": SHEET})
    mark(client, build, rod="7.700", inboard="-0.02", outboard="0.02")
    wrong = mark(client, build, rod="14.000", inboard="-0.02", outboard="0.02")
    assert (wrong.status_code, wrong.json()["code"]) == (422, "impossible")
    assert len(client.get(f"{station(build)}/rocker").json()["marks"]) == 1


def test_sheets_that_cannot_be_right(client: TestClient, make_build: Make) -> None:
    build = make_build(mount="shaft")
    for own, field in (
        ({"measured": {"arm_in": {"value": 15, "u": 0.01}}}, "arm_in"),
        ({"stem_in": 3.4}, "tip_diameter"),
        (
            {"tip": "shoe", "measured": {"tip_radius_in": {"value": 1.58, "u": 0.1}}},
            "tip_radius_in",
        ),
    ):
        change = {"version": build["version"], "geometry": {"intake": SHEET | own}}
        answer = client.patch(f"/api/builds/{build['id']}", json=change)
        assert (answer.status_code, answer.json()["field"]) == (422, field)


def test_measured_ratio_and_half_lift(client: TestClient) -> None:
    """Common practice: net lift 0.722, half at 0.361; 0.742 light, 0.722 real: 0.020 lost."""
    half = client.post(
        "/api/compute/mid-lift", json={"net_lift_in": 0.722, "gauge_in": 0.30}
    ).json()
    assert half["mid_lift_in"] == pytest.approx(0.361)
    assert half["sentence"].startswith("61 thou to go")
    there = client.post("/api/compute/mid-lift", json={"net_lift_in": 0.722, "gauge_in": 0.3615})
    assert there.json()["there"] is True
    body = {"pairs": [[0.429, 0.742]], "light_in": 0.742, "real_in": 0.722}
    found = client.post("/api/compute/ratio", json=body).json()
    assert found["lost_in"] == pytest.approx(0.020)
    assert found["points"][0]["ratio"] == pytest.approx(1.73, abs=0.001)


@pytest.mark.slow
@pytest.mark.parametrize("kind", ["JPEG", "PNG", "HEIF"])
def test_a_photo_is_read_made_anew_and_stripped(
    client: TestClient, make_build: Make, kind: str
) -> None:
    build = make_build(mount="shaft")
    exif = Image.Exif()
    exif[0x010F] = "Camera of the shop"
    pillow_heif.register_heif_opener()
    body = picture(kind=kind, exif=exif.tobytes())
    found = upload(client, build, body).json()
    assert found["clear"]
    kept = client.get(f"/api/builds/{build['id']}/photos/{found['id']}.jpg")
    assert kept.headers["content-type"] == "image/jpeg"
    assert b"Camera of the shop" in body
    assert b"Camera of the shop" not in kept.content
    with Image.open(io.BytesIO(kept.content)) as image:
        assert image.size == (found["width"], found["height"])
        assert not image.getexif()
    overlay = found["overlay"]
    told = mark(client, build, shim="0", photo=overlay | {"photo_id": found["id"]}).json()
    width = told["marks"][0]["outboard_in"] - told["marks"][0]["inboard_in"]
    assert width == pytest.approx(0.050, abs=0.002)
    assert told["marks"][0]["photo"]["photo_id"] == found["id"]


def test_photos_that_are_refused(client: TestClient, make_build: Make) -> None:
    build = make_build(mount="shaft")
    client.get(f"/api/builds/{build['id']}/order.pdf")
    for body, words in ((b"not a picture", "no photo"), (picture()[:4000], "no photo")):
        answer = upload(client, build, body)
        assert (answer.status_code, answer.json()["field"]) == (422, "photo")
        assert words in answer.json()["detail"]
    answer = upload(client, build, b"\xff" * (photos.MOST_BYTES + 2))
    assert "MB is more than 15 MB" in answer.json()["detail"]
    gone = mark(client, build, shim="0", photo={
        "photo_id": str(uuid4()), "x": 1.0, "y": 1.0, "radius": 50.0, "axis_deg": 0.0,
        "inboard": -5.0, "outboard": 5.0,
    })  # fmt: skip
    assert gone.status_code == 404


@pytest.mark.slow
def test_a_photo_sent_twice_is_one(client: TestClient, make_build: Make) -> None:
    build = make_build(mount="shaft")
    own = str(uuid4())
    first = upload(client, build, picture(), own).json()
    again = upload(client, build, picture(Scene(0.0, 0.05)), own).json()
    assert again["overlay"] == first["overlay"]
    turned = upload(client, build, picture(kind="JPEG", exif=_turned())).json()
    assert (turned["width"], turned["height"]) == (640, 640)


def _turned() -> bytes:
    exif = Image.Exif()
    exif[0x0112] = 6
    return exif.tobytes()
