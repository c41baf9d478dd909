"""What the pages draw and write, held against the core's own figures."""

import math
import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import Engine

from benchmarks.serving import quiet
from tests.builders import at_rest, demo_builds, name_who, open_station, station_url, web
from vivid_arm.core.entry.conventions import CONVENTIONS, RodEnd, RodEnds
from vivid_arm.core.entry.lengths import format_length, format_small, format_turns

Shop = Callable[..., dict[str, Any]]


@pytest.fixture
def builds(live: str, empty: Engine) -> list[dict[str, Any]]:
    return demo_builds(live, empty)


def figure(page: Page, label: str) -> str:
    block = page.locator(".figure").filter(has=page.get_by_text(label, exact=True))
    return block.locator(".value").inner_text()


@pytest.mark.parametrize("unit", ["in", "mm"])
def test_figures_are_written_as_the_core_writes_them(
    page: Page, live: str, builds: list[dict[str, Any]], unit: str
) -> None:
    """The first three measured valves of every build of the demo shop, in both units."""
    seen = 0
    page.goto(live)
    page.evaluate("unit => localStorage.setItem('vivid-arm.unit', unit)", unit)
    for build in builds:
        known = [v for v in build["valves"] if v["estimate_in"] is not None]
        for valve in known[:3]:
            page.goto(f"{live}/builds/{build['id']}/zero_lash/{valve['id']}")
            expect(page.locator("[data-part='zero']")).to_be_attached()
            assert figure(page, "Zero lash") == format_length(valve["estimate_in"], unit)  # type: ignore[arg-type]
            assert figure(page, "± (k = 2)") == format_small(2 * valve["u_in"], unit)  # type: ignore[arg-type]
            exact = valve["estimate_in"] + build["preload_target_in"]
            assert figure(page, "Exact rod") == format_length(exact, unit)  # type: ignore[arg-type]
            seen += 1
    assert seen >= 6


def test_turns_are_written_as_the_core_writes_them(page: Page, live: str, shop: Shop) -> None:
    open_station(page, live, shop())
    count = page.locator(".dial .count")
    for eighths in range(1, 18):
        page.keyboard.press("Shift+ArrowRight")
        expect(count).to_have_text(format_turns(eighths / 8))


@pytest.mark.parametrize("unit", ["in", "mm"])
def test_the_rule_is_graduated_where_it_says(
    page: Page, live: str, builds: list[dict[str, Any]], unit: str
) -> None:
    """Every labelled line of the steel rule stands at its figure, to a third of a pixel."""
    page.emulate_media(reduced_motion="reduce")
    page.goto(live)
    page.evaluate("unit => localStorage.setItem('vivid-arm.unit', unit)", unit)
    v8 = next(b for b in builds if b["name"] == "Dockside loader V8")
    page.goto(station_url(live, v8))
    expect(page.locator("[data-part='zero']")).to_be_attached()
    at_rest(page)
    found = page.evaluate(
        """() => {
          const svg = document.querySelector('svg[data-low]')
          const labels = [...svg.querySelectorAll('.ticks text:not(.unit)')]
          return {
            low: Number(svg.dataset.low), high: Number(svg.dataset.high),
            width: svg.getBoundingClientRect().width,
            labels: labels.map((t) => [t.textContent, Number(t.getAttribute('x'))]),
          }
        }"""
    )
    assert len(found["labels"]) >= 6
    for text, x in found["labels"]:
        inches = float(text) / (25.4 if unit == "mm" else 1)
        at = (inches - found["low"]) / (found["high"] - found["low"]) * found["width"]
        assert x == pytest.approx(at, abs=0.34), text


@pytest.mark.parametrize("convention", list(CONVENTIONS))
@pytest.mark.parametrize("end", ["ball", "cup"])
def test_the_rod_is_drawn_to_scale_in_every_convention(
    page: Page, live: str, shop: Shop, convention: str, end: str
) -> None:
    """190 units an inch: the measuring lines stand as far out as the core says they reach."""
    build = shop(lifter_hole_in=0.1, rocker_end=end, order_convention=convention)
    page.goto(f"{live}/builds/{build['id']}/setup")
    limits = page.locator(".limit").get_attribute("d")
    assert limits is not None
    left, right = (float(x) for x in re.findall(r"M([\d.]+) 18", limits))
    ends = RodEnds(RodEnd("ball", 0.3125, 0.1), RodEnd(end, 0.3125))  # type: ignore[arg-type]
    added = (right - left - (350 - 70)) / 190
    assert added == pytest.approx(ends.added_in(convention), abs=1e-6)  # type: ignore[arg-type]


def test_every_ladder_on_the_board_has_the_same_scale(
    page: Page, live: str, builds: list[dict[str, Any]]
) -> None:
    """300 units are 0.300 in: travel, window and rod as wide as they are."""
    page.goto(live)
    expect(page.locator(".board li")).to_have_count(12)
    for build in builds:
        row = page.locator(".board li").filter(has_text=build["name"])
        for window in row.locator(".mini .window").all():
            width = float(window.get_attribute("width") or 0)
            wide = build["preload_high_in"] - build["preload_low_in"]
            assert width == pytest.approx(wide * 1000, abs=1e-6)
        for travel in row.locator(".mini .travel").all():
            start, end = re.findall(r"[MH]([\d.]+)", travel.get_attribute("d") or "")[:2]
            assert float(end) - float(start) == pytest.approx(build["travel_in"] * 1000, abs=1e-6)


def test_no_page_trips_over_its_own_policy(
    page: Page, live: str, builds: list[dict[str, Any]]
) -> None:
    """Nothing is refused by the content security policy and nothing is thrown."""
    said: list[str] = []
    page.on("console", lambda m: said.append(m.text) if m.type == "error" else None)
    page.on("pageerror", lambda error: said.append(str(error)))
    six = next(b for b in builds if b["engine_words"] == "Inline 6")
    pages = [f"builds/{six['id']}/{p}" for p in ("setup", "base_circle", "heads", "order")]
    for path in ("", *pages):
        page.goto(f"{live}/{path}")
        quiet(page)
    page.goto(station_url(live, six))
    quiet(page)
    for key in ("e", "f", "u", "d", "?"):
        page.keyboard.press(key)
        quiet(page)
    assert said == []


def test_a_phone_takes_readings(browser: Browser, live: str, shop: Shop) -> None:
    """390 x 844, one thumb: two trials and the next valve."""
    context = browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True)
    page = context.new_page()
    open_station(page, live, shop(gaps=False))
    page.get_by_role("textbox", name="Turns from closed").tap()
    page.keyboard.type("10 1/2")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Loose", exact=True).tap()
    expect(page.locator("[data-peg='1']")).to_be_attached()
    page.get_by_role("button", name="1/4 turn longer").tap()
    page.get_by_role("button", name="Zero", exact=False).first.tap()
    expect(page.get_by_role("heading", name=re.compile("About 7.33"))).to_be_visible()
    page.get_by_role("link", name="Cylinder 1 exhaust").tap()
    expect(page.get_by_text("No reading yet.")).to_be_visible()
    expect(page.locator(".reads")).to_have_text("7.3375 in")
    context.close()


def test_two_tablets_on_one_valve_keep_both_readings(
    browser: Browser, live: str, shop: Shop
) -> None:
    build = shop(gaps=False)
    one, two = (browser.new_context().new_page() for _ in range(2))
    for page, turns in ((one, "10"), (two, "11")):
        open_station(page, live, build)
        page.keyboard.press("r")
        page.keyboard.type(turns)
        page.keyboard.press("Enter")
    one.keyboard.press("l")
    expect(one.locator(".log li")).to_contain_text("7.3000 in")
    two.keyboard.press("t")
    expect(two.locator(".log li .number")).to_have_text(["2", "1"])
    expect(two.get_by_role("heading", name="About 7.3250 in so far.")).to_be_visible()
    for page in (one, two):
        page.context.close()


def test_letters_typed_into_a_field_are_not_keys(page: Page, live: str, shop: Shop) -> None:
    """A name with l, z and t in it records nothing; in an empty bench field L does."""
    build = shop()
    open_station(page, live, build)
    name_who(page, "lzt?xu")
    expect(page.get_by_text("No reading yet.")).to_be_visible()
    page.keyboard.press("g")
    page.keyboard.press("l")
    expect(page.locator(".log li")).to_contain_text("lzt?xu")
    page.keyboard.press("b")
    expect(page.get_by_text("Cylinder 8 exhaust")).to_be_visible()
    page.keyboard.press("v")
    expect(page.get_by_text("Cylinder 1 intake")).to_be_visible()
    page.keyboard.press("x")
    expect(page.get_by_role("dialog")).to_contain_text("Strike out trial 1")
    page.keyboard.press("t")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()
    expect(page.locator(".log li")).to_have_count(1)


def crank_of(x: float, y: float) -> float:
    """The crank angle of a point on the ring: 0 on top, one turn of the ring is 720 degrees."""
    return math.degrees(math.atan2(x, -y)) * 2 % 720


def test_the_crank_wheel_draws_each_heel_where_it_is(
    page: Page, live: str, builds: list[dict[str, Any]]
) -> None:
    """Both ends of every arc, and the guard inside them, to a twentieth of a degree."""
    v8 = next(b for b in builds if b["name"] == "Dockside loader V8")
    wheel = web.get(f"{live}/api/builds/{v8['id']}/base_circle").json()
    page.goto(f"{live}/builds/{v8['id']}/base_circle")
    expect(page.locator(".tracks .heel")).to_have_count(16)
    order = [t["cylinder"] for t in wheel["tdcs"]]
    windows = sorted(wheel["windows"], key=lambda w: order.index(w["cylinder"]))
    for kind, inset in (("guard", 0.0), ("heel", wheel["guard_deg"])):
        paths = [p.get_attribute("d") or "" for p in page.locator(f".tracks .{kind}").all()]
        for path, window in zip(paths, windows, strict=True):
            numbers = [float(n) for n in re.findall(r"-?[\d.]+", path)]
            start, end = crank_of(*numbers[:2]), crank_of(*numbers[-2:])
            assert start == pytest.approx((window["from_deg"] + inset) % 720, abs=0.05)
            assert end == pytest.approx((window["to_deg"] - inset) % 720, abs=0.05)
    page.keyboard.press("+")
    page.keyboard.press("Shift+ArrowRight")
    arm = [
        float(n)
        for n in re.findall(r"-?[\d.]+", page.locator(".arm path").get_attribute("d") or "")
    ]
    assert crank_of(*arm[-2:]) == pytest.approx(91, abs=0.05)


def test_the_head_map_is_drawn_to_one_scale(
    page: Page, live: str, builds: list[dict[str, Any]]
) -> None:
    """The distance from zero lash to the rod is the preload, at the same scale in every valve."""
    build = next(b for b in builds if b["name"] == "Quarry crusher V8")
    known = web.get(f"{live}/api/builds/{build['id']}/heads").json()
    page.goto(f"{live}/builds/{build['id']}/heads")
    expect(page.locator(".cell")).to_have_count(16)
    valves = [v for head in known["heads"] for v in head["valves"]]
    scales = []
    for cell, valve in zip(page.locator(".cell").all(), valves, strict=True):
        zero = float(cell.locator("line.zero").get_attribute("y1") or 0)
        rod = float(cell.locator("line.rod").get_attribute("y1") or 0)
        scales.append((zero - rod) / valve["preload_in"])
        window = cell.locator("rect.window")
        height = float(window.get_attribute("height") or 0)
        wide = build["preload_high_in"] - build["preload_low_in"]
        assert height / wide == pytest.approx(scales[-1], rel=1e-6)
    assert scales == pytest.approx([scales[0]] * 16, rel=1e-6)


def test_the_indicator_dial_points_at_its_figure(page: Page, live: str, shop: Shop) -> None:
    """0.100 to a turn of the hand in inches, 1 mm in millimetres."""
    open_station(page, live, shop())
    page.get_by_role("button", name="Indicator", exact=True).click()
    page.get_by_label("Rod pushed").fill("0.055")
    hand = page.locator(".gauge .hand")
    expect(hand).to_have_attribute("transform", "rotate(198.0 80 70)")
    page.get_by_role("button", name="Unit, switch").click()
    page.get_by_label("Rod pushed").fill("0.25")
    expect(hand).to_have_attribute("transform", "rotate(90.0 80 70)")
