"""The gauge stand-in really running: live values, its button, noise, units, nonsense, unplugged."""

import json
import time
from collections.abc import Callable, Iterator
from typing import Any
from uuid import uuid4

import httpx
import pytest
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import Engine

from tests.builders import web
from tests.standins import GaugeCable, gauge_standin, serving
from vivid_arm.api.accounts import guard
from vivid_arm.api.app import make_app
from vivid_arm.outside.gauge import BadLine, GaugeHub, TcpGauge, read_line
from vivid_arm.records import accounts, database

pytestmark = pytest.mark.slow
Json = dict[str, Any]


@pytest.fixture
def cable() -> Iterator[GaugeCable]:
    with gauge_standin() as found:
        yield found


@pytest.fixture
def served(working: str, empty: Engine, cable: GaugeCable) -> Iterator[str]:
    with serving(make_app(working, gauge=("127.0.0.1", cable.port))) as url:
        yield url


def state(url: str) -> Json:
    return web.get(f"{url}/api/gauges").json()  # type: ignore[no-any-return]


def until(url: str, right: Callable[[Json], bool], within_s: float = 30.0) -> Json:
    deadline = time.monotonic() + within_s
    while time.monotonic() < deadline:
        found = state(url)
        if right(found):
            return found
        time.sleep(0.05)
    raise AssertionError(f"never came: {found}")


def value(found: Json, name: str) -> Json:
    return next((v for v in found["values"] if v["name"] == name), {})  # type: ignore[no-any-return]


def test_values_come_live_and_stand_steady(served: str, cable: GaugeCable) -> None:
    until(served, lambda s: s["connected"])
    cable.say("move indicator 0.262")
    found = until(served, lambda s: value(s, "indicator").get("steady_in") == 0.262)
    assert value(found, "caliper")["value_in"] == 7.4
    cable.say("noise 0.01")
    until(served, lambda s: value(s, "indicator")["steady_in"] is None)
    cable.say("noise 0.0002")
    calm = until(served, lambda s: value(s, "indicator")["steady_in"] is not None)
    assert value(calm, "indicator")["steady_in"] == pytest.approx(0.262, abs=0.0003)


def test_a_gauge_switched_to_millimetres_reads_the_same(served: str, cable: GaugeCable) -> None:
    cable.say("move indicator 0.262", "unit indicator mm")
    found = until(served, lambda s: value(s, "indicator").get("unit") == "mm")
    assert value(found, "indicator")["value_in"] == pytest.approx(0.262, abs=0.0005 / 25.4)


def test_nonsense_is_counted_and_dropped(served: str, cable: GaugeCable) -> None:
    before = until(served, lambda s: s["connected"])["bad_lines"]
    cable.say("garble 10")
    after = until(served, lambda s: s["bad_lines"] >= before + 10)
    assert {v["name"] for v in after["values"]} <= {"indicator", "caliper"}
    assert value(after, "caliper")["value_in"] == 7.4
    until(served, lambda s: s["connected"])


def test_unplugged_and_plugged_in_again(served: str, cable: GaugeCable) -> None:
    until(served, lambda s: s["connected"])
    cable.say("unplug 1.5")
    gone = until(served, lambda s: not s["connected"])
    assert gone["values"] == []
    until(served, lambda s: s["connected"] and bool(value(s, "caliper")))


def test_the_button_on_the_gauge_is_heard(served: str, cable: GaugeCable) -> None:
    with httpx.stream("GET", f"{served}/api/live", trust_env=False, timeout=30) as stream:
        assert stream.headers["content-type"].startswith("text/event-stream")
        pressed = False
        for line in stream.iter_lines():
            if not line.startswith("data: "):
                continue
            told = json.loads(line.removeprefix("data: "))
            if told["what"] != "gauge":
                continue
            event = told["value"] or {}
            if event and not pressed:
                cable.say("move caliper 7.4125", "press caliper")
                pressed = True
            if event.get("taken"):
                break
    assert (event["name"], event["value_in"]) == ("caliper", 7.4125)


def test_whoever_is_signed_out_hears_no_gauge(
    working: str, empty: Engine, cable: GaugeCable, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(guard, "_LOOKED_EVERY_S", 0.2)
    with database.sessions(empty).begin() as session:
        account = accounts.new_account(session, uuid4(), "Orla", "owner")
        token = accounts.sign_in(session, account, accounts.Place("127.0.0.1", ""))
    app = make_app(working, gauge=("127.0.0.1", cable.port), people=True, machine="bench")
    with serving(app) as url:
        how: Json = {"cookies": {"vivid-arm": token}, "trust_env": False, "timeout": 30}
        assert httpx.get(f"{url}/api/gauges", **how).json()["machine"] == "bench"
        with httpx.stream("GET", f"{url}/api/live", **how) as stream:
            lines = stream.iter_lines()
            while '"gauge"' not in next(lines):
                pass
            with database.sessions(empty).begin() as session:
                accounts.sign_out(session, token)
            assert len(list(lines)) < 1000
        assert httpx.get(f"{url}/api/gauges", **how).status_code == 401


def test_without_a_cable_there_is_no_gauge(live: str) -> None:
    found = state(live)
    assert found == {
        "machine": "",
        "there": False,
        "connected": False,
        "bad_lines": 0,
        "values": [],
    }


@given(st.text(max_size=60))
def test_no_line_breaks_the_driver(line: str) -> None:
    """Whatever comes down the cable, it is a reading within all range or it is counted."""
    hub = GaugeHub(TcpGauge("127.0.0.1", 1))
    hub.hear(line)
    assert hub.bad_lines == 1 - len(hub.values)


@given(st.floats(-39, 39), st.sampled_from(["in", "mm"]))
def test_lines_read_back(inches: float, unit: str) -> None:
    shown = f"{inches * 25.4:+.3f}" if unit == "mm" else f"{inches:+.5f}"
    line = f"indicator;7;{shown};{unit};live"
    if unit == "mm" and abs(inches) * 25.4 >= 999.9995:
        with pytest.raises(BadLine):
            read_line(line)
        return
    assert read_line(line).value_in == pytest.approx(inches, abs=0.000025)
