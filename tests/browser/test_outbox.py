"""The outbox in real tabs: outages, killed pages, several tabs, refusals."""

import re
from collections.abc import Callable
from contextlib import suppress
from typing import Any
from uuid import uuid4

import pytest
from playwright.sync_api import APIResponse, BrowserContext, Page, Route, expect
from playwright.sync_api import Error as PlaywrightError

from benchmarks.serving import quiet
from tests.builders import first_held, open_station, station_url, wait_for, web

Shop = Callable[..., dict[str, Any]]


def log_of(live: str, build: dict[str, Any], valve: int = 0) -> list[dict[str, Any]]:
    url = f"{live}/api/builds/{build['id']}/valves/{build['valves'][valve]['id']}"
    found: list[dict[str, Any]] = web.get(url).json()["log"]
    return found


def test_a_reading_survives_a_server_that_is_away(page: Page, live: str, shop: Shop) -> None:
    """It waits in the browser, is sent again with the same key, and is one reading."""
    build = shop(gaps=False)
    open_station(page, live, build)
    page.route("**/trials", lambda route: route.abort())
    page.keyboard.press("+")
    page.keyboard.press("l")
    expect(page.get_by_text("1 reading waits for the server")).to_be_visible()
    page.reload()
    expect(page.get_by_text("1 reading waits for the server")).to_be_visible()
    page.unroute("**/trials")
    expect(page.get_by_text("1 reading waits for the server")).to_be_hidden()
    expect(page.locator(".log li .number")).to_have_text(["1"])
    assert len(log_of(live, build)) == 1


def test_a_server_that_is_back_under_a_press_moves_nothing_away_from_it(
    page: Page, live: str, shop: Shop
) -> None:
    """What waited is kept meanwhile; the notice of it goes once the press has had its click."""
    open_station(page, live, shop(gaps=False))
    page.route("**/trials", lambda route: route.abort())
    page.keyboard.press("l")
    waits = page.get_by_text("1 reading waits for the server")
    expect(waits).to_be_visible()
    way = page.get_by_role("button", name="Gap", exact=True)
    stood = way.bounding_box()
    way.hover()
    page.mouse.down()
    page.unroute("**/trials")
    expect(page.locator(".log li .number")).to_have_text(["1"])
    expect(waits).to_be_visible()
    assert way.bounding_box() == stood
    page.mouse.up()
    expect(way).to_have_attribute("aria-pressed", "true")
    expect(waits).to_be_hidden()


def test_a_browser_that_stores_nothing_loses_no_reading(page: Page, live: str, shop: Shop) -> None:
    """It is sent all the same; while nobody answers, the page is not left without a question."""
    build = shop(gaps=False)
    page.add_init_script(
        "indexedDB.open = () => { throw new DOMException('full', 'UnknownError') }"
    )
    open_station(page, live, build)
    page.keyboard.press("+")
    page.keyboard.press("l")
    expect(page.locator(".log li .number")).to_have_text(["1"])
    page.route("**/trials", lambda route: route.abort())
    page.keyboard.press("t")
    page.get_by_text("1 reading waits for the server").click()
    expect(page.get_by_role("dialog")).to_contain_text("leave this page open until they are kept")
    asked: list[str] = []
    page.on("dialog", lambda dialog: (asked.append(dialog.type), dialog.dismiss()))
    page.close(run_before_unload=True)
    expect(page.get_by_text("1 reading waits for the server")).to_be_visible()
    assert asked == ["beforeunload"]
    page.unroute("**/trials")
    expect(page.locator(".log li .number")).to_have_text(["2", "1"])
    assert [line["feel"] for line in log_of(live, build)] == ["loose", "tight"]


def test_turns_typed_while_nobody_answers_are_kept_as_typed(
    page: Page, live: str, shop: Shop
) -> None:
    """The server reads them when they arrive; the setting from before never stands in for them."""
    build = shop(gaps=False)
    open_station(page, live, build)
    page.keyboard.press("+")
    page.route("**/api/**", lambda route: route.abort())
    typed = page.get_by_role("textbox", name="Turns from closed")
    typed.fill("9 1/2")
    page.locator(".feel", has_text="Loose").first.click()
    expect(page.get_by_text("1 reading waits for the server")).to_be_visible()
    expect(page.locator(".log .unsent")).to_contain_text("9 1/2, loose")
    expect(typed).to_have_value("")
    page.unroute("**/api/**")
    expect(page.locator(".log li .number")).to_have_text(["1"])
    assert [line["turns"] for line in log_of(live, build)] == [9.5]


@pytest.mark.parametrize("answered", [False, True], ids=["before it is sent", "after it is kept"])
def test_a_page_killed_in_flight_leaves_its_reading_to_the_next(
    context: BrowserContext, live: str, shop: Shop, answered: bool
) -> None:
    """Between store and answer the page dies: the next one sends it, and it is there once."""
    build = shop(gaps=False)
    page = context.new_page()
    open_station(page, live, build)
    held: list[Route] = []

    def hold(route: Route) -> None:
        if answered:
            route.fetch()
        held.append(route)

    page.route("**/trials", hold)
    page.keyboard.press("+")
    page.keyboard.press("l")
    expect(page.locator(".log .unsent")).to_contain_text("saving")
    first_held(page, held)
    page.close()
    following = context.new_page()
    following.goto(station_url(live, build))
    expect(following.locator(".log li .number")).to_have_text(["1"])
    expect(following.locator(".log .unsent")).to_have_count(0)
    assert len(log_of(live, build)) == 1


def test_three_tabs_in_an_outage_lose_nothing(
    context: BrowserContext, live: str, shop: Shop
) -> None:
    build = shop(gaps=False)
    tabs = [context.new_page() for _ in range(3)]
    for valve, tab in enumerate(tabs):
        tab.goto(station_url(live, build, valve))
        expect(tab.get_by_text("No reading yet.")).to_be_visible()
    context.route("**/trials", lambda route: route.abort())
    for tab in tabs:
        for _ in range(4):
            tab.keyboard.press("+")
            tab.keyboard.press("l")
    expect(tabs[0].get_by_text("12 readings wait for the server")).to_be_visible()
    tabs[2].close()
    context.unroute("**/trials")
    expect(tabs[0].get_by_text("for the server")).to_have_count(0)
    kept = [log_of(live, build, valve) for valve in range(3)]
    assert [len(log) for log in kept] == [4, 4, 4]


def test_what_is_refused_later_is_shown_until_somebody_has_looked(
    page: Page, live: str, shop: Shop
) -> None:
    """The rod was corrected meanwhile: the turns no longer fit; nothing is dropped in silence."""
    build = shop(gaps=False)
    open_station(page, live, build)
    page.route("**/trials", lambda route: route.abort())
    for _ in range(12):
        page.keyboard.press("+")
    page.keyboard.press("l")
    expect(page.get_by_text("1 reading waits for the server")).to_be_visible()
    rod = build["instrument"]
    change = {"version": rod["version"], "most_turns": 10.0}
    web.patch(f"{live}/api/instruments/{rod['id']}", json=change)
    page.unroute("**/trials")
    notice = page.get_by_text("1 reading refused")
    expect(notice).to_be_visible()
    notice.click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("12, loose")
    expect(dialog).to_contain_text("more than this rod opens")
    dialog.get_by_role("button", name="Discard").click()
    expect(dialog).to_contain_text("Everything is kept.")
    assert log_of(live, build) == []


def test_what_is_refused_as_the_page_sends_its_box_comes_back_to_its_field(
    page: Page, live: str, shop: Shop
) -> None:
    """As it opens, every few seconds and when online again, it may come to a reading first."""
    open_station(page, live, shop())
    page.evaluate(
        """() => new Promise((held) => {
            void navigator.locks.request('vivid-arm-outbox', () => new Promise((end) => {
                window.goOn = end
                held()
            }))
        })"""
    )
    page.evaluate("() => void dispatchEvent(new Event('online'))")
    page.keyboard.press("g")
    page.keyboard.type(".155 mm")
    page.keyboard.press("Enter")
    expect(page.locator(".log .unsent")).to_contain_text("0, loose")
    page.evaluate("() => window.goOn()")
    expect(page.get_by_role("alert")).to_contain_text(".155 mm would be 6.1 thou")
    expect(page.get_by_label("Gap at the tip, when loose")).to_have_value(".155 mm")
    expect(page.locator(".log .unsent")).to_have_count(0)
    expect(page.get_by_text("1 reading refused")).to_have_count(0)


@pytest.mark.parametrize("what", ["count back", "strike", "finding"])
def test_every_kind_of_write_waits(page: Page, live: str, shop: Shop, what: str) -> None:
    """Not only trials: each is stored first, kept once, and shown where it belongs."""
    build = shop(gaps=False, layout="single", cylinders=1)
    open_station(page, live, build)
    page.keyboard.press("+")
    page.keyboard.press("z")
    expect(page.locator(".log li .number")).to_have_text(["1"])
    pattern = {"count back": "**/count-backs", "strike": "**/voids", "finding": "**/findings"}[what]
    if what == "finding":
        page.goto(f"{live}/builds/{build['id']}/sign_off")
        page.get_by_role("button", name=re.compile("^Rod spins")).click()
    page.route(pattern, lambda route: route.abort())
    if what == "count back":
        page.keyboard.press("c")
        page.keyboard.type("1")
        page.keyboard.press("Enter")
    elif what == "strike":
        page.keyboard.press("x")
        page.get_by_role("button", name="Misread").click()
    else:
        page.keyboard.press("y")
    expect(page.get_by_text("1 reading waits for the server")).to_be_visible()
    page.unroute(pattern)
    expect(page.get_by_text("for the server")).to_have_count(0)
    url = f"{live}/api/builds/{build['id']}/sign_off"
    checks = web.get(url).json()["checks"]
    answered = [p for c in checks for p in c["points"] if p["yes"] is not None]
    kept = (len(answered), len(log_of(live, build)))
    assert kept == ((1, 1) if what == "finding" else (0, 2))


def test_a_kept_reading_asks_for_nothing_it_was_just_sent(
    page: Page, live: str, shop: Shop
) -> None:
    """The answer to a reading holds station and build: neither is loaded again."""
    build = shop(gaps=False)
    open_station(page, live, build)
    quiet(page)
    asked: list[str] = []
    page.on("request", lambda r: asked.append(f"{r.method} {r.url.removeprefix(live)}"))
    page.keyboard.press("+")
    page.keyboard.press("l")
    expect(page.locator(".log li .number")).to_have_text(["1"])
    expect(page.locator(".log .unsent")).to_have_count(0)
    quiet(page)
    here = f"/api/builds/{build['id']}"
    valve = f"{here}/valves/{build['valves'][0]['id']}"
    assert f"POST {valve}/trials" in asked
    assert [a for a in asked if a in (f"GET {here}", f"GET {valve}")] == []


def test_what_was_asked_before_a_reading_was_kept_does_not_hide_it(
    page: Page, live: str, shop: Shop
) -> None:
    """Read anew for what another device wrote; that answer comes after the reading's own."""
    build = shop(gaps=False)
    open_station(page, live, build)
    quiet(page)
    answers: list[tuple[Route, APIResponse]] = []

    def late(route: Route) -> None:
        if route.request.method == "GET" and not answers:
            answers.append((route, route.fetch()))
        else:
            route.continue_()

    own, other = (f"valves/{valve['id']}" for valve in build["valves"][:2])
    page.route(f"**/{own}", late)
    body = {"key": str(uuid4()), "setting": "9", "feel": "loose"}
    web.post(f"{live}/api/builds/{build['id']}/{other}/trials", json=body).raise_for_status()
    wait_for(lambda: page.evaluate("true") and bool(answers))
    page.keyboard.press("+")
    page.keyboard.press("l")
    expect(page.locator(".log li .number")).to_have_text(["1"])
    route, before = answers[0]
    assert before.json()["log"] == []
    with suppress(PlaywrightError):  # nobody waits for it any more
        route.fulfill(response=before)
    quiet(page)
    expect(page.locator(".log li .number")).to_have_text(["1"])


@pytest.mark.parametrize("online", [True, False], ids=["at once", "after an outage"])
def test_a_rod_changed_elsewhere_is_asked_about(
    page: Page, live: str, shop: Shop, online: bool
) -> None:
    """The screen shows one rod, the build was given another: the builder says which it was."""
    build = shop(gaps=False)
    other = {
        "id": str(uuid4()), "kind": "checking_rod", "name": "Rod C", "closed_in": 8.1,
        "pitch_in": 0.05, "most_turns": 20,
    }  # fmt: skip
    web.post(f"{live}/api/instruments", json=other)
    open_station(page, live, build)
    page.keyboard.press("+")
    page.route("**/trials", lambda route: route.continue_() if online else route.abort())
    change = {"version": build["version"], "instrument_id": other["id"]}
    url = f"{live}/api/builds/{build['id']}"
    # What the page is told of the change comes too late for the reading.
    page.route(url, lambda _: None)
    assert web.patch(url, json=change).status_code == 200
    page.keyboard.press("l")
    if not online:
        expect(page.get_by_text("1 reading waits for the server")).to_be_visible()
        page.unroute("**/trials")
        page.get_by_text("1 reading refused").click()
    page.get_by_role("button", name=f"{build['instrument']['name']}: ").click()
    expect(page.locator(".log li .number")).to_have_text(["1"])
    assert log_of(live, build)[0]["instrument"] == build["instrument"]["name"]
