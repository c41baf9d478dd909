"""The same bench in German: chosen by the browser, switched by hand, nothing left in English."""

import json
import re
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import Engine

from tests.builders import at_rest, demo_builds, station_url, web
from tests.nobody import NOBODYS, WRITTEN, strings
from tests.standins import serving
from vivid_arm.api.app import make_app
from vivid_arm.records import accounts, database

STEPS = ("setup", "base_circle", "rocker", "heads", "decide", "order", "sign_off", "history")
ENGLISH = re.compile(r"\b(the|is|are|with|and|of|not|from|to|each|this|that|which|when|one)\b")
SHOWN = ("Dockside loader V8", "Quarry crusher V8", "Sawmill tractor inline six")
LETTERS = re.compile("[A-Za-z]{3,}")
KEPT = {
    "Tess", "Olm", "Vivid Arm", "CSV", "JSON", "lbf", "trial rods of order 1",
    "Seal of 1 intake is trimmed before the head goes back on",
}  # fmt: skip
"""Names, formats, units, and what the demo's people wrote."""
DAY = re.compile(r"\d+\. \w+\.?")
"""Dates are written by the browser, in its own language."""
CATALOGUE = Path(__file__).parents[2] / "frontend" / "src" / "kit" / "words.de.json"


@pytest.fixture
def german(browser: Browser) -> Iterator[Page]:
    context = browser.new_context(locale="de-DE", viewport={"width": 1280, "height": 800})
    yield context.new_page()
    context.close()


def english_lines(page: Page) -> list[str]:
    """Lines on the page that read like English: two of its small words or more."""
    lines = page.locator("body").inner_text().split("\n")
    return [x for x in lines if len(ENGLISH.findall(x)) > 1]


def test_the_server_speaks_in_the_unit_of_the_page(
    page: Page, live: str, shop: Callable[..., dict[str, Any]]
) -> None:
    """By the key for it, at once and after a fresh start."""
    build = shop(caliper=True, gaps=False)
    first = {"key": str(uuid4()), "setting": "7.3", "feel": "loose"}
    valve = f"{live}/api/builds/{build['id']}/valves/{build['valves'][0]['id']}"
    web.post(f"{valve}/trials", json=first).raise_for_status()
    page.goto(station_url(live, build))
    said = page.locator("#station")
    expect(said).to_contain_text("Loose: 50 thou longer.")
    page.keyboard.press("u")
    expect(said).to_contain_text("Loose: 1.27 mm longer.")
    page.reload()
    expect(said).to_contain_text("Loose: 1.27 mm longer.")
    page.keyboard.press("u")
    expect(said).to_contain_text("Loose: 50 thou longer.")


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


def said(text: str) -> str:
    return NOBODYS.texts.gettext(text)


# What is on a page, and what is read out of it: its text and the names of its parts.
_WORDS = """() => {
  const named = ['aria-label', 'title', 'placeholder', 'alt', 'aria-roledescription']
  const parts = [...document.querySelectorAll('body *')]
  const read = parts.flatMap((x) => named.map((name) => x.getAttribute(name)).filter(Boolean))
  const drawn = parts.filter((x) => x.tagName === 'text').map((x) => x.textContent)
  return [...document.body.innerText.split('\\n'), ...read, ...drawn]
}"""


@pytest.fixture
def nobodys(german: Page, marked: None) -> Page:
    """Server and pages in a language nobody speaks: a word that can be read was not said in it."""
    texts = json.loads(CATALOGUE.read_text())
    said_so = json.dumps({text: said(text) for text in texts}, ensure_ascii=False)
    made = f"System.register([], (put) => ({{ execute() {{ put('default', {said_so}) }} }}))"
    german.route(
        "**/assets/words.de-*.js",
        lambda route: route.fulfill(body=made, content_type="text/javascript; charset=utf-8"),
    )
    return german


def names_of(live: str, builds: list[dict[str, Any]]) -> set[str]:
    """What people have called their engines and tools."""
    names = {text for at, text in strings(builds) if at.endswith(WRITTEN)} | KEPT
    return names | {i["name"] for i in web.get(f"{live}/api/instruments").json()}


def written_on(live: str, build: dict[str, Any]) -> set[str]:
    """What people have written on a build."""
    here = f"{live}/api/builds/{build['id']}"
    kept = [web.get(f"{here}/file.json").json(), web.get(f"{here}/history").json()]
    return {text for at, text in strings(kept) if at.endswith(WRITTEN)}


@pytest.mark.slow
def test_no_word_of_english_is_left_on_a_page(nobodys: Page, live: str, empty: Engine) -> None:
    builds = demo_builds(live, empty)
    names = names_of(live, builds)
    left = set()
    for build in (b for b in builds if b["name"] in SHOWN):
        written = names | written_on(live, build)
        for step in steps_of(build):
            lines = lines_of(nobodys, f"{live}/builds/{build['id']}/{step}")
            left |= {(step, line) for line in lines if LETTERS.search(without(line, written))}
    for path in ("", "learned", "practice", "history"):
        lines = lines_of(nobodys, f"{live}/{path}")
        left |= {(path, line) for line in lines if LETTERS.search(without(line, names))}
    assert left == set()


OPENED = {
    "setup": ("Add…", "Values", "Correct…"),
    "base_circle": ("?",),
    "rocker": ("Values", "Schools", "Tries", "Compare", "Over lift", "Lift hunt", "Half lift",
               "Ratio", "Dimensions", "Whole", "Tip", "x", "?"),
    "decide": ("Hot engine", "The rod", "Rod box", "On the ladder", "?"),
    "order": ("?",),
    "sign_off": ("v", "n", "Add", "?"),
    "zero_lash": ("x", "m", "c", "?", "w"),
}  # fmt: skip
"""What is opened on the stations: buttons by their English words, keys by one letter."""
_BUTTONS = """() => [...document.querySelectorAll('main button, main summary')]
  .filter((x) => x.checkVisibility())"""


@pytest.mark.slow
def test_no_word_of_english_is_left_in_what_opens(
    page: Page, nobodys: Page, live: str, empty: Engine
) -> None:
    """Dialogs, views and answers; the same button is found by its place on an English page."""
    builds = demo_builds(live, empty)
    names = names_of(live, builds)
    left, opened = set(), set()
    page.set_viewport_size({"width": 1280, "height": 800})
    for build in (b for b in builds if b["name"] == SHOWN[0]):
        written = names | written_on(live, build)
        for step in steps_of(build):
            address = f"{live}/builds/{build['id']}/{step}"
            lines_of(nobodys, address)
            page.goto(address)
            page.wait_for_load_state("networkidle")
            for what in OPENED.get(step.split("/")[0], ()):
                if not both_open(page, nobodys, what):
                    continue
                opened.add(what)
                lines = nobodys.evaluate(_WORDS)
                left |= {(what, line) for line in lines if LETTERS.search(without(line, written))}
                page.keyboard.press("Escape")
                nobodys.keyboard.press("Escape")
    assert left == set()
    assert opened == {what for each in OPENED.values() for what in each}


@pytest.mark.slow
def test_no_word_of_english_is_left_on_a_practice_bench(nobodys: Page, live: str) -> None:
    """Every tool of the bench tried twice, and the exercise's own page."""
    body = {"id": str(uuid4()), "scenario": "pump", "seed": 1}
    begun = web.post(f"{live}/api/practice", json=body).json()
    build = web.get(f"{live}/api/builds/{begun['build_id']}").json()
    names, left = KEPT | {build["name"]}, set()
    left |= lines_of(nobodys, station_url(live, build))
    bench = nobodys.locator("aside.practice")
    bench.locator("summary").evaluate_all("all => all.forEach((x) => x.click())")
    for _ in range(2):
        left |= all_pressed(nobodys, "aside.practice")
    left |= lines_of(nobodys, f"{live}/practice/{begun['id']}")
    assert {line for line in left if LETTERS.search(without(line, names))} == set()


@pytest.mark.slow
def test_no_word_of_english_is_left_on_the_people_s_pages(
    nobodys: Page, working: str, empty: Engine
) -> None:
    """Who is let in, his devices, the sign-in, and what is refused there."""
    with database.sessions(empty).begin() as session:
        code = accounts.first_code(session) or ""
    left, password = set(), "three words apart"
    with serving(make_app(working, people=True)) as shop:
        owner = {"code": code, "name": "Orla", "password": password}
        web.post(f"{shop}/api/join", json=owner).raise_for_status()
        left |= lines_of(nobodys, shop)
        for tried in ("x", "wrong password", password):
            name, secret = nobodys.locator("[role=dialog] input:visible").all()
            name.fill("Orla")
            secret.fill(tried)
            with nobodys.expect_response("**/api/sign-in"):
                secret.press("Enter")
            nobodys.wait_for_load_state("networkidle")
            left |= set(nobodys.evaluate(_WORDS))
        expect(nobodys.locator("[role=dialog]:visible")).to_have_count(0)
        more = {"id": str(uuid4()), "name": "Jory", "role": "apprentice"}
        assert nobodys.context.request.post(f"{shop}/api/accounts", data=more).ok
        left |= lines_of(nobodys, f"{shop}/people")
        left |= all_pressed(nobodys, "main")
    names = KEPT | {"Orla", "Jory"}
    assert {line for line in left if LETTERS.search(without(line, names))} == set()


def test_no_word_of_english_is_left_in_what_is_refused(
    nobodys: Page, live: str, shop: Callable[..., dict[str, Any]]
) -> None:
    """Turns that are none, too many, and a gap that no feeler has."""
    build = shop()
    left = lines_of(nobodys, station_url(live, build))
    turns, gap = nobodys.locator("#station input.el-input__inner").all()[:2]
    for field, texts in ((turns, ("x", "99", "-1")), (gap, ("0.9", "y", "1/0"))):
        for text in texts:
            field.fill(text)
            field.press("Enter")
            expect(nobodys.get_by_role("alert").first).to_be_visible()
            left |= set(nobodys.evaluate(_WORDS))
    names = names_of(live, [build])
    assert {line for line in left if LETTERS.search(without(line, names))} == set()


def all_pressed(page: Page, part: str) -> set[str]:
    """What stands on a page after each press of a button of one part of it."""
    buttons, found = page.locator(f"{part} button:enabled:visible"), set()
    for n in range(buttons.count()):
        for button in buttons.element_handles()[n : n + 1]:
            button.evaluate("x => x.click()")
        page.wait_for_load_state("networkidle")
        found |= set(page.evaluate(_WORDS))
    return found


def both_open(english: Page, other: Page, what: str) -> bool:
    """Press a key or a button on two pages that show the same; whether there is such a button."""
    if len(what) == 1:
        for page in (english, other):
            page.keyboard.press(what)
    else:
        words = english.evaluate(f"({_BUTTONS})().map((x) => x.innerText.split('\\n')[0].trim())")
        if what not in words:
            return False
        for page in (english, other):
            page.evaluate(f"(i) => ({_BUTTONS})()[i].click()", words.index(what))
    for page in (english, other):
        page.wait_for_load_state("networkidle")
        at_rest(page)
    return True


def without(line: str, written: set[str]) -> str:
    """A line without what people have written themselves; drawings cut long names."""
    for text in sorted(written, key=len, reverse=True):
        if len(text) > 2:
            line = line.replace(text, "").replace(text[:15], "")
    return DAY.sub("", line)


def steps_of(build: dict[str, Any]) -> list[str]:
    valve = build["valves"][0]["id"]
    return [*(f"rocker/{valve}" if s == "rocker" else s for s in STEPS), f"zero_lash/{valve}"]


def lines_of(page: Page, address: str) -> set[str]:
    page.goto(address)
    expect(page.locator("#station")).to_contain_text(re.compile("ж{4}"))
    page.wait_for_load_state("networkidle")
    return set(page.evaluate(_WORDS))


def test_a_figure_has_the_comma_of_the_language(
    german: Page, live: str, shop: Callable[..., dict[str, Any]]
) -> None:
    build = shop(ratio_intake=1.65)
    german.goto(f"{live}/builds/{build['id']}/setup")
    ratio = german.get_by_label("Übersetzung des Kipphebels, Einlass")
    expect(ratio).to_have_value("1,65")
    ratio.fill("1,7")
    ratio.press("Enter")
    expect(ratio).to_have_value("1,7")
    german.reload()
    expect(ratio).to_have_value("1,7")
    assert web.get(f"{live}/api/builds/{build['id']}").json()["ratio_intake"] == 1.7


@pytest.mark.slow
def test_the_header_stays_one_row_in_german(german: Page, live: str, empty: Engine) -> None:
    """The words of a language must not push the bench down."""
    for build in demo_builds(live, empty):
        german.goto(f"{live}/builds/{build['id']}/setup")
        expect(german.locator("header nav")).to_be_visible()
        box = german.locator("header").first.bounding_box()
        assert box is not None
        assert box["height"] < 70, build["name"]


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
