"""What happened, who did it and when; notes; strikes and changes taken back; builds found again."""

import re
from collections.abc import Callable
from io import BytesIO
from typing import Any
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient
from PIL import Image
from pypdf import PdfReader
from sqlalchemy import Engine, text

from tests.api.test_odd import told
from tests.builders import CAM
from vivid_arm.demo import shop
from vivid_arm.records import database
from vivid_arm.records.evidence import flaws

Json = dict[str, Any]
Make = Callable[..., Json]


def events(client: TestClient, build: Json, **query: Any) -> list[Json]:
    answer = client.get(f"/api/builds/{build['id']}/history", params=query)
    assert answer.status_code == 200, answer.text
    return answer.json()["events"]  # type: ignore[no-any-return]


def note(client: TestClient, build: Json, words: str, **more: Any) -> Any:
    body = {"key": str(uuid4()), "text": words, "by": "Ada"} | more
    return client.post(f"/api/builds/{build['id']}/notes", json=body)


@pytest.mark.parametrize(
    ("method", "reading", "inches", "millimetres"),
    [
        ("extend", "7.4 7.401", "7.4000 in, 7.4010 in", "187.96 mm, 187.99 mm"),
        ("indicator", "0.0485", "48.5 thou", "1.23 mm"),
        ("gap_short", "0.040 + 0.041", "81 thou", "2.06 mm"),
        ("turns", "1 1/4", "1 1/4", "1 1/4"),
    ],
)
def test_what_was_read_is_told_with_its_unit(
    client: TestClient, make_build: Make, method: str, reading: str, inches: str, millimetres: str
) -> None:
    """Whoever looks may work in another unit than whoever typed it."""
    build = make_build(fastener_pitch_in=0.05)
    caliper = {
        "id": str(uuid4()), "kind": "caliper", "name": "C", "low_in": 0.0, "high_in": 12.0,
    }  # fmt: skip
    client.post("/api/instruments", json=caliper).raise_for_status()
    body = {"key": str(uuid4()), "method": method, "reading": reading, "rod": "7.3"}
    if method == "extend":
        body |= {"instrument_id": caliper["id"], "rod": ""}
    url = f"/api/builds/{build['id']}/valves/{build['valves'][0]['id']}/measures"
    kept = client.post(url, json=body)
    assert kept.status_code == 201, kept.text
    for unit, read in (("in", inches), ("mm", millimetres)):
        (said,) = events(client, build, unit=unit, kind="reading")
        assert said["words"].endswith(f", {read}")


@pytest.mark.slow
def test_nothing_has_just_changed(client: TestClient, empty: Engine) -> None:
    """An order that is only closed tells nothing new; an angle is told in degrees."""
    with database.sessions(empty).begin() as session:
        shop.load(session)
    (found,) = client.get("/api/builds", params={"search": "Quarry"}).json()["builds"]
    build = client.get(f"/api/builds/{found['id']}").json()
    change = {"version": build["version"], "guard_deg": 12.0}
    assert client.patch(f"/api/builds/{build['id']}", json=change).status_code == 200
    said = events(client, build)
    assert "Changed" not in {e["words"] for e in said}
    assert said[0]["details"] == [{"name": "Guard", "old": "15°", "new": "12°"}]


def here(build: Json, valve: int) -> str:
    return f"/api/builds/{build['id']}/valves/{build['valves'][valve]['id']}"


def lines(answer: Any) -> list[Json]:
    assert answer.status_code == 201, answer.text
    return [line for line in answer.json()["log"] if line["kind"] == "trial"]


def strike(client: TestClient, build: Json, valve: int, reading: int, **more: Any) -> Any:
    body = {"key": str(uuid4()), "reading_id": reading, "reason": "Misread", "by": "Ben"} | more
    return client.post(f"{here(build, valve)}/voids", json=body)


def restore(client: TestClient, build: Json, valve: int, reading: int, **more: Any) -> Any:
    body = {"key": str(uuid4()), "reading_id": reading, "by": "Ada"} | more
    return client.post(f"{here(build, valve)}/restores", json=body)


def test_a_struck_reading_counts_again_and_can_be_struck_again(
    client: TestClient, make_build: Make, trial: Any, empty: Engine
) -> None:
    """Every step is a new line of the log; the chain of evidence holds."""
    build = make_build()
    reading = lines(trial(build, 0, "10", "zero"))[0]["id"]
    assert told(restore(client, build, 0, reading), 422)["code"] == "not_struck"
    assert lines(strike(client, build, 0, reading))[0]["struck"]
    told(strike(client, build, 0, reading), 409)
    key = str(uuid4())
    for _ in range(2):
        back = restore(client, build, 0, reading, key=key)
        assert not lines(back)[0]["struck"]
    assert back.json()["valve"]["trials"] == 1
    told(restore(client, build, 0, reading), 422)
    again = str(uuid4())
    for _ in range(2):
        struck = lines(strike(client, build, 0, reading, key=again, reason="No, it was wrong"))[0]
        assert (struck["struck"], struck["struck_reason"]) == (True, "No, it was wrong")
    assert not lines(restore(client, build, 0, reading))[0]["struck"]
    corrected = trial(build, 0, "11", "zero", replaces=reading, reason="Typed wrong")
    assert [line["struck"] for line in lines(corrected)] == [True, False]
    assert "stands in the place" in told(restore(client, build, 0, reading), 422)["detail"]
    assert [e["words"] for e in events(client, build, kind="reading")] == [
        "2: zero at 7.3500 in, in place of reading 1: Typed wrong",
        "Reading 1 counts again",
        "Reading 1 struck out: No, it was wrong",
        "Reading 1 counts again",
        "Reading 1 struck out: Misread",
        "1: zero at 7.3000 in (struck out: Typed wrong)",
    ]
    with empty.begin() as connection:
        assert flaws(connection) == []


def test_a_reading_is_moved_to_the_valve_it_belongs_to(
    client: TestClient, make_build: Make, trial: Any
) -> None:
    build = make_build()
    old = lines(trial(build, 0, "10", "loose", gap="0.020", by="Tess"))[0]
    body = {"key": str(uuid4()), "reading_id": old["id"], "to": build["valves"][3]["id"],
            "by": "Ada"}  # fmt: skip
    for _ in range(2):
        left = lines(client.post(f"{here(build, 0)}/moves", json=body))
        assert [line["struck"] for line in left] == [True]
    name = build["valves"][3]["name"]
    assert left[0]["struck_reason"] == f"Belongs to {name}"
    there = [x for x in client.get(here(build, 3)).json()["log"] if x["kind"] == "trial"]
    kept = ("raw", "turns", "length_in", "feel", "gap_in", "by", "at")
    assert [{k: x[k] for k in kept} for x in there] == [{k: old[k] for k in kept}]
    for to in (build["valves"][0]["id"], str(uuid4())):
        wrong = body | {"key": str(uuid4()), "to": to}
        answer = client.post(f"{here(build, 0)}/moves", json=wrong)
        assert answer.status_code in (404, 422)


def test_the_history_says_who_changed_what_from_what_to_what(
    client: TestClient, make_build: Make, trial: Any, rod: Json
) -> None:
    build = make_build()
    url = f"/api/builds/{build['id']}"
    change = {"version": build["version"], "preload_target_in": 0.08}
    assert client.patch(url, json=change, headers={"X-By": "Ada"}).status_code == 200
    trial(build, 0, "10", "loose", by="Ben")
    tool = {"version": rod["version"], "closed_in": 6.81}
    client.patch(f"/api/instruments/{rod['id']}", json=tool, headers={"X-By": "Cy"})
    found = events(client, build)
    by = {e["kind"]: e for e in found}
    assert (by["set-up"]["by"], by["set-up"]["words"]) == ("Ada", "Preload target")
    target = by["set-up"]["details"]
    assert target == [{"name": "Preload target", "old": "70 thou", "new": "80 thou"}]
    closed = {"name": "Closed", "old": "6.8000 in", "new": "6.8100 in"}
    assert (by["tool"]["by"], by["tool"]["where"]) == ("Cy", "Rod")
    assert by["tool"]["details"] == [closed]
    assert by["reading"]["by"] == "Ben"
    assert by["reading"]["words"].startswith("1: loose at 7.3000 in")
    assert [e["at"] for e in found] == sorted((e["at"] for e in found), reverse=True)
    assert found[-1]["words"] == "Build made"
    mm = events(client, build, unit="mm", kind="set-up")[0]["details"][0]
    assert (mm["old"], mm["new"]) == ("1.78 mm", "2.03 mm")
    shop = client.get("/api/history").json()["events"]
    assert {"Kept", "Closed"} <= {e["words"] for e in shop}


def test_the_last_change_is_taken_back_and_only_the_last(
    client: TestClient, make_build: Make
) -> None:
    build = make_build()
    url = f"/api/builds/{build['id']}"
    rods = [(0.08, "Ada"), (0.09, "Ben")]
    for target, by in rods:
        now = client.get(url).json()
        change = {"version": now["version"], "preload_target_in": target}
        assert client.patch(url, json=change, headers={"X-By": by}).status_code == 200
    last, first = [e["change_id"] for e in events(client, build, kind="set-up")]
    told(client.post(f"{url}/history/{first}/undo"), 409)
    for _ in range(2):
        assert client.post(f"{url}/history/{last}/undo").status_code == 204
    assert client.get(url).json()["preload_target_in"] == 0.08
    back = events(client, build, kind="set-up")[0]
    assert [one["new"] for one in back["details"]] == ["80 thou"]
    # Taking back is a change like any other: it can be taken back too.
    assert client.post(f"{url}/history/{back['change_id']}/undo").status_code == 204
    assert client.get(url).json()["preload_target_in"] == 0.09
    other = make_build()
    told(client.post(f"/api/builds/{other['id']}/history/{last}/undo"), 422)
    told(client.post(f"{url}/history/999999/undo"), 422)


def test_shapes_and_tools_are_taken_back_too(
    client: TestClient, make_build: Make, rod: Json
) -> None:
    build = make_build()
    url = f"/api/builds/{build['id']}"
    answer = client.patch(url, json={"version": build["version"], "cam": CAM})
    assert answer.status_code == 200, answer.text
    wider = CAM | {"lsa_deg": CAM["lsa_deg"] + 2}
    answer = client.patch(url, json={"version": answer.json()["version"], "cam": wider})
    last = events(client, build, kind="set-up")[0]
    figures = {"old": f"{CAM['lsa_deg']:g}°", "new": f"{wider['lsa_deg']:g}°"}
    assert last["details"] == [{"name": "Cam: Lsa"} | figures]
    client.post(f"{url}/history/{last['change_id']}/undo")
    assert client.get(url).json()["cam"]["lsa_deg"] == CAM["lsa_deg"]
    none = {"version": client.get(url).json()["version"], "instrument_id": None}
    client.patch(url, json=none)
    last = events(client, build, kind="set-up")[0]
    assert last["details"] == [{"name": "Instrument", "old": "Rod", "new": "nothing"}]
    client.post(f"{url}/history/{last['change_id']}/undo")
    assert client.get(url).json()["instrument_id"] == rod["id"]


def test_rods_in_the_box_are_put_back_as_they_were(client: TestClient) -> None:
    body = {"id": str(uuid4()), "length": "7.400", "count": 8}
    made = client.post("/api/box", json=body)
    assert made.status_code == 201, made.text
    change = {"version": 1, "count": 5}
    assert client.patch(f"/api/box/{body['id']}", json=change).status_code == 200
    last = client.get("/api/history", params={"kind": "box"}).json()["events"][0]
    assert last["details"] == [{"name": "Count", "old": "8", "new": "5"}]
    assert client.post(f"/api/history/{last['change_id']}/undo").status_code == 204
    box = client.get("/api/box").json()
    assert [r["count"] for r in box] == [8]


def jpeg() -> bytes:
    file = BytesIO()
    Image.new("RGB", (60, 40), "grey").save(file, "JPEG")
    return file.getvalue()


def test_notes_stand_on_build_valve_and_reading_and_in_the_report(
    client: TestClient, make_build: Make, trial: Any, empty: Engine
) -> None:
    build = make_build(name="Noted")
    reading = lines(trial(build, 1, "10", "loose"))[0]["id"]
    photo = str(uuid4())
    url = f"/api/builds/{build['id']}"
    sent = client.post(
        f"{url}/photos", data={"id": photo}, files={"file": ("x.jpg", jpeg(), "image/jpeg")}
    )
    assert sent.status_code == 201, sent.text
    first = note(client, build, "Head off the green engine", photo_id=photo).json()
    valve = build["valves"][2]
    note(client, build, "Guide is worn", valve_id=valve["id"])
    kept = note(client, build, "<b>Cold</b> hands", reading_id=reading).json()
    assert [n["where"] for n in kept] == ["", valve["name"], f"{build['valves'][1]['name']}, "
                                         "reading 1"]  # fmt: skip
    changed = note(client, build, "Head off the blue engine", replaces=first[0]["id"],
                   photo_id=photo).json()  # fmt: skip
    assert (changed[0]["text"], changed[0]["changed"]) == ("Head off the blue engine", True)
    told(note(client, build, "Once more", replaces=first[0]["id"]), 409)
    gone = note(client, build, "", replaces=changed[1]["id"]).json()
    assert [n["text"] for n in gone] == ["Head off the blue engine", "<b>Cold</b> hands"]
    pdf = PdfReader(BytesIO(client.get(f"{url}/report.pdf").content))
    page = "\n".join(p.extract_text() for p in pdf.pages)
    assert "Head off the blue engine" in page
    assert "<b>Cold</b> hands" in page
    assert "Guide is worn" not in page
    assert len({i.data for p in pdf.pages for i in p.images}) == 1
    assert [e["words"] for e in events(client, build, kind="note")] == [
        "Note taken away: Guide is worn",
        "Note now: Head off the blue engine; was: Head off the green engine",
        "Note: <b>Cold</b> hands",
        "Note: Guide is worn",
        "Note: Head off the green engine",
    ]
    with empty.begin() as connection:
        assert flaws(connection) == []
        connection.execute(text("SET LOCAL session_replication_role = replica"))
        connection.execute(text("UPDATE notes SET body = 'Nothing' WHERE body LIKE 'Guide%'"))
        assert [f.kind for f in flaws(connection)] == ["note"]


def test_a_photo_stands_in_the_report_once_and_no_more_than_a_dozen_do(
    client: TestClient, make_build: Make
) -> None:
    """Notes about one photo would fill the report with it."""
    build = make_build(name="Noted")
    url = f"/api/builds/{build['id']}"
    photos = [str(uuid4()) for _ in range(13)]
    for photo in photos:
        client.post(f"{url}/photos", data={"id": photo}, files={"file": ("x.jpg", jpeg())})
    for n, photo in enumerate([photos[0]] * 20 + photos):
        note(client, build, f"Look {n}", photo_id=photo)
    pages = PdfReader(BytesIO(client.get(f"{url}/report.pdf").content)).pages
    drawn = b"".join(page.get_contents().get_data() for page in pages)  # type: ignore[union-attr]
    assert len(re.findall(rb"/i\w+ Do", drawn)) == 12
    printed = "".join(page.extract_text() for page in pages)
    assert "Look 32" in printed
    assert "Photos that are not printed here: 1." in printed


@pytest.mark.parametrize(
    ("more", "field"),
    [({"text": "  "}, "text"), ({"valve_id": str(uuid4())}, "valve_id"),
     ({"reading_id": 99999}, "reading_id"), ({"photo_id": str(uuid4())}, "photo_id"),
     ({"replaces": 99999}, "replaces"), ({"text": "x" * 2001}, "text"), ({"text": "\x00"}, "text")],
)  # fmt: skip
def test_a_note_that_cannot_be(
    client: TestClient, make_build: Make, more: Json, field: str
) -> None:
    build = make_build()
    assert told(note(client, build, "Words", **more), 422)["field"] == field
    assert client.get(f"/api/builds/{build['id']}/notes").json() == []


def test_a_note_is_kept_once_by_its_key(client: TestClient, make_build: Make) -> None:
    build, key = make_build(), str(uuid4())
    for _ in range(2):
        assert len(note(client, build, "Once", key=key).json()) == 1
    told(note(client, build, "Something else", key=key), 409)


def test_who_has_been_here_lately(client: TestClient, make_build: Make, trial: Any) -> None:
    build = make_build()
    for by in ("Ben", "Ada", "Ben", ""):
        trial(build, 0, "10", "loose", by=by)
    note(client, build, "Words", by="Cy")
    assert client.get("/api/people").json() == ["Cy", "Ben", "Ada"]


def test_builds_are_found_sorted_and_told_apart(
    client: TestClient, make_build: Make, trial: Any
) -> None:
    six = make_build(name="Barge", layout="inline", cylinders=6)
    eight = make_build(name="acorn", layout="v", cylinders=8)
    twin = make_build(name="Acorn", layout="inline", cylinders=4)
    note(client, six, "Came with 100% oil_loss")
    trial(eight, 0, "10", "loose", by="Ada")

    def found(**query: Any) -> list[str]:
        board = client.get("/api/builds", params=query).json()
        assert board["total"] == len(board["builds"])
        return [b["id"] for b in board["builds"]]

    assert found(search="v8") == [eight["id"]]
    assert found(search="Inline") == [twin["id"], six["id"]]
    assert found(search="100%") == [six["id"]]
    assert found(search="oil_") == [six["id"]]
    assert found(search="oil%loss") == []
    assert found(sort="name")[-1] == six["id"]
    assert found(person="Ada") == [eight["id"]]
    assert found(person="Nobody") == []
    assert set(found(waits="zero_lash")) == {six["id"], eight["id"], twin["id"]}
    assert found(waits="order") == []
    rows = client.get("/api/builds").json()["builds"]
    assert {b["id"]: b["twin"] for b in rows} == {
        six["id"]: False, eight["id"]: True, twin["id"]: True,
    }  # fmt: skip
    told(client.get("/api/builds?waits=nowhere"), 422)
    told(client.get("/api/builds?shelf=attic"), 422)


def test_a_build_is_copied_with_its_readings(
    client: TestClient, make_build: Make, settle: Any, trial: Any, empty: Engine
) -> None:
    build = make_build(name="First")
    settle(build, 0, "10")
    reading = lines(trial(build, 1, "9", "loose"))[0]["id"]
    strike(client, build, 1, reading)
    note(client, build, "On the reading", reading_id=reading)
    body = {"id": str(uuid4()), "name": "Second", "readings": True}
    for _ in range(2):
        copy = client.post(f"/api/builds/{build['id']}/like", json=body)
        assert copy.status_code == 201, copy.text
    made = copy.json()
    assert (made["id"], made["name"]) == (body["id"], "Second")

    def figures(b: Json) -> list[tuple[Any, ...]]:
        valves = client.get(f"/api/builds/{b['id']}").json()["valves"]
        return [(v["name"], v["trials"], v["estimate_in"], v["state"]) for v in valves]

    assert figures(made) == figures(build)
    notes = client.get(f"/api/builds/{made['id']}/notes").json()
    assert [(n["text"], n["where"]) for n in notes] == [("On the reading", "1E, reading 1")]
    # What happens to one leaves the other alone.
    trial(made, 0, "12", "loose")
    assert figures(made) != figures(build)
    file = client.get(f"/api/builds/{build['id']}/file.json").json()
    assert [n["body"] for n in file["notes"]] == ["On the reading"]
    assert client.post("/api/builds/file", json=file).status_code == 201
    with empty.begin() as connection:
        assert flaws(connection) == []


def test_a_signed_build_goes_into_the_archive_only(client: TestClient, make_build: Make) -> None:
    build = make_build()
    url = f"/api/builds/{build['id']}"
    signed = client.post(
        f"{url}/signatures", json={"key": str(uuid4()), "by": "Ada", "reason": "Sold as it is"}
    )
    assert signed.status_code == 201, signed.text
    assert "signed off" in told(client.delete(url), 422)["detail"]
    assert client.post(f"{url}/archive").status_code == 204
    assert client.get("/api/builds?shelf=archive").json()["total"] == 1
