"""The same bench in German: chosen by the browser, switched by hand, nothing left in English."""

import re
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import Engine

from tests.builders import demo_builds, station_url

STEPS = ("setup", "base_circle", "rocker", "heads", "decide", "order", "sign_off", "history")
ENGLISH = re.compile(r"\b(the|is|are|with|and|of|not|from|to|each|this|that|which|when|one)\b")
WRITTEN = "Seal of 1 intake is trimmed before the head goes back on"


@pytest.fixture
def german(browser: Browser) -> Iterator[Page]:
    context = browser.new_context(locale="de-DE", viewport={"width": 1280, "height": 800})
    yield context.new_page()
    context.close()


def english_lines(page: Page) -> list[str]:
    """Lines on the page that read like English: two of its small words or more."""
    lines = page.locator("body").inner_text().split("\n")
    return [x for x in lines if len(ENGLISH.findall(x)) > 1 and WRITTEN not in x]


def test_a_valve_is_measured_in_german(
    german: Page, live: str, shop: Callable[..., dict[str, Any]]
) -> None:
    """By the keyboard, in millimetres with a comma; the server answers in the page's language."""
    german.goto(station_url(live, shop()))
    expect(german.locator("html")).to_have_attribute("lang", "de")
    for turns, key in (("10", "l"), ("11", "t"), ("10 1/2", "z")):
        german.get_by_role("textbox", name="Umdrehungen ab zu").fill(turns)
        german.keyboard.press("Enter")
        german.keyboard.press(key)
        expect(german.locator(".log, ol, ul").get_by_text(f"{turns} Umdrehungen")).to_be_visible()
    expect(german.locator("#station")).to_contain_text(re.compile(r"\d,\d{2} mm"))
    assert not re.search(r"\d\.\d+ (in|mm)\b", german.locator("#station").inner_text())
    assert english_lines(german) == []


@pytest.mark.slow
def test_no_page_says_anything_in_english(german: Page, live: str, empty: Engine) -> None:
    builds = demo_builds(live, empty)
    names = ("Dockside loader V8", "Quarry crusher V8", "Sawmill tractor inline six")
    found = []
    for build in (b for b in builds if b["name"] in names):
        valve = build["valves"][0]["id"]
        steps = [s if s != "rocker" else f"rocker/{valve}" for s in STEPS]
        for step in (*steps, f"zero_lash/{valve}"):
            german.goto(f"{live}/builds/{build['id']}/{step}")
            expect(german.locator("#station")).to_contain_text(re.compile(r"\w{4}"))
            german.wait_for_load_state("networkidle")
            found += [(step, line) for line in english_lines(german)]
            # The header stays one row: the words of a language must not push the bench down.
            assert german.locator("header").first.bounding_box()["height"] < 70, step  # type: ignore[index]
    for path in ("", "learned", "practice", "history"):
        german.goto(f"{live}/{path}")
        expect(german.locator("#station")).to_contain_text(re.compile(r"\w{4}"))
        german.wait_for_load_state("networkidle")
        found += [(path, line) for line in english_lines(german)]
    assert found == []


def test_the_language_is_switched_and_kept(
    page: Page, german: Page, live: str, shop: Callable[..., dict[str, Any]]
) -> None:
    build = shop()
    page.goto(station_url(live, build))
    expect(page.get_by_text("No trial on this valve yet.")).to_be_visible()
    page.get_by_role("button", name="Language, switch: en de").click()
    expect(page.get_by_text("An diesem Ventil noch kein Versuch.")).to_be_visible()
    page.reload()
    expect(page.get_by_text("An diesem Ventil noch kein Versuch.")).to_be_visible()
    # And the other way round, against what the browser asks for.
    german.goto(station_url(live, build))
    german.get_by_role("button", name="Sprache, wechseln: en de").click()
    expect(german.get_by_text("No trial on this valve yet.")).to_be_visible()
    expect(german.locator("html")).to_have_attribute("lang", "en")
