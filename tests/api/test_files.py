"""Files and refusals of the whole engine through HTTP."""

import csv
import io
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from uuid import uuid4

import httpx
import pytest
from fastapi.testclient import TestClient

from tests.builders import CAM, LOBE, web

Json = dict[str, Any]
Make = Callable[..., Json]


def test_a_build_file_is_safe_to_send_twice_and_refused_when_the_build_has_moved_on(
    client: TestClient, make_build: Make, trial: Callable[..., Any], settle: Callable[..., Any]
) -> None:
    build = make_build(cam=CAM)
    trial(build, 0, "11", "zero")
    url = f"/api/builds/{build['id']}"
    file = client.get(f"{url}/file.json").json()
    for _ in range(2):
        again = client.post("/api/builds/file", json=file)
        assert (again.status_code, again.json()["id"]) == (201, build["id"])
    settle(build, 1, "11")
    moved = client.post("/api/builds/file", json=file)
    assert (moved.status_code, moved.json()["code"]) == (409, "conflict")
    assert set(moved.json()["context"]["yours"]) == {"build", "readings"}


@pytest.mark.parametrize(
    ("body", "says"),
    [
        ({}, "Build file, format: missing"),
        ({"format": "vivid-arm/build/1"}, "Build file, instruments: missing"),
        ({"format": "vivid-arm/build/1", "readings": [], "more": 1}, "more: unknown field"),
        (
            {"format": "vivid-arm/build/1", "readings": [], "instruments": [], "build": None},
            "build: empty",
        ),
    ],
)
def test_what_is_no_build_file_is_refused_by_its_place(
    client: TestClient, body: Json, says: str
) -> None:
    answer = client.post("/api/builds/file", json=body)
    assert (answer.status_code, answer.json()["field"]) == (422, "file")
    assert says in answer.json()["detail"]


def test_a_file_whose_set_up_the_program_never_writes_is_refused(
    client: TestClient, make_build: Make
) -> None:
    build = make_build()
    file = client.get(f"/api/builds/{build['id']}/file.json").json()
    file["build"] |= {"id": str(uuid4()), "name": "Copy", "bias": "longer", "gaps": True}
    file["valves"] = [v | {"id": str(uuid4())} for v in file["valves"]]
    file["build"]["prior"] = {
        "convention": "spread",
        "intake": None,
        "exhaust": None,
        "changes": {},
    }
    answer = client.post("/api/builds/file", json=file)
    assert (answer.status_code, answer.json()["code"]) == (422, "build_file")
    assert client.get("/api/builds").json()["total"] == 1


def test_readings_leave_as_csv_with_units_and_what_follows(
    client: TestClient, make_build: Make, trial: Callable[..., Any]
) -> None:
    build = make_build()
    trial(build, 0, "10 1/2", "loose", gap="20 thou", by="=Ann")
    answer = client.get(f"/api/builds/{build['id']}/readings.csv")
    assert answer.headers["content-type"].startswith("text/csv")
    row = next(iter(csv.DictReader(io.StringIO(answer.text))))
    assert (row["valve"], row["kind"], row["reading"]) == ("1I", "trial", "10.5")
    assert (row["gap"], row["length_in"]) == ("0.020000 in", "7.325000")
    assert row["by"] == "'=Ann"
    assert row["convention"] == "theoretical"


def test_a_csv_is_kept_whole_or_not_at_all(client: TestClient, make_build: Make) -> None:
    build = make_build()
    url = f"/api/builds/{build['id']}"
    head = "valve,kind,reading,feel\n"
    broken = client.post(
        f"{url}/readings", json={"csv": head + "1I,trial,11,zero\n1E,trial,99,zero"}
    )
    assert (broken.status_code, broken.json()["field"]) == (422, "csv")
    assert "Line 3: 99 turns is outside 0 to 60" in broken.json()["detail"]
    assert client.get(f"{url}/heads").json()["measured"] == 0
    lines = "1I,trial,10.5 turns,loose\n1I,trial,11,zero\n1I,trial,11,zero\n"
    good = client.post(f"{url}/readings", json={"csv": head + lines})
    assert good.json() == {"lines": 3}
    assert client.get(f"{url}/heads").json()["measured"] == 1


def test_all_that_was_seen_of_a_mark_goes_out_in_a_table_and_comes_back(
    client: TestClient, make_build: Make
) -> None:
    """By eye, at rest, sideways, the adjuster's turns: a table loses nothing of a try."""
    one, other = (make_build(mount="shaft_adjustable") for _ in range(2))
    tries: list[Json] = [
        {"inboard": "-0.02", "outboard": "0.03", "across": "0.01", "closed_end": "inboard"},
        {"place": "outboard", "wide": "usual"},
        {"inboard": "0.01", "outboard": "0.02", "at_rest": True, "sink": "0.004"},
        {"width": "0.05", "off": "outboard", "screw": "1 1/2"},
    ]
    url = f"/api/builds/{one['id']}"
    valve = one["valves"][0]["id"]
    for seen in tries:
        answer = client.post(f"{url}/valves/{valve}/marks", json={"key": str(uuid4())} | seen)
        assert answer.status_code == 201, answer.text
    rows = list(csv.DictReader(io.StringIO(client.get(f"{url}/readings.csv").text)))
    assert len(rows) == len(tries)
    out = io.StringIO()
    table = csv.DictWriter(out, [name for name in rows[0] if name != "key"], extrasaction="ignore")
    table.writeheader()
    table.writerows(rows)
    url = f"/api/builds/{other['id']}"
    read = client.post(f"{url}/readings", json={"csv": out.getvalue()})
    assert read.status_code == 201, read.text
    seen = [
        [line["seen"] for line in client.get(f"/api/builds/{b['id']}/file.json").json()["readings"]]
        for b in (one, other)
    ]
    assert seen[0] == seen[1]


@pytest.mark.parametrize(
    ("values", "field", "says"),
    [
        ({"guard_deg": 80.0}, "guard_deg", "Guard: 80°"),
        (
            {"cam": CAM | {"intake": LOBE | {"duration_050_deg": 300.0}}},
            "duration_050_deg",
            "swapped",
        ),
        ({"cam": CAM | {"icl_deg": 10.0}}, "icl_deg", "Intake lobe centre: 10°"),
        ({"fastener_pitch_in": 18.0}, "thread_pitch", "Thread pitch"),
        ({"seat_height_in": 40.0}, "seat_height", "Lifter seat height"),
        ({"lash_intake_in": 0.5}, "lash", "Lash"),
        ({"mount": "glued"}, "mount", "Mount"),
        (
            {"prior": {"intake": {"rod_in": 74.0, "preload_in": 0.04}}},
            "rod_length",
            "Rod length: 74.0000 in is outside",
        ),
        (
            {
                "prior": {
                    "intake": {"rod_in": 7.4, "preload_in": 0.04},
                    "changes": {"head": {"intake_in": 4.9}},
                }
            },
            "changes",
            "difference between old and new",
        ),
    ],
)
def test_a_set_up_that_cannot_be_is_refused_by_its_field(
    client: TestClient, make_build: Make, values: Json, field: str, says: str
) -> None:
    build = make_build()
    url = f"/api/builds/{build['id']}"
    answer = client.patch(url, json={"version": build["version"]} | values)
    assert answer.status_code == 422
    assert answer.json()["field"].endswith(field)
    assert says in answer.json()["detail"]
    assert client.get(url).json()["version"] == build["version"]


def test_cam_and_lobe_are_changed_on_what_was_seen(client: TestClient, make_build: Make) -> None:
    build = make_build(cam=CAM)
    url = f"/api/builds/{build['id']}"
    text = client.get(f"{url}/cam/exhaust.csv").text
    first = client.patch(url, json={"version": build["version"], "guard_deg": 20.0}).json()
    stale = client.put(f"{url}/cam/exhaust", json={"version": build["version"], "csv": text})
    assert stale.status_code == 409
    kept = client.put(f"{url}/cam/exhaust", json={"version": first["version"], "csv": text})
    assert kept.json()["lobe_tables"] == ["exhaust"]
    none = client.put(f"{url}/cam/sideways", json={"version": 1, "csv": None})
    assert none.status_code == 422
    bare = make_build()
    missing = client.put(f"/api/builds/{bare['id']}/cam/intake", json={"version": 1, "csv": text})
    assert (missing.status_code, missing.json()["field"]) == (422, "cam")
    assert client.get(f"/api/builds/{bare['id']}/cam/intake.csv").status_code == 404


def test_measurements_from_many_at_once_are_numbered_once_each(live: str) -> None:
    """Twelve readings at the same time on one valve: twelve lines, numbers 1 to 12."""
    with httpx.Client(base_url=live, trust_env=False, timeout=30) as http:
        body = {"id": str(uuid4()), "name": "At once", "layout": "single", "cylinders": 1}
        build = http.post("/api/builds", json=body).json()
    url = f"{live}/api/builds/{build['id']}/valves/{build['valves'][0]['id']}"

    def send(n: int) -> int:
        reading = {
            "key": str(uuid4()), "method": "indicator", "reading": f"{50 + n} thou", "rod": "7.4",
        }  # fmt: skip
        return web.post(f"{url}/measures", json=reading).status_code

    with ThreadPoolExecutor(6) as pool:
        assert set(pool.map(send, range(12))) == {201}
    log = web.get(url).json()["log"]
    assert [line["number"] for line in log] == list(range(1, 13))


def test_a_csv_figure_that_can_be_turns_or_a_length_is_asked(
    client: TestClient, make_build: Make
) -> None:
    """The rod reads 6.800 to 7.800: a bare 7.25 may be turns (7.1625) as well as a length."""
    build = make_build()
    url = f"/api/builds/{build['id']}/readings"
    head = "valve,kind,reading,feel\n"
    asked = client.post(url, json={"csv": head + "1I,trial,7.25,tight\n"})
    assert (asked.status_code, asked.json()["field"]) == (422, "csv")
    assert "can be turns or a length" in asked.json()["detail"]
    told = head + "1I,trial,7.25 turns,loose\n1I,trial,7.25 in,tight\n1I,trial,7.3,tight\n"
    assert client.post(url, json={"csv": told}).json() == {"lines": 3}
    valve = f"/api/builds/{build['id']}/valves/{build['valves'][0]['id']}"
    assert [x["length_in"] for x in client.get(valve).json()["log"]] == [7.1625, 7.25, 7.3]
