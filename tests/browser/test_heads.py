"""Heads, board and instruments by keyboard and by touch on the demo shop."""

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import Engine

from tests.builders import demo_builds, open_station, settle_by_web, web
from vivid_arm.api.board.views import fill
from vivid_arm.demo import seeding
from vivid_arm.records import database

Shop = Callable[..., dict[str, Any]]


@pytest.fixture
def builds(live: str, empty: Engine) -> dict[str, dict[str, Any]]:
    return {b["name"]: b for b in demo_builds(live, empty)}


def heads(live: str, build: dict[str, Any]) -> str:
    return f"{live}/builds/{build['id']}/heads"


def test_arrow_keys_walk_the_heads_and_enter_measures(
    page: Page, live: str, builds: dict[str, dict[str, Any]], errors: list[str]
) -> None:
    """The odd valve is chosen first; right, left, and H across to the other bank."""
    page.goto(heads(live, builds["Quarry crusher V8"]))
    title = page.locator(".say h2")
    expect(title).to_contain_text("Cylinder 6 intake The odd one")
    for key, words in (
        ("ArrowRight", "Cylinder 8 intake"),
        ("ArrowRight", "Cylinder 8 exhaust"),
        ("ArrowRight", "Cylinder 2 exhaust"),
        ("ArrowLeft", "Cylinder 8 exhaust"),
        ("h", "Cylinder 7 exhaust"),
        ("h", "Cylinder 8 exhaust"),
    ):
        page.keyboard.press(key)
        expect(title).to_contain_text(words)
    page.keyboard.press("Enter")
    expect(page.locator(".axis-words")).to_have_text("Cylinder 8 exhaust")


def test_a_finger_picks_a_valve_and_measures_it(
    browser: Browser, live: str, builds: dict[str, dict[str, Any]]
) -> None:
    context = browser.new_context(viewport={"width": 820, "height": 1180}, has_touch=True)
    page = context.new_page()
    page.goto(heads(live, builds["Ferry generator V6"]))
    expect(page.get_by_role("alert")).to_contain_text(
        re.compile(r"5I reads 6\d(\.\d)? thou shorter")
    )
    page.get_by_role("button", name=re.compile("Cylinder 3 exhaust: fits the chosen rod")).tap()
    expect(page.locator(".say h2")).to_contain_text("Cylinder 3 exhaust Fits the chosen rod")
    page.get_by_role("button", name=re.compile("Suspicious|5I reads")).first.tap()
    expect(page.locator(".say h2")).to_contain_text("Cylinder 5 intake Suspicious")
    page.get_by_role("button", name=re.compile("Measure again 5I")).tap()
    expect(page.get_by_role("heading", name=re.compile("Zero lash 6.32"))).to_be_visible()
    context.close()


def test_every_state_has_a_shape_of_its_own(
    page: Page, live: str, builds: dict[str, dict[str, Any]]
) -> None:
    """Colour is never the only sign: circle, square, triangle, diamond and dashes."""
    page.goto(heads(live, builds["Quarry crusher V8"]))
    expect(page.locator(".odd .mark path")).to_have_count(1)
    expect(page.locator(".fits .mark circle")).to_have_count(15)
    page.goto(heads(live, builds["Ferry generator V6"]))
    expect(page.locator(".suspicious .mark path")).to_have_count(1)
    shapes = {
        page.locator(f".{kind} .token").first.evaluate("el => el.tagName")
        for kind in ("intake", "exhaust")
    }
    assert shapes == {"circle", "rect"}
    page.goto(heads(live, builds["Mill pump single"]))
    expect(page.locator(".waiting .token")).to_have_count(2)
    dashes = page.locator(".waiting .token").first.evaluate(
        "el => getComputedStyle(el).strokeDasharray"
    )
    assert dashes != "none"


def test_the_head_that_is_not_square_says_so_in_both_units(
    page: Page, live: str, builds: dict[str, dict[str, Any]]
) -> None:
    page.goto(heads(live, builds["Sawmill tractor inline six"]))
    expect(page.get_by_text(re.compile(r"its rear wants 1\d\.\d thou longer rods"))).to_be_visible()
    page.keyboard.press("u")
    expect(page.get_by_text(re.compile(r"its rear wants 0\.\d\d mm longer rods"))).to_be_visible()


def test_a_long_board_is_paged_and_searched(page: Page, live: str, empty: Engine) -> None:
    seeding.seed(database.sessions(empty), 33)
    fill(database.sessions(empty))
    page.goto(live)
    rows = page.locator(".board li")
    expect(rows).to_have_count(30)
    expect(page.get_by_text("1 of 2 · 33 builds")).to_be_visible()
    page.get_by_role("button", name="Older").click()
    expect(rows).to_have_count(3)
    name = rows.first.locator(".name a").inner_text()
    page.get_by_label("Find a build").fill(name)
    expect(rows).to_have_count(1)
    page.get_by_label("Find a build").fill("no such engine")
    expect(page.get_by_text("No build is like that.")).to_be_visible()


def test_an_indicator_is_added_and_read_with(page: Page, live: str, shop: Shop) -> None:
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/setup")
    page.get_by_role("button", name="Add…").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="Indicator").click()
    dialog.get_by_label("Name").fill("Dial A")
    dialog.get_by_label(re.compile("Stated accuracy")).fill("0.0005")
    dialog.get_by_label(re.compile("Resolution")).fill("0.5 thou")
    dialog.get_by_role("button", name="Add it").click()
    expect(dialog).to_be_hidden()
    expect(page.get_by_role("button", name="Rod B")).to_have_attribute("aria-pressed", "true")
    open_station(page, live, build)
    page.get_by_role("button", name="Indicator", exact=True).click()
    page.get_by_label("Read with").select_option(label="Dial A")
    page.get_by_label("Rod pushed").fill("0.055")
    page.get_by_label("Rod in place").fill("7.400")
    page.keyboard.press("Enter")
    line = page.locator(".log li").first
    expect(line).to_contain_text("7.3450 in")
    line.get_by_role("button", name=re.compile("how it comes about")).click()
    expect(page.get_by_text("u accuracy of the instrument: 0.3 thou.")).to_be_visible()


def test_a_guard_that_cannot_be_is_refused_beside_it(page: Page, live: str, shop: Shop) -> None:
    page.goto(f"{live}/builds/{shop()['id']}/base_circle")
    guard = page.get_by_label("Guard at each end")
    guard.fill("80")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Guard: 80° is outside 0° to 60°")
    expect(guard).to_have_value("80")
    guard.fill("20")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_have_count(0)
    page.get_by_role("textbox", name="Crank").fill("1100")
    page.keyboard.press("Enter")
    expect(page.get_by_role("slider", name="Crank")).to_have_attribute("aria-valuenow", "380")


def test_what_is_measured_leads_on_to_the_next_step(page: Page, live: str, shop: Shop) -> None:
    """While a valve is left it is measured; then the page leads on to what the build waits for."""
    build = shop(layout="single", cylinders=1, mount="pedestal")
    settle_by_web(live, build, build["valves"][0], "10 1/2")
    page.goto(heads(live, build))
    said = page.get_by_role("region", name="What the valves say")
    expect(said.get_by_role("button", name="Measure 1E")).to_be_visible()
    onward = said.get_by_role("link", name="Go on")
    expect(onward).to_be_hidden()
    settle_by_web(live, build, build["valves"][1], "10 1/2")
    step = web.get(f"{live}/api/builds/{build['id']}").json()["next_step"]
    expect(said).to_contain_text(step["sentence"])
    onward.click()
    expect(page).to_have_url(f"{live}/builds/{build['id']}/order")
