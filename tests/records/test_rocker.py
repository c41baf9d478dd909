"""Marks in the log on the real database, and what they say of the rocker."""

from typing import Any
from uuid import uuid4

import cv2
import numpy as np
import pytest
from sqlalchemy import text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from tests.builders import strike
from vivid_arm.core.errors import InputError
from vivid_arm.demo.tip_photos import Scene, take
from vivid_arm.documents.photos import photo_of
from vivid_arm.records.entries import MarkIn
from vivid_arm.records.rows.kept import Conflict
from vivid_arm.records.settings import BuildSettings
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.load import build_states
from vivid_arm.records.state.rocker import MOST_TRIES, RockerState, catalogue_ratio, ratio_known
from vivid_arm.records.tables import Build, Photo
from vivid_arm.records.writes import marks, setup

SHEET = {
    "tip": "roller", "stem_in": 0.3415, "lifter_deg": 0.0, "offset_in": 0.0, "net_lift_in": 0.55,
    "school": "mid_lift", "shim_step_in": 0.005, "measured": {},
}  # fmt: skip


def make(session: Session, **settings: Any) -> Build:
    values = {"geometry": {"intake": SHEET, "exhaust": None}, "mount": "shaft", **settings}
    build = setup.new_build(
        session, {"id": uuid4(), **BuildSettings(name="Rocker build").model_dump(), **values}
    )
    return again(session, build).build


def again(session: Session, build: Build) -> BuildState:
    session.flush()
    session.expire_all()
    return build_states(session, [build.id])[0]


def mark(session: Session, build: Build, valve: int = 0, **values: Any) -> RockerState:
    state = again(session, build)
    entry = MarkIn(**{"key": uuid4(), **values})
    marks.add_mark(session, state.valves[valve].valve, entry)
    return again(session, build).valves[valve].rocker


def test_edges_from_the_middle_and_from_the_edge_are_one_mark(session: Session) -> None:
    one = mark(session, make(session), shim="0", inboard="-0.02", outboard="0.03")
    other = mark(
        session, make(session), shim="0", inboard="0.15075", outboard="0.20075",
        measured_from="edge",
    )  # fmt: skip
    assert one.tries[0].inboard_in == pytest.approx(other.tries[0].inboard_in)
    assert one.fit.best.error_in == pytest.approx(other.fit.best.error_in, abs=1e-6)


def test_a_corrected_tip_diameter_reads_old_marks_again(session: Session) -> None:
    """What was typed stays; from the tip's edge it lies elsewhere on another tip."""
    build = make(session)
    before = mark(session, build, shim="0", inboard="0.150", outboard="0.200", measured_from="edge")
    first, typed = before.tries[0].inboard_in or 0.0, before.marks[0].row.raw
    geometry = {"intake": SHEET | {"stem_in": 0.3125}, "exhaust": None}
    kept = again(session, build).build
    setup.change_build(session, kept, kept.version, {"geometry": geometry})
    after = again(session, build).valves[0].rocker
    assert (after.tries[0].inboard_in or 0) - first == pytest.approx((0.3415 - 0.3125) / 2)
    assert after.marks[0].row.raw == typed


def test_a_struck_try_counts_no_more(session: Session) -> None:
    build = make(session, mount="stud")
    mark(session, build, rod="7.700", inboard="-0.05", outboard="0.02")
    arm = mark(session, build, rod="7.750", inboard="-0.03", outboard="0.02")
    assert len(arm.tries) == 2
    assert arm.now_in == pytest.approx(7.750 - 0.3125)
    state = again(session, build)
    strike(session, state.valves[0].valve, arm.marks[0].row.id, "Mark smeared")
    left = again(session, build).valves[0].rocker
    assert [m.number for m in left.counted] == [2]
    assert left.rod_in == pytest.approx(7.750 - 0.3125)
    assert left.marks[0].struck_by is not None
    for number, reading in ((1, left.marks[0].row.id), (99, 10**6)):
        with pytest.raises((InputError, Conflict)):
            strike(session, state.valves[0].valve, reading, str(number))


def test_a_try_without_its_setting_stands_where_the_engine_stood(session: Session) -> None:
    stud = make(session, mount="stud")
    mark(session, stud, rod="7.700", inboard="-0.05", outboard="0.02")
    mark(session, stud, rod="7.750", inboard="-0.03", outboard="0.02")
    arm = mark(session, stud, angle="1.5")
    assert [m.setting_in for m in arm.marks] == pytest.approx([7.3875, 7.4375, 7.4375])
    unnamed = make(session, mount="stud")
    with pytest.raises(InputError, match="needs the rod it was made with"):
        mark(session, unnamed, inboard="-0.05", outboard="0.02")
    shaft = make(session)
    mark(session, shaft, inboard="-0.05", outboard="0.02")
    mark(session, shaft, shim="0.030", inboard="-0.03", outboard="0.02")
    arm = mark(session, shaft, angle="1.5")
    assert [m.setting_in for m in arm.marks] == pytest.approx([0.0, 0.030, 0.030])
    state = again(session, shaft)
    strike(session, state.valves[0].valve, arm.marks[1].row.id, "Misread")
    assert again(session, shaft).valves[0].rocker.now_in == 0.0


def test_the_lobe_is_the_cards_until_it_is_measured(session: Session) -> None:
    lobe = {"advertised_deg": 280.0, "advertised_at_in": 0.006, "duration_050_deg": 222.0,
            "lobe_lift_in": 0.331, "base_circle_in": 1.25}  # fmt: skip
    card = {"intake": lobe, "exhaust": lobe, "icl_deg": 108.0, "lsa_deg": 110.0}
    build = make(session, cam=card)
    assert again(session, build).valves[0].rocker.sheet.lobe_lift_in.value == 0.331
    measured = {"lobe_lift_in": {"value": 0.3285, "u": 0.001}}
    kept = again(session, build).build
    geometry = {"intake": SHEET | {"measured": measured}, "exhaust": None}
    setup.change_build(session, kept, kept.version, {"geometry": geometry})
    assert again(session, build).valves[0].rocker.sheet.lobe_lift_in.value == 0.3285


def test_the_ratio_is_the_geometrys_only_once_that_knows_it_better(session: Session) -> None:
    build = make(session)
    state = again(session, build)
    usual = state.ratios["intake"]
    assert 1.07 < usual.value / catalogue_ratio(build, "intake").value < 1.12
    assert not usual.geometry
    known = {
        "bend_deg": {"value": 15.0, "u": 1.0}, "lean_deg": {"value": 2.0, "u": 0.5},
        "ratio": {"value": 1.6, "u": 0.01}, "arm_in": {"value": 1.6, "u": 0.005},
    }  # fmt: skip
    geometry = {"intake": SHEET | {"measured": known}, "exhaust": None}
    setup.change_build(session, state.build, state.build.version, {"geometry": geometry})
    arm = mark(session, build, shim="0", inboard="-0.02", outboard="0.02", closed_end="inboard")
    state = again(session, build)
    found = state.ratios["intake"]
    assert found.geometry
    assert found.value == pytest.approx(arm.ratio[0])
    assert found.half_width == pytest.approx(arm.ratio[1] / arm.ratio[0] * np.sqrt(3))
    assert found.half_width < 0.052
    assert not state.ratios["exhaust"].geometry
    assert {v.ratio for v in state.valves if v.kind == "intake"} == {found.value}
    build.geometry = None
    bare = ratio_known(build, "intake", [()])
    assert (bare.geometry, bare.value) == (False, pytest.approx(usual.value, rel=0.01))


def test_the_board_says_what_the_rocker_waits_for(session: Session) -> None:
    build = make(session, mount="stud")
    assert again(session, build).next_step.station == "setup"
    mark(session, build, rod="7.700", inboard="-0.039", outboard="0.018", closed_end="inboard")
    step = again(session, build).next_step
    assert (step.station, step.valve) == ("rocker", "1I")
    assert step.sentence.startswith("Rocker of 1I: not settled: read the arm's angle")


def test_what_is_explored_holds_what_is_asked_for(session: Session) -> None:
    arm = mark(session, make(session), shim="0", inboard="-0.06", outboard="0.02", angle="4")
    asked = arm.correction.exact_in
    assert asked is not None
    assert arm.grid_in[0] < arm.now_in < asked < arm.grid_in[-1]
    assert arm.grid_in[40] == pytest.approx(arm.now_in)


def test_lifts_alone_are_kept_but_say_nothing_of_the_height(session: Session) -> None:
    build = make(session)
    arm = mark(session, build, shim="0", pairs="0.1 0.178; 0.2 0.35")
    assert arm.counted[0].attempt is None
    assert arm.tries == []
    with pytest.raises(InputError, match="not a pair of lifts"):
        mark(session, build, pairs="0.1 0.178 0.3")
    with pytest.raises(InputError, match="given twice"):
        mark(session, build, pairs="0.1 0.178; 0.1 0.179")


def test_millimetres_and_thou_are_understood(session: Session) -> None:
    arm = mark(session, make(session), shim="0.76 mm", inboard="-20 thou", outboard="0.762 mm")
    assert arm.now_in == pytest.approx(0.029921, abs=1e-6)
    assert (arm.tries[0].inboard_in, arm.tries[0].outboard_in) == pytest.approx((-0.02, 0.03))


def test_a_mark_without_what_was_seen_is_refused_by_the_database(session: Session) -> None:
    build = make(session)
    arm = mark(session, build, shim="0", inboard="-0.02", outboard="0.03")
    rule = text(
        "INSERT INTO readings (key, valve_id, kind, number, raw, raw_gap, raw_rod, reason,"
        " taken_by, build_version) SELECT gen_random_uuid(), valve_id, 'mark', 99, '', '', '', '',"
        " '', 1 FROM readings WHERE id = :id"
    )
    with pytest.raises(IntegrityError, match="ck_readings_mark_complete"):
        session.execute(rule, {"id": arm.marks[0].row.id})


def test_a_photo_is_kept_once_and_comes_back(session: Session) -> None:
    build = make(session)
    _, png = cv2.imencode(".png", take(Scene(-0.02, 0.03)))
    read = photo_of(png.tobytes())
    photo = Photo(id=uuid4(), width=read.width, height=read.height, body=read.body)
    marks.add_photo(session, build, photo)
    twin = Photo(id=photo.id, width=1, height=1, body=b"")
    assert marks.add_photo(session, build, twin).width == 640
    back = cv2.imdecode(np.frombuffer(photo.body, np.uint8), cv2.IMREAD_COLOR).astype(int)
    assert back.shape == (640, 640, 3)
    assert np.abs(back - take(Scene(-0.02, 0.03)).astype(int)).mean() < 6


def test_tries_that_no_rocker_makes_leave_the_build_usable(session: Session) -> None:
    """A rod far too long slips past the route only when a sheet changes later: it is said."""
    build = make(session, mount="stud")
    mark(session, build, rod="7.700", inboard="-0.02", outboard="0.02")
    arm = mark(session, build, rod="14.0", inboard="-0.02", outboard="0.02")
    assert arm.contradiction is not None
    assert arm.verdict.state == "conflict"
    assert "strike a try out" in arm.verdict.then
    step = again(session, build).next_step
    assert step.sentence == "Rocker of 1I: tries and dimensions contradict each other"


def test_of_very_many_tries_the_latest_are_weighed(session: Session) -> None:
    """Tries without end are kept and shown, and weigh no more than so many."""
    build = make(session)
    for n in range(MOST_TRIES + 3):
        last = mark(session, build, shim="0", inboard=f"{-0.021 - n % 3 / 1000}", outboard="0.03")
    assert len(last.marks) == MOST_TRIES + 3
    assert [t.number for t in last.fit.tries] == list(range(4, MOST_TRIES + 4))
