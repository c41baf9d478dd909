"""The decide page and the sign-off by touch and in other engines: studs, solid lifters, phone."""

import re
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Browser, Page, expect

from tests.builders import settle_by_web, web

Json = dict[str, Any]
Shop = Callable[..., Json]


def measured(live: str, shop: Shop, **settings: Any) -> Json:
    """An inline two with every valve felt at zero."""
    build = shop(layout="inline", cylinders=2, **settings)
    for valve, turns in zip(build["valves"], ("10 3/4", "11", "10 3/4", "11"), strict=True):
        settle_by_web(live, build, valve, turns)
    return build


def test_strips_stand_to_scale(page: Page, live: str, shop: Shop) -> None:
    """Independent: places on the drawing are proportional to the figures in the answer."""
    build = measured(live, shop, plan={"strategy": "best", "block": "iron", "head": "aluminium"})
    page.goto(f"{live}/builds/{build['id']}/decide")
    page.locator("[data-cold='1I']").wait_for()
    rows = web.get(f"{live}/api/builds/{build['id']}/decide").json()["rows"]
    window = page.locator("[data-part=window]").first.bounding_box()
    assert window is not None
    per_inch = window["width"] / (0.1 - 0.05)
    for row in rows:
        box = page.locator(f"[data-cold='{row['name']}']").bounding_box()
        assert box is not None
        at = box["x"] + box["width"] / 2
        assert abs((at - window["x"]) / per_inch + 0.05 - row["preload_in"]) < 0.0005
        hot = page.locator(f"[data-hot='{row['name']}']").bounding_box()
        assert hot is not None
        moved = (hot["x"] + hot["width"] / 2 - at) / per_inch
        assert abs(moved - (row["hot_in"] - row["preload_in"])) < 0.0005


def test_ways_by_touch_on_a_phone(browser: Browser, live: str, shop: Shop) -> None:
    build = measured(live, shop)
    context = browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True)
    page = context.new_page()
    page.goto(f"{live}/builds/{build['id']}/decide")
    one = page.get_by_role("button", name=re.compile("One length"))
    one.tap()
    expect(one).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="Rod box").tap()
    page.get_by_label("Length of the rods").fill("7 13/32")
    page.get_by_role("button", name="Put in the box").tap()
    row = page.get_by_role("row", name=re.compile("7.4063 in"))
    row.get_by_role("button", name=re.compile("One more")).tap()
    expect(row.locator("b")).to_have_text("2")
    page.get_by_role("link", name="Go to the order").tap()
    page.get_by_role("button", name=re.compile("Draft trial rods")).tap()
    card = page.get_by_role("article", name="Trial rods, order 1")
    card.get_by_role("button", name="Withdraw").tap()
    expect(card).to_be_hidden()
    context.close()


def test_a_stud_is_set_by_its_nut(page: Page, live: str, shop: Shop) -> None:
    build = measured(live, shop, mount="stud", fastener_pitch_in=0.05)
    page.goto(f"{live}/builds/{build['id']}/decide")
    expect(page.get_by_text("make a mark in Rocker before ordering")).to_be_visible()
    row = page.get_by_role("row", name=re.compile("^1I"))
    expect(row).to_contain_text(re.compile(r"0\.\d\d turns"))
    expect(row).to_contain_text("70 thou")


def test_solid_lifters_to_a_lash_sheet_and_torque_card(page: Page, live: str, shop: Shop) -> None:
    build = measured(live, shop, lifter_kind="solid", mount="shaft_adjustable")
    page.goto(f"{live}/builds/{build['id']}/decide")
    expect(page.get_by_role("alert").first).to_contain_text("Enter both in the set-up")
    version = web.get(f"{live}/api/builds/{build['id']}").json()["version"]
    lash = {"version": version, "lash_intake_in": 0.016, "lash_exhaust_in": 0.018}
    web.patch(f"{live}/api/builds/{build['id']}", json=lash).raise_for_status()
    page.goto(f"{live}/builds/{build['id']}/sign_off")
    sheet = page.get_by_role("region", name="Lash sheet")
    expect(sheet).to_contain_text("16 thou drags, 17 thou must not enter")
    page.get_by_role("button", name=re.compile("^Lash")).click()
    page.get_by_role("textbox", name="Feeler that drags").fill("19")
    page.keyboard.press("Enter")
    expect(page.get_by_role("row", name=re.compile("fails"))).to_be_visible()
    card = page.get_by_role("region", name="Torque card")
    card.get_by_label("Fastener", exact=True).fill("Rocker shaft bolts")
    card.get_by_label("Stages").fill("12; 22; 90°")
    card.get_by_role("button", name="Add").click()
    expect(card.get_by_role("row", name=re.compile("22.0 264 29.8"))).to_be_visible()
    expect(card).to_contain_text("turn on 90°")
    card.get_by_label("Fastener", exact=True).fill("Head bolts")
    card.get_by_label("Stages").fill("tight")
    card.get_by_role("button", name="Add").click()
    expect(card.get_by_role("alert")).to_contain_text("“tight” is no stage")
    expect(card.get_by_label("Stages")).to_have_value("tight")
