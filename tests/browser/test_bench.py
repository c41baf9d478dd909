"""At the engine with one hand: the number pad of a phone, bench mode by foot and by voice."""

import re
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.builders import open_station, station_url, web

Shop = Callable[..., dict[str, Any]]
SPEECH = """
window.heard = []
window.speechSynthesis.speak = (said) => window.heard.push(said.text)
"""
AT_REST = """() => new Promise((done) => {
  let [last, same] = [scrollY, 0]
  const look = () => {
    same = scrollY === last ? same + 1 : 0
    last = scrollY
    if (same > 15) done(last)
    else requestAnimationFrame(look)
  }
  look()
})"""


@pytest.fixture
def phone(browser: Browser) -> Iterator[Page]:
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True
    )
    yield context.new_page()
    context.close()


def tap(page: Page, *keys: str) -> None:
    pad = page.get_by_label("Number pad")
    for key in keys:
        pad.get_by_role("button", name=key, exact=True).tap()


def test_a_phone_types_turns_and_gaps_on_the_number_pad(phone: Page, live: str, shop: Shop) -> None:
    """No keyboard of letters comes up, and the field in hand stays in sight above the pad."""
    build = shop()
    open_station(phone, live, build)
    turns = phone.get_by_role("textbox", name="Turns from closed")
    turns.tap()
    pad = phone.get_by_label("Number pad")
    expect(pad).to_be_visible()
    assert turns.evaluate("field => field.inputMode") == "none"
    expect(pad.locator(".units button")).to_have_text(["turns", "abc"])
    boxes = [b for b in (turns.bounding_box(), pad.bounding_box()) if b is not None]
    assert boxes[0]["y"] + boxes[0]["height"] <= boxes[1]["y"]
    keys = pad.locator(".keys button").all()
    assert min((k.bounding_box() or {"height": 0})["height"] for k in keys) >= 56
    tap(phone, "1", "0", "Space", "3", "Rub out", "5", "Fraction", "8", "Enter")
    expect(phone.locator(".reads")).to_have_text("7.3313 in")
    # The gap has the focus now, and the pad with it.
    expect(pad.locator(".units button")).to_have_text(["in", "thou", "mm", "abc"])
    tap(phone, "4", "0", "thou", "Enter")
    line = phone.locator(".log li")
    expect(line).to_contain_text("loose")
    expect(line).to_contain_text("gap 40 thou")
    phone.get_by_role("heading", name="Log").tap()
    expect(pad).to_be_hidden()
    turns.tap()
    tap(phone, "abc")
    expect(pad).to_be_hidden()
    expect(turns).to_be_focused()
    assert turns.evaluate("field => field.inputMode") == "text"


def test_a_german_phone_has_its_comma_and_room_for_its_words(
    browser: Browser, live: str, shop: Shop
) -> None:
    """The pad writes the comma; what is counted back and what the rule says are read whole."""
    build = shop()
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True, locale="de-DE"
    )
    page = context.new_page()
    page.goto(f"{live}/builds/{build['id']}/zero_lash/{build['valves'][0]['id']}")
    turns = page.get_by_role("textbox", name="Umdrehungen ab zu")
    turns.tap()
    pad = page.locator("section.pad")
    for key in ("1", "0", "Komma", "2", "5"):
        pad.get_by_role("button", name=key, exact=True).tap()
    expect(turns).to_have_value("10,25")
    name = page.locator("g.ticks .unit").bounding_box()
    numbers = [n.bounding_box() for n in page.locator("g.ticks text:not(.unit)").all()]
    assert name
    assert numbers
    assert all(n and n["x"] + n["width"] <= name["x"] for n in numbers)
    page.locator(".count").get_by_role("button").first.tap()
    counted = page.locator("#counted")
    counted.fill("99 Umdrehungen")
    assert counted.evaluate("field => field.scrollWidth <= field.clientWidth")
    context.close()


def test_enter_on_the_number_pad_sends_what_was_counted_back(
    phone: Page, live: str, shop: Shop
) -> None:
    build = shop()
    open_station(phone, live, build)
    phone.get_by_role("textbox", name="Turns from closed").tap()
    tap(phone, "1", "0", "Enter")
    phone.get_by_role("button", name="Loose", exact=True).tap()
    expect(phone.locator(".log li")).to_have_count(1)
    phone.get_by_role("button", name="Count back to closed").tap()
    phone.get_by_role("textbox", name="Turns back to closed").tap()
    tap(phone, "1", "0", "turns", "Enter")
    expect(phone.locator(".log li")).to_have_count(2)


def test_key_caps_are_not_shown_where_there_is_no_keyboard(
    phone: Page, live: str, shop: Shop
) -> None:
    open_station(phone, live, shop())
    expect(phone.get_by_role("button", name="Loose", exact=True)).to_be_visible()
    expect(phone.locator("kbd:visible")).to_have_count(0)


def test_nothing_lies_over_a_valve_on_a_phone(phone: Page, live: str, shop: Shop) -> None:
    build = shop()
    phone.goto(station_url(live, build))
    strip = phone.get_by_label("Valves").bounding_box()
    closer = phone.get_by_role("button", name="Closer").bounding_box()
    assert strip is not None
    assert closer is not None
    assert closer["y"] >= strip["y"] + strip["height"]


def test_bench_mode_is_worked_by_a_foot_switch(page: Page, live: str, shop: Shop) -> None:
    """Page Down and Page Up go through what can be done, Enter does it; no other key is needed."""
    build = shop(gaps=False)
    open_station(page, live, build)
    page.keyboard.press("+")
    page.keyboard.press("w")
    mode = page.get_by_role("dialog", name="Bench mode")
    at = mode.locator("[aria-current=step]")
    expect(at).to_have_text("loose")
    page.keyboard.press("Enter")
    expect(mode.locator(".last")).to_contain_text("1: loose at 6.8500 in")
    expect(mode.locator(".now")).to_contain_text("Set the rod to")
    expect(at).to_have_text("It is set")
    page.keyboard.press("Enter")
    expect(mode.locator(".now")).to_contain_text("Feel it")
    page.keyboard.press("PageDown")
    page.keyboard.press("PageDown")
    expect(at).to_have_text("tight")
    page.keyboard.press("PageUp")
    page.keyboard.press("Enter")
    expect(mode.locator(".last")).to_contain_text("2: zero at")
    for _ in range(2):
        page.keyboard.press("PageUp")
    expect(at).to_have_text(re.compile("Next: 1E|tight"))
    mode.get_by_label("Gap at the tip").fill("0.040")
    mode.get_by_role("button", name="Next: 1E").click()
    expect(mode).to_contain_text("Cylinder 1 exhaust")
    # A gap that was typed for one valve is never the next one's.
    expect(mode.get_by_label("Gap at the tip")).to_have_value("")
    page.keyboard.press("Escape")
    expect(mode).to_be_hidden()
    expect(page.get_by_text("No reading yet.")).to_be_visible()


def test_bench_mode_speaks_what_is_to_be_done(page: Page, live: str, shop: Shop) -> None:
    """Off until it is switched on; figures as they are read out."""
    page.add_init_script(SPEECH)
    build = shop(gaps=False)
    open_station(page, live, build)
    for _ in range(10):
        page.keyboard.press("+")
    page.keyboard.press("w")
    mode = page.get_by_role("dialog", name="Bench mode")
    mode.get_by_role("button", name="loose").click()
    expect(mode.locator(".last")).to_contain_text("1: loose")
    assert page.evaluate("heard") == []
    mode.get_by_role("button", name="Speak").click()
    heard = page.evaluate("heard")
    assert len(heard) == 1
    assert heard[0].startswith("Cylinder 1 intake. Set the rod to ")
    assert "/" not in heard[0]


def test_bench_mode_refuses_where_everybody_hears_it(page: Page, live: str, shop: Shop) -> None:
    build = shop(caliper=True)
    open_station(page, live, build)
    page.keyboard.press("w")
    mode = page.get_by_role("dialog", name="Bench mode")
    mode.get_by_role("button", name="loose").click()
    expect(mode.get_by_role("alert")).to_be_visible()
    mode.get_by_label("Caliper reads").fill("7.310")
    mode.get_by_label("Gap at the tip").fill("0.040")
    page.keyboard.press("Enter")
    expect(mode.locator(".last")).to_contain_text("1: loose at 7.3100 in, gap 40 thou")
    expect(mode.get_by_label("Caliper reads")).to_have_value("")


def test_a_fresh_valve_shows_what_the_hand_will_feel(page: Page, live: str, shop: Shop) -> None:
    build = shop()
    page.goto(station_url(live, build))
    drawn = page.locator("g.feels")
    for words in ("Loose", "Zero", "Tight", "the plunger gives", "plunger 70 thou down"):
        expect(drawn).to_contain_text(words)
    page.get_by_label("Expected length").fill("7.35")
    page.keyboard.press("Enter")
    expect(drawn).to_contain_text("Expected near 7.3500 in: the length entered")
    solid = shop(lifter_kind="solid")
    page.goto(station_url(live, solid))
    expect(page.locator("g.feels")).to_contain_text("the valve is held open")


def test_up_and_down_scroll_unless_the_dial_is_in_hand(page: Page, live: str, shop: Shop) -> None:
    page.set_viewport_size({"width": 1000, "height": 500})
    open_station(page, live, shop())
    page.keyboard.press("ArrowDown")
    page.wait_for_function("() => scrollY > 0")
    reads = page.locator(".reads")
    expect(reads).to_have_text("6.8000 in")
    dial = page.get_by_role("slider", name=re.compile("Checking rod"))
    dial.focus()
    at = page.evaluate(AT_REST)
    for key, shown in (("ArrowUp", "6.8500 in"), ("ArrowRight", "6.8625 in"),
                       ("Shift+ArrowLeft", "6.8563 in"), ("PageUp", "7.1063 in"),
                       ("ArrowDown", "7.0563 in"), ("Home", "6.8000 in")):  # fmt: skip
        page.keyboard.press(key)
        expect(reads).to_have_text(shown)
    assert page.evaluate(AT_REST) == at


def test_a_word_of_the_trade_opens_its_meaning(page: Page, live: str, shop: Shop) -> None:
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/setup")
    page.get_by_role("button", name="What is: R0, the ratio near closed").press("Enter")
    words = page.get_by_role("dialog", name="Words")
    expect(words).to_contain_text("Gap ÷ R0 is what the rod is short")
    expect(words.locator("dt")).to_have_count(1)
    words.get_by_role("button", name="All words").press("Enter")
    for term in ("Heel, base circle", "Worst miss", "Gauge length", "Closed end", "School"):
        expect(words.locator("dt", has_text=term)).to_be_visible()
    assert words.locator("svg.drawn").count() == words.locator("dt").count()
    page.keyboard.press("Escape")
    expect(words).to_be_hidden()
    page.keyboard.press("?")
    page.get_by_role("button", name="Words", exact=True).click()
    expect(words.locator("dt").first).to_be_visible()


def test_bench_mode_takes_the_likely_figure_and_the_tool_that_is_chosen(
    page: Page, live: str, shop: Shop
) -> None:
    """A slip is put right by one touch; a rod corrected behind the page is asked about there."""
    build = shop()
    page.route("**/api/live", lambda route: route.abort())
    open_station(page, live, build)
    page.keyboard.press("+")
    page.keyboard.press("w")
    mode = page.get_by_role("dialog", name="Bench mode")
    gap = mode.get_by_label("Gap at the tip")
    gap.fill("400 in")
    gap.press("Enter")
    expect(gap).to_have_attribute("aria-invalid", "true")
    mode.get_by_role("button", name=re.compile("^Use ")).click()
    expect(mode.locator(".last")).to_contain_text("1: loose at")
    rod = build["instrument"]
    web.patch(
        f"{live}/api/instruments/{rod['id']}",
        json={"version": rod["version"], "closed_in": 6.81},
    ).raise_for_status()
    mode.get_by_role("button", name="tight").click()
    chosen = mode.get_by_role("alert").get_by_role("button")
    expect(chosen).to_have_count(1)
    chosen.click()
    expect(mode.locator(".last")).to_contain_text("2: tight")
    expect(mode.get_by_role("alert")).to_be_hidden()
