"""Things that go wrong at the bench, and how they are put right."""

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.builders import name_who, open_station, press_settled, web

Shop = Callable[..., dict[str, Any]]
SLOW = {"offline": False, "latency": 300, "downloadThroughput": -1, "uploadThroughput": -1}


def set_turns(page: Page, turns: str) -> None:
    page.keyboard.press("r")
    page.keyboard.type(turns)
    page.keyboard.press("Enter")
    expect(page.locator(".dial .count")).to_have_text(turns)


def test_a_contradiction_is_repeated_and_put_right(page: Page, live: str, shop: Shop) -> None:
    """Loose at 11, tight at 10: 11 is asked for again; it is tight, so trial 1 was wrong."""
    open_station(page, live, shop(gaps=False))
    set_turns(page, "11")
    page.keyboard.press("l")
    expect(page.locator(".log li")).to_have_count(1)
    set_turns(page, "10")
    page.keyboard.press("t")
    expect(page.get_by_role("alert")).to_contain_text("Repeat trial 1")
    page.keyboard.press("n")
    expect(page.locator(".dial .count")).to_have_text("11")
    page.keyboard.press("t")
    expect(page.get_by_role("alert")).to_contain_text("felt loose and tight at the same length")
    page.get_by_role("button", name="Strike out trial 1").click()
    page.get_by_role("textbox", name="Another reason").fill("Rocker not seated")
    page.get_by_role("button", name="Strike out", exact=True).click()
    expect(page.get_by_role("heading", name="Shorter than 7.3000 in.")).to_be_visible()
    expect(page.locator(".log li.struck")).to_contain_text("Rocker not seated")
    expect(page.locator("[data-peg]")).to_have_count(2)


def test_a_miscount_is_found_by_counting_back(page: Page, live: str, shop: Shop) -> None:
    open_station(page, live, shop(gaps=False))
    set_turns(page, "10 1/4")
    page.keyboard.press("l")
    expect(page.locator(".log li")).to_have_count(1)
    page.keyboard.press("c")
    page.keyboard.type("half past ten")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("is not a count of turns")
    box = page.get_by_label("Turns back to closed")
    expect(box).to_have_value("half past ten")
    box.fill("11 1/4")
    page.keyboard.press("Enter")
    line = page.locator(".log li").first
    expect(line).to_contain_text("0.0500 in longer than written down")
    expect(line).to_contain_text("Strike out the trials set after the slip")
    line.get_by_role("button", name="Strike out count back").click()
    page.get_by_role("button", name="Turns miscounted").click()
    expect(line).to_have_class(re.compile("struck"))


def test_a_caliper_that_cannot_read_that_far(page: Page, live: str, shop: Shop) -> None:
    open_station(page, live, shop(caliper=True))
    page.keyboard.press("l")
    expect(page.get_by_role("alert")).to_contain_text("Type what the caliper reads first")
    page.keyboard.type("13")
    page.keyboard.press("Enter")
    page.keyboard.press("Tab")
    page.get_by_role("button", name="Loose L").click()
    alert = page.get_by_role("alert")
    expect(alert).to_contain_text(
        "Length on this caliper: 13 in is outside 3.0000 in to 12.0000 in"
    )
    expect(page.get_by_label("Caliper reads")).to_have_value("13")
    expect(page.get_by_text("No reading yet.")).to_be_visible()


def test_unit_light_and_name_are_remembered(page: Page, live: str, shop: Shop) -> None:
    build = shop(gaps=False)
    open_station(page, live, build)
    name_who(page, "Ada")
    page.keyboard.press("u")
    page.keyboard.press("d")
    page.reload()
    expect(page.get_by_role("button", name="Measured by Ada")).to_be_visible()
    expect(page.locator("html")).to_have_class(re.compile("dark"))
    expect(page.locator(".reads")).to_have_text("172.72 mm")
    page.keyboard.press("+")
    press_settled(page)
    expect(page.locator(".log li").first).to_contain_text("Ada")
    url = f"{live}/api/builds/{build['id']}/order.json"
    assert web.get(url).json()["evidence"][0]["measured_by"] == "Ada"


def test_the_order_follows_the_unit(page: Page, live: str, shop: Shop) -> None:
    build = shop()
    open_station(page, live, build)
    page.keyboard.press("+")
    press_settled(page)
    expect(page.get_by_role("heading", name="Zero lash 6.8500 in.")).to_be_visible()
    page.goto(f"{live}/builds/{build['id']}/order")
    expect(page.get_by_role("region", name="Order lines")).to_be_visible()
    page.keyboard.press("u")
    expect(page.get_by_role("region", name="Order lines")).to_contain_text("175.90 mm")
    link = page.get_by_role("link", name=re.compile("Print"))
    expect(link).to_have_attribute("href", re.compile(r"order\.pdf\?unit=mm$"))
    sheet = web.get(f"{live}{link.get_attribute('href')}")
    assert sheet.content.startswith(b"%PDF")


def test_a_rod_that_is_fully_open_says_so(page: Page, live: str, shop: Shop) -> None:
    open_station(page, live, shop(gaps=False))
    set_turns(page, "20")
    page.keyboard.press("+")
    expect(page.locator(".dial .count")).to_have_text("20")
    page.keyboard.press("l")
    expect(page.get_by_text("This rod opens no further: take a longer one.")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("Set the rod to"))).to_be_hidden()


def test_a_figure_is_not_lost_when_the_next_key_comes_at_once(
    page: Page, live: str, shop: Shop
) -> None:
    """R, 10, Enter, L without a pause; then turns typed and the feel tapped without Enter."""
    build = shop(gaps=False)
    open_station(page, live, build)
    network = page.context.new_cdp_session(page)
    network.send("Network.enable")
    network.send("Network.emulateNetworkConditions", SLOW)
    page.keyboard.press("r")
    page.keyboard.type("10")
    page.keyboard.press("Enter")
    page.keyboard.press("l")
    expect(page.locator(".log li .number")).to_have_count(1)
    page.keyboard.press("r")
    page.keyboard.type("11")
    page.get_by_role("button", name="Tight T").click()
    expect(page.locator(".log li .number")).to_have_count(2)
    valve = f"{live}/api/builds/{build['id']}/valves/{build['valves'][0]['id']}"
    log = web.get(valve).json()["log"]
    assert [(x["turns"], x["feel"]) for x in log] == [(10.0, "loose"), (11.0, "tight")]


def test_the_next_gap_is_typed_while_the_last_is_being_kept(
    page: Page, live: str, shop: Shop
) -> None:
    """What is typed before the answer comes is the next entry: not lost, not joined to the last."""
    build = shop()
    open_station(page, live, build)
    network = page.context.new_cdp_session(page)
    network.send("Network.enable")
    network.send("Network.emulateNetworkConditions", SLOW | {"latency": 1500})
    page.keyboard.press("g")
    page.keyboard.type("0.0150")
    page.keyboard.press("Enter")
    page.keyboard.press("g")
    page.keyboard.type("0.0120")
    expect(page.locator(".log li .number")).to_have_count(1)
    expect(page.get_by_label("Gap at the tip, when loose")).to_have_value("0.0120")
    page.keyboard.press("Enter")
    expect(page.locator(".log li .number")).to_have_count(2)
    log = web.get(f"{live}/api/builds/{build['id']}/valves/{build['valves'][0]['id']}").json()[
        "log"
    ]
    assert [x["gap_in"] for x in log] == pytest.approx([0.015, 0.012])


def test_an_empty_turns_field_records_nothing(page: Page, live: str, shop: Shop) -> None:
    open_station(page, live, shop())
    page.get_by_role("group", name="Way of measuring").get_by_text("Turns").click()
    page.get_by_role("button", name="Record Enter").click()
    expect(page.get_by_role("alert")).to_contain_text("Turns are empty")
    expect(page.get_by_text("No reading yet.")).to_be_visible()
    page.get_by_label("Turns", exact=False).last.fill("5/8")
    expect(page.locator(".rules")).not_to_contain_text("lever 0")


def test_a_refused_entry_is_named_and_typed_over(page: Page, live: str, shop: Shop) -> None:
    """Whoever hears the page is told which field and why; the next key takes its place."""
    build = shop()
    open_station(page, live, build)
    gap = page.get_by_label("Gap at the tip, when loose")
    gap.fill("9")
    page.keyboard.press("Enter")
    expect(page.locator(".log li").first).to_contain_text("gap 9 thou")
    gap.fill("0.9")
    page.keyboard.press("Enter")
    expect(gap).to_have_attribute("aria-invalid", "true")
    why = page.locator(f"#{gap.get_attribute('aria-describedby')}")
    expect(why).to_contain_text("Gap at the tip")
    page.keyboard.type("0.040")
    expect(gap).to_have_value("0.040")
    page.keyboard.press("Enter")
    expect(page.locator(".log li").first).to_contain_text("gap 40 thou")
    expect(gap).not_to_have_attribute("aria-invalid", "true")
    page.goto(f"{live}/builds/{build['id']}/setup")
    travel = page.get_by_label("Plunger travel")
    travel.fill("")
    page.keyboard.press("Enter")
    expect(travel).to_have_attribute("aria-invalid", "true")
    described = page.locator(f"[id='{travel.get_attribute('aria-describedby')}']")
    expect(described).not_to_contain_text("“”")
