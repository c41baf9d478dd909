"""What several tests build on: builds, readings, rockers of a known truth, pages opened."""

import re
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any
from uuid import UUID, uuid4

import httpx
import numpy as np
from alembic import command
from alembic.config import Config
from playwright.sync_api import Page, Route, expect
from scipy.optimize import brentq
from sqlalchemy import Engine, select, text
from sqlalchemy.orm import Session

from vivid_arm.core.entry.lengths import parse_turns
from vivid_arm.core.rocker.correction import MarkSchool, conflict, correct, next_readings
from vivid_arm.core.rocker.doubt import LiftHunt
from vivid_arm.core.rocker.judged import RockerJudgement, judged
from vivid_arm.core.rocker.marks import MarksFit, view
from vivid_arm.core.rocker.seen import SeenMark
from vivid_arm.core.rocker.sheet import Sheet, starting_sheet
from vivid_arm.core.said.rocker_verdict import rocker_verdict
from vivid_arm.core.said.verdicts import Verdict
from vivid_arm.demo import shop as demo
from vivid_arm.records import database
from vivid_arm.records.entries import TrialIn, VoidIn
from vivid_arm.records.rows.builds import get_build
from vivid_arm.records.settings import BuildSettings
from vivid_arm.records.state import load
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.tables import Base, Build, Reading, Valve
from vivid_arm.records.writes import readings, setup

FORGET_WHO = "for (const k of ['asked', 'kept']) localStorage.removeItem(`vivid-arm.${k}`)"
"""As though nobody had been asked yet who measures."""
LOBE = {
    "advertised_deg": 290.0, "advertised_at_in": 0.006, "duration_050_deg": 230.0,
    "lobe_lift_in": 0.353,
}  # fmt: skip


CAM = {"intake": LOBE, "exhaust": LOBE, "icl_deg": 106.0, "lsa_deg": 110.0}

web = httpx.Client(trust_env=False, timeout=30)  # waits for a busy machine, asks no proxy


def station_url(live: str, build: dict[str, Any], valve: int = 0) -> str:
    return f"{live}/builds/{build['id']}/zero_lash/{build['valves'][valve]['id']}"


def wait_for(true: Callable[[], bool]) -> None:
    """Wait half a minute at most for something to become so."""
    deadline = time.monotonic() + 30
    while not true():
        assert time.monotonic() < deadline, "never came"
        time.sleep(0.05)


def first_held(page: Page, held: list[Route]) -> Route:
    """The first request that a test holds up, once the page has made it."""
    wait_for(lambda: page.evaluate("true") and bool(held))
    return held[0]


def page_settled(page: Page) -> None:
    """What came to the page is taken up: two frames have gone by."""
    page.evaluate("() => new Promise((d) => requestAnimationFrame(() => requestAnimationFrame(d)))")


def at_revision(engine: Engine, revision: str, *, down: bool = False) -> None:
    """Bring a database to a migration, up or down."""
    config = Config()
    config.set_main_option("script_location", str(Path(database.__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        (command.downgrade if down else command.upgrade)(config, revision)


def worked_out(client: httpx.Client) -> list[dict[str, Any]]:
    """The board's rows, once each build in sight has been worked out."""
    until = time.monotonic() + 30
    while True:
        rows: list[dict[str, Any]] = client.get("/api/builds").json()["builds"]
        if time.monotonic() > until or not any(row["pending"] for row in rows):
            return rows


def load_demo(empty: Engine) -> None:
    """Load the demo shop: made once by its own rules, its rows copied each later time."""
    with empty.begin() as connection:
        made = connection.scalar(text("SELECT to_regnamespace('demo_copy')"))
        # The rows come as they were; nothing is worked out anew by triggers.
        connection.execute(text("SET LOCAL session_replication_role = replica"))
        for table in Base.metadata.sorted_tables if made else ():
            connection.execute(
                text(f"INSERT INTO {table.name} SELECT * FROM demo_copy.{table.name}")
            )
    if made:
        return
    with database.sessions(empty).begin() as session:
        demo.load(session)
    with empty.begin() as connection:
        connection.execute(text("CREATE SCHEMA demo_copy"))
        for table in Base.metadata.sorted_tables:
            connection.execute(text(f"CREATE TABLE demo_copy.{table.name} AS TABLE {table.name}"))


def demo_builds(live: str, empty: Engine) -> list[dict[str, Any]]:
    """Load the demo shop and give its builds whole."""
    load_demo(empty)
    with httpx.Client(base_url=live, trust_env=False, timeout=30) as http:
        board = http.get("/api/builds").json()["builds"]
        return [http.get(f"/api/builds/{b['id']}").json() for b in board]


def at_rest(page: Page) -> None:
    """Wait until the ladder has stopped moving: the same span over ten frames."""
    page.wait_for_function(
        """() => new Promise((done) => {
          const span = () => document.querySelector('svg[data-low]')?.dataset.low
          let [last, same] = [span(), 0]
          const look = () => {
            same = span() === last ? same + 1 : 0
            last = span()
            if (same > 10) done(true)
            else requestAnimationFrame(look)
          }
          look()
        })"""
    )


def open_station(page: Page, live: str, build: dict[str, Any]) -> None:
    page.goto(station_url(live, build))
    expect(page.get_by_text("No reading yet.")).to_be_visible()


def name_who(page: Page, name: str) -> None:
    """Say who measures, letter by letter."""
    page.get_by_role("button", name=re.compile("^Measured by")).click()
    dialog = page.get_by_role("dialog", name="Who measures?")
    dialog.get_by_label("Another name").press_sequentially(name)
    page.keyboard.press("Enter")
    expect(dialog).to_be_hidden()


def settle_by_web(live: str, build: dict[str, Any], valve: dict[str, Any], turns: str) -> None:
    """Measure a valve to zero lash at so many turns through the interface."""
    url = f"{live}/api/builds/{build['id']}/valves/{valve['id']}/trials"
    for setting, feel in settling(turns):
        body = {"key": str(uuid4()), "setting": setting, "feel": feel, "by": "Tess"}
        web.post(url, json=body).raise_for_status()


def press_settled(page: Page) -> None:
    """Settle the valve where the rod stands: zero, loose half a turn shorter, zero again."""
    lines = page.locator(".log li .number")
    for keys in (["z"], ["ArrowLeft", "ArrowLeft", "l"], ["ArrowRight", "ArrowRight", "z"]):
        before = lines.count()
        for key in keys:
            page.keyboard.press(key)
        expect(lines).to_have_count(before + 1)


STUD = starting_sheet("roller_stud", 1.6, stem_in=0.3415, rod_in=7.5, net_lift_in=0.55)


SHAFT = starting_sheet("roller_shaft", 1.7, stem_in=0.3415, rod_in=7.9, lobe_lift_in=0.353)


def truth_of(sheet: Sheet, error_in: float, turn_in: float | None = None) -> np.ndarray:
    """A rocker of the sheet whose fulcrum is off mid-lift by so much at the reference."""
    found = sheet.prior[0].copy()
    if turn_in is not None:
        found[1] = turn_in
    reference = sheet.rod_in if sheet.stud else 0.0

    def miss(rise: float) -> float:
        found[0] = rise
        return float(view(sheet, found[None], np.array([reference])).error[0, 0]) - error_in

    found[0] = brentq(miss, found[0] - 0.5, found[0] + 0.5, xtol=1e-12)
    return found


def seen_at(sheet: Sheet, truth: np.ndarray, setting_in: float, **more: object) -> SeenMark:
    seen = view(sheet, truth[None], np.array([setting_in]))
    edges = {"inboard_in": float(seen.inboard[0, 0]), "outboard_in": float(seen.outboard[0, 0])}
    return SeenMark(setting_in, **{**edges, **more})  # type: ignore[arg-type]


def said_of(
    found: MarksFit,
    school: MarkSchool = "mid_lift",
    step_in: float = 0.025,
    hunt: LiftHunt | None = None,
) -> tuple[RockerJudgement, Verdict]:
    """What a rocker's tries come to where it stands, and in words."""
    done = correct(found, school, found.at_in, step_in)
    following = next_readings(found, found.at_in)
    said = judged(found, done, following[0], step_in, hunt)
    return said, rocker_verdict(found, done, conflict(found, done), said)


def make_build(session: Session, **settings: object) -> Build:
    rod = setup.new_instrument(
        session,
        {
            "id": uuid4(), "kind": "checking_rod", "name": "Rod", "convention": "theoretical",
            "closed_in": 6.8, "pitch_in": 0.05, "most_turns": 20.0,
        },
    )  # fmt: skip
    values = BuildSettings(name="Test build").model_dump() | {"instrument_id": rod.id} | settings
    build = setup.new_build(session, {"id": uuid4(), **values})
    session.commit()
    session.expire_all()
    kept = get_build(session, build.id)
    assert kept is not None
    return kept


def state_of(session: Session, build_id: UUID) -> BuildState:
    session.expire_all()
    build = get_build(session, build_id)
    assert build is not None
    return load.state_of(session, build)


def add_trial(session: Session, valve: Valve, **values: Any) -> Reading:
    """Keep a trial and read its line back."""
    entry = TrialIn(**{"key": uuid4()} | values)
    readings.add_trial(session, valve, entry)
    return session.scalars(select(Reading).where(Reading.key == entry.key)).one()


def settling(turns: str) -> list[tuple[str, str]]:
    """Settings and feels that settle a valve at so many turns: lash below, and zero twice."""
    at = parse_turns(turns)
    return [(f"{at - 0.5:g} turns", "loose"), (turns, "zero"), (turns, "zero")]


def add_settled(session: Session, valve: Valve, turns: str) -> None:
    """Measure a valve to zero lash at so many turns."""
    for setting, feel in settling(turns):
        add_trial(session, valve, setting=setting, feel=feel)


def strike(session: Session, valve: Valve, reading_id: int, reason: str = "Misread") -> None:
    """Strike a reading out."""
    entry = VoidIn(key=uuid4(), reading_id=reading_id, reason=reason)
    readings.void_reading(session, valve, entry)
