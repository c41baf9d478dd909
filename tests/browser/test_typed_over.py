"""What is refused: at its field, in view, chosen to be typed over, and taken over by one touch."""

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.builders import FORGET_WHO, open_station, page_settled, settle_by_web, web

Json = dict[str, Any]
Shop = Callable[..., Json]
MEASURED: Json = {"layout": "inline", "cylinders": 2, "preload_low_in": 0.055,
                  "preload_high_in": 0.08}  # fmt: skip


def measured(live: str, shop: Shop, **settings: Any) -> Json:
    """A build with every valve measured."""
    build = shop(**MEASURED | settings)
    for valve in build["valves"]:
        settle_by_web(live, build, valve, "12" if valve["kind"] == "exhaust" else "10 3/4")
    return build


def refused(field: Locator, typed: str, why: str) -> None:
    """What was typed is refused at its field, and the next key takes its place."""
    field.fill(typed)
    field.press("Enter")
    expect(field).to_have_attribute("aria-invalid", "true")
    note = field.page.locator(f"[id='{field.get_attribute('aria-describedby')}']")
    expect(note).to_contain_text(why)
    expect(note).to_be_in_viewport()
    expect(field).to_have_value(typed)
    field.page.wait_for_function(
        "el => el.selectionStart === 0 && el.selectionEnd === el.value.length",
        arg=field.element_handle(),
    )


def test_every_way_of_measuring_and_the_count_back(page: Page, live: str, shop: Shop) -> None:
    open_station(page, live, shop())
    refused(page.get_by_label("Gap at the tip, when loose"), ".0l", "is not a length")
    page.keyboard.press("Escape")
    page.keyboard.press("c")
    refused(page.get_by_label("Turns back to closed"), "ten", "is not a count of turns")
    page.keyboard.press("Escape")
    ways = page.get_by_role("group", name="Way of measuring")
    for way, typed in (("Indicator", "x"), ("Turns", "1.3")):
        ways.get_by_text(way, exact=True).click()
        page.locator("#known-rod").fill("7.400")
        refused(page.locator("#reading"), typed, typed)


def test_the_rocker_takes_the_likely_figure_into_its_own_field(
    page: Page, live: str, shop: Shop
) -> None:
    build = shop(mount="stud", geometry={"intake": {"tip": "roller", "stem_in": 0.3415}})
    page.goto(f"{live}/builds/{build['id']}/rocker/{build['valves'][0]['id']}")
    refused(page.get_by_role("textbox", name="Outboard edge"), "x", "is not a length")
    page.get_by_role("button", name="Half lift", exact=True).click()
    lift = page.locator("#half-net")
    refused(lift, "5.5", "outside")
    use = page.get_by_role("button", name="Use 5.5 mm")
    use.click()
    expect(page.locator("#half-angle")).to_have_value("")
    expect(use).to_be_hidden()


def test_an_instrument_is_added_as_it_was_typed(page: Page, live: str, shop: Shop) -> None:
    """Nothing that stands refused is left out, and no refusal outlives what it was of."""
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/setup")
    page.get_by_role("button", name="Add…").click()
    adds = page.get_by_role("dialog").get_by_role("button", name="Add it")
    closed = page.get_by_label("Closed length")
    adds.click()
    expect(closed).to_be_focused()
    expect(page.get_by_role("alert")).to_contain_text("is empty")
    page.keyboard.type("9.250")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_be_hidden()
    for field, typed in (("Stated accuracy", "abc"), ("Turns it opens", "many")):
        box = page.get_by_label(re.compile(field))
        box.fill(typed)
        adds.click()
        expect(page.get_by_role("alert")).to_contain_text(typed)
        expect(box).to_be_focused()
        page.keyboard.type("2 thou" if "accuracy" in field else "24")
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_be_hidden()
    adds.click()
    expect(page.get_by_role("dialog")).to_be_hidden()
    # What stood refused in a dialog that was left is not there in the next.
    for _ in range(2):
        page.get_by_role("button", name="Add…").click()
        accuracy = page.get_by_label(re.compile("Stated accuracy"))
        expect(accuracy).to_have_value("")
        accuracy.fill("abc")
        accuracy.press("Enter")
        expect(page.get_by_role("alert")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_be_hidden()
    added = [i for i in web.get(f"{live}/api/instruments").json() if i["closed_in"] == 9.25]
    assert [(i["accuracy_in"], i["most_turns"]) for i in added] == [(0.002, 24)]


@pytest.mark.parametrize(
    ("field", "wrong", "right"),
    [("Stated accuracy", "abc", "2 thou"), ("Turns it opens", "many", "24")],
)
def test_no_refusal_moves_the_button_from_under_a_press(
    page: Page, live: str, shop: Shop, field: str, wrong: str, right: str
) -> None:
    """A hand holds a button down for a tenth of a second; the field it left is read sooner."""
    page.goto(f"{live}/builds/{shop()['id']}/setup")
    page.get_by_role("button", name="Add…").click()
    page.get_by_label("Closed length").fill("9.375")
    box, says = page.get_by_label(re.compile(field)), page.get_by_role("alert")
    adds = page.get_by_role("dialog").get_by_role("button", name="Add it")
    box.fill(wrong)
    adds.hover()
    page.mouse.down()
    expect(box).to_have_attribute("aria-invalid", "true")
    expect(says).to_be_hidden()
    page.mouse.up()
    expect(says).to_contain_text(wrong)
    expect(box).to_be_focused()
    page.keyboard.type(right)
    adds.hover()
    page.mouse.down()
    expect(box).not_to_have_attribute("aria-invalid", "true")
    expect(says).to_contain_text(wrong)
    page.mouse.up()
    expect(page.get_by_role("dialog")).to_be_hidden()


def test_what_is_typed_as_soon_as_a_refusal_shows_is_not_typed_over(
    page: Page, live: str, shop: Shop
) -> None:
    """Its first key comes before the frame in which the refused entry would be chosen."""
    page.goto(f"{live}/builds/{shop()['id']}/setup")
    travel = page.get_by_label("Plunger travel", exact=True)
    travel.fill("wide")
    page.evaluate("""() => {
      const shown = new MutationObserver(() => {
        if (!document.querySelector('[role=alert]')) return
        shown.disconnect()
        document.activeElement.select()
        document.execCommand('insertText', false, '1')
      })
      shown.observe(document.body, { childList: true, subtree: true })
    }""")
    travel.press("Enter")
    expect(travel).to_have_value("1")
    page_settled(page)
    page.keyboard.type("60")
    expect(travel).to_have_value("160")


def test_a_reading_typed_into_the_question_who_is_no_name(
    page: Page, live: str, shop: Shop
) -> None:
    open_station(page, live, shop())
    page.evaluate(FORGET_WHO)
    page.keyboard.press("+")
    page.keyboard.press("l")
    name = page.get_by_role("textbox", name="Another name")
    expect(name).to_be_visible()
    name.fill("72")
    name.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("“72” is not a name")
    name.fill("Ada 2")
    name.press("Enter")
    expect(page.locator(".log li").first).to_contain_text("Ada 2")


def test_lengths_that_can_be_had_are_typed_as_a_list(page: Page, live: str, shop: Shop) -> None:
    build = measured(live, shop)
    page.goto(f"{live}/builds/{build['id']}/decide")
    had = page.get_by_label(re.compile("Lengths that can be had"))
    had.click()
    page.keyboard.type("7.400, 7425; 7.450")
    expect(had).to_have_value("7.400, 7425; 7.450")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Use 7.425 in").click()
    expect(had).to_have_value("7.4000 7.4250 7.4500")
    kept = web.get(f"{live}/api/builds/{build['id']}").json()["plan"]["lengths_in"]
    assert kept == [7.4, 7.425, 7.45]


def test_sign_off_types_over_and_signs_last(page: Page, live: str, shop: Shop) -> None:
    """Five Tabs at most to what is asked; signing is not what comes next while checks are open."""
    build = measured(live, shop)
    page.goto(f"{live}/builds/{build['id']}/sign_off")
    turns = page.get_by_label("Turns from zero lash to seated")
    expect(turns).to_be_visible()
    page.locator(".skip").focus()
    page.keyboard.press("Enter")
    expect(turns).to_be_focused()
    refused(turns, "0.6", "whole number of eighths")
    page.keyboard.type("5/8")
    page.keyboard.press("Enter")
    expect(page.locator(".check tbody tr").first).to_contain_text("thou")
    expect(page.locator(".do .strong, .ask .strong")).to_have_text(["Keep"])
    page.get_by_role("button", name="Rod spins before preload").click()
    page.locator(".skip").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Yes Y")).to_be_focused()
