"""A shop's life: builds put away and found again, notes, history, strikes taken back, who reads."""

import re
from collections.abc import Callable
from typing import Any
from uuid import uuid4

import pytest
from playwright.sync_api import Browser, Page, Route, expect

from tests.builders import FORGET_WHO, open_station, station_url, web
from tests.documents.test_photos import made

Shop = Callable[..., dict[str, Any]]


def more(page: Page, name: str, what: str) -> None:
    """Choose something of a build's list, by keyboard."""
    page.get_by_label(f"More of {name}").press("Enter")
    page.get_by_role("button", name=what).press("Enter")


@pytest.mark.parametrize(
    ("verb", "shelf"), [("Into the archive", "archive"), ("Into the bin", "bin")]
)
def test_a_build_is_put_away_and_comes_back(
    page: Page, live: str, shop: Shop, errors: list[str], verb: str, shelf: str
) -> None:
    """By keyboard alone: nothing is asked, because nothing is lost."""
    shop(name="Old engine")
    shop(name="New engine")
    page.goto(live)
    rows = page.locator(".board li")
    expect(rows).to_have_count(2)
    more(page, "Old engine", verb)
    expect(rows).to_have_count(1)
    expect(rows).to_contain_text("New engine")
    page.get_by_role("button", name="Undo").press("Enter")
    expect(rows).to_have_count(2)
    more(page, "Old engine", verb)
    page.get_by_role("button", name=f"1 in the {shelf}").press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text(shelf.capitalize())
    more(page, "Old engine", "Back to the board")
    expect(page.get_by_role("heading", name="Builds")).to_be_visible()
    expect(rows).to_have_count(2)


def test_builds_are_sifted_sorted_and_told_apart(
    page: Page, live: str, shop: Shop, errors: list[str]
) -> None:
    for name, cylinders in (("Tug", 6), ("Barge", 4), ("Ferry", 6), ("Barge", 8)):
        shop(name=name, layout="inline", cylinders=cylinders)
    page.goto(live)
    names = page.locator(".board .name > a")
    expect(names).to_have_count(4)
    page.get_by_label("Order of the builds").select_option("name")
    expect(names).to_have_text(["Barge", "Barge", "Ferry", "Tug"])
    expect(page.get_by_text("· made")).to_have_count(2)
    page.get_by_label("Find a build").fill("Inline 6")
    expect(names).to_have_text(["Ferry", "Tug"])
    page.get_by_label("What it waits for").select_option("order")
    expect(page.get_by_text("No build is like that.")).to_be_visible()
    page.get_by_label("Find a build").fill("")
    page.get_by_label("What it waits for").select_option("")
    expect(names).to_have_count(4)


def test_a_build_is_copied_from_the_board(page: Page, live: str, shop: Shop) -> None:
    build = shop(name="Tug")
    url = f"{live}/api/builds/{build['id']}/valves/{build['valves'][0]['id']}/trials"
    web.post(url, json={"key": str(uuid4()), "setting": "10", "feel": "loose"}).raise_for_status()
    page.goto(live)
    more(page, "Tug", "Copy with readings")
    expect(page.get_by_role("heading", name="Tug, copy")).to_be_visible()
    page.get_by_role("link", name="Zero lash", exact=True).click()
    expect(page.locator(".log li")).to_contain_text("7.3000 in")


def test_notes_with_a_photo_stand_at_valve_and_history(
    page: Page, live: str, shop: Shop, errors: list[str], tmp_path: Any
) -> None:
    build = shop(gaps=False)
    open_station(page, live, build)
    page.keyboard.press("+")
    page.keyboard.press("l")
    expect(page.locator(".log li .number")).to_have_text(["1"])
    page.get_by_role("button", name="Note on trial 1").press("Enter")
    page.get_by_label("Note on reading 1").press_sequentially("Cold hands, lz")
    file = tmp_path / "tip.jpg"
    file.write_bytes(made("JPEG", 320, 240))
    page.get_by_label("Photo").set_input_files(file)
    expect(page.get_by_role("img", name="Photo")).to_be_visible()
    page.get_by_role("button", name="Keep").press("Enter")
    notes = page.get_by_label("Notes").get_by_role("listitem")
    expect(notes).to_contain_text("1I, reading 1: Cold hands, lz")
    expect(page.get_by_role("button", name="Note", exact=True)).to_be_focused()
    expect(page.locator(".log li .number")).to_have_text(["1"])
    page.get_by_role("button", name="Change note: Cold hands, lz").click()
    page.get_by_label("Note", exact=True).fill("Warm hands")
    page.keyboard.press("Control+Enter")
    expect(notes).to_contain_text("Warm hands")
    expect(notes.get_by_role("img")).to_be_visible()
    page.get_by_role("link", name="History").click()
    expect(page.get_by_label("Notes").get_by_role("listitem")).to_contain_text(
        "1I, reading 1: Warm"
    )
    expect(page.locator("section ol")).to_contain_text("Note now: Warm hands; was: Cold hands, lz")
    page.get_by_role("button", name="Take away note: Warm hands").click()
    expect(page.locator("section ol")).to_contain_text("Note taken away: Warm hands")


def test_a_note_begun_waits_for_its_writer(page: Page, live: str, shop: Shop) -> None:
    """On its valve, and after the page was left or loaded anew; one kept or left is gone."""
    open_station(page, live, shop(gaps=False))
    first = page.url
    note = page.get_by_role("textbox", name="Note", exact=True)
    begin = page.get_by_role("button", name="Note", exact=True)
    begin.click()
    note.fill("Warm hands")
    page.get_by_role("link", name="Heads", exact=True).click()
    expect(note).to_have_count(0)
    page.go_back()
    expect(note).to_have_value("Warm hands")
    page.keyboard.press("v")
    expect(page).not_to_have_url(first)
    expect(begin).to_be_visible()
    page.goto(first)
    expect(note).to_have_value("Warm hands")
    note.press("Escape")
    begin.click()
    expect(note).to_have_value("Warm hands")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_label("Notes").get_by_role("listitem")).to_contain_text("Warm hands")
    page.get_by_role("button", name="Change note: Warm hands").click()
    note.fill("Cold hands")
    page.get_by_role("button", name="Leave it").click()
    page.reload()
    begin.click()
    expect(note).to_have_value("")


def test_a_struck_reading_counts_again_and_one_goes_to_its_valve(
    page: Page, live: str, shop: Shop, errors: list[str]
) -> None:
    build = shop(gaps=False)
    open_station(page, live, build)
    page.keyboard.press("+")
    page.keyboard.press("l")
    expect(page.locator(".log li .number")).to_have_text(["1"])
    page.keyboard.press("x")
    page.get_by_role("button", name="Misread").click()
    expect(page.locator(".log li.struck")).to_have_count(1)
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.get_by_role("button", name="Count trial 1 again").press("Enter")
    expect(page.locator(".log li.struck")).to_have_count(0)
    page.keyboard.press("x")
    page.get_by_label("The valve it belongs to").select_option("2E")
    expect(page.locator(".log li.struck")).to_contain_text("Belongs to 2E")
    page.goto(station_url(live, build, 3))
    expect(page.locator(".log li")).to_contain_text("6.8500 in")
    page.get_by_role("link", name="History").click()
    events = page.locator("section ol li")
    expect(events.first).to_contain_text("2E")
    expect(page.locator("section ol")).to_contain_text("Reading 1 counts again")


def test_the_last_change_is_taken_back(page: Page, live: str, shop: Shop) -> None:
    build = shop()
    url = f"{live}/api/builds/{build['id']}"
    change = {"version": build["version"], "preload_target_in": 0.08}
    web.patch(url, json=change, headers={"X-By": "Ada"}).raise_for_status()
    page.goto(f"{live}/builds/{build['id']}/history")
    first = page.locator("section ol li").first
    expect(first).to_contain_text("Preload target: 70 thou 80 thou")
    expect(first).to_contain_text("Ada")
    page.get_by_role("button", name="Take it back").press("Enter")
    expect(first).to_contain_text("Preload target: 80 thou 70 thou")
    assert web.get(url).json()["preload_target_in"] == pytest.approx(0.07)


@pytest.mark.parametrize("size", [(1280, 800), (390, 844)])
def test_the_first_reading_of_a_day_asks_once_who_reads(
    browser: Browser, live: str, shop: Shop, size: tuple[int, int]
) -> None:
    build = shop(gaps=False)
    for by in ("Ben", "Ada"):
        url = f"{live}/api/builds/{build['id']}/valves/{build['valves'][5]['id']}/trials"
        body = {"key": str(uuid4()), "setting": "10", "feel": "loose", "by": by}
        web.post(url, json=body).raise_for_status()
    context = browser.new_context(viewport={"width": size[0], "height": size[1]})
    page = context.new_page()
    open_station(page, live, build)
    page.evaluate(FORGET_WHO)
    page.get_by_role("button", name="Loose L").click()
    dialog = page.get_by_role("dialog", name="Who measures?")
    expect(dialog.get_by_role("button", name="Ada")).to_be_focused()
    dialog.get_by_role("button", name="Ben").click()
    expect(page.locator(".log li")).to_contain_text("Ben")
    page.get_by_role("button", name="Tight T").click()
    expect(page.locator(".log li .number")).to_have_text(["2", "1"])
    expect(page.get_by_role("button", name="Measured by Ben")).to_be_visible()
    page.evaluate(FORGET_WHO)
    page.get_by_role("button", name="Zero Z").click()
    dialog.get_by_role("button", name="No name").click()
    expect(page.locator(".log li .number")).to_have_text(["3", "2", "1"])
    page.evaluate(FORGET_WHO)
    page.get_by_role("button", name="Loose L").click()
    expect(dialog.get_by_role("button", name="Ada")).to_be_focused()
    page.keyboard.press("Escape")
    expect(page.locator(".log li .number")).to_have_text(["4", "3", "2", "1"])
    context.close()


def test_a_name_typed_while_a_known_one_has_the_focus_is_another(
    page: Page, live: str, shop: Shop
) -> None:
    build = shop(gaps=False)
    url = f"{live}/api/builds/{build['id']}/valves/{build['valves'][5]['id']}/trials"
    body = {"key": str(uuid4()), "setting": "10", "feel": "loose", "by": "Ada"}
    web.post(url, json=body).raise_for_status()
    open_station(page, live, build)
    page.evaluate(FORGET_WHO)
    page.get_by_role("button", name="Tight T").click()
    dialog = page.get_by_role("dialog", name="Who measures?")
    expect(dialog.get_by_role("button", name="Ada")).to_be_focused()
    page.keyboard.type("Ben")
    expect(dialog.get_by_role("textbox", name="Another name")).to_have_value("Ben")
    page.keyboard.press("Enter")
    expect(page.locator(".log li").first).to_contain_text("Ben")


def test_names_that_come_late_are_what_a_key_answers(page: Page, live: str, shop: Shop) -> None:
    """The dialog asks before the names are there; the first of them is where Enter goes then."""
    build = shop(gaps=False)
    url = f"{live}/api/builds/{build['id']}/valves/{build['valves'][5]['id']}/trials"
    body = {"key": str(uuid4()), "setting": "10", "feel": "loose", "by": "Ada"}
    web.post(url, json=body).raise_for_status()
    held: list[Route] | None = []

    def answer(route: Route) -> None:
        route.continue_() if held is None else held.append(route)

    page.route("**/api/people", answer)
    open_station(page, live, build)
    page.evaluate(FORGET_WHO)
    page.get_by_role("button", name="Loose L").click()
    dialog = page.get_by_role("dialog", name="Who measures?")
    expect(dialog.get_by_role("textbox", name="Another name")).to_be_focused()
    late, held = held, None
    for route in late:
        route.continue_()
    expect(dialog.get_by_role("button", name="Ada")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.locator(".log li")).to_contain_text("Ada")


def test_a_page_that_dies_while_it_asks_who_reads_has_kept_the_reading(
    page: Page, live: str, shop: Shop
) -> None:
    build = shop(gaps=False)
    open_station(page, live, build)
    page.evaluate(FORGET_WHO)
    page.get_by_role("button", name="Loose L").click()
    expect(page.get_by_role("dialog", name="Who measures?")).to_be_visible()
    assert web.get(f"{live}/api/builds/{build['id']}").json()["valves"][0]["readings"] == 0
    page.reload()
    expect(page.locator(".log li .number")).to_have_text(["1"])
    assert web.get(f"{live}/api/builds/{build['id']}").json()["valves"][0]["readings"] == 1


_COUNTED = """
  window.pressed = { clicks: 0, keys: 0 }
  addEventListener('click', (e) => { if (e.isTrusted) window.pressed.clicks += 1 }, true)
  addEventListener('keydown', (e) => { if (e.isTrusted) window.pressed.keys += 1 }, true)
"""


def test_a_new_build_is_nine_clicks_and_sixteen_keys_from_its_first_trial(
    page: Page, live: str, shop: Shop
) -> None:
    """The checking rod is known; the rest is asked where it first matters."""
    shop(name="An earlier one")
    page.add_init_script(_COUNTED)
    page.goto(live)
    page.get_by_role("button", name="New build").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_label("Name")).to_be_focused()
    page.keyboard.type("Barge six")
    dialog.get_by_role("button", name="Inline").click()
    dialog.get_by_role("button", name="6", exact=True).click()
    dialog.get_by_role("button", name="Rod B").click()
    dialog.get_by_role("button", name="Make the build").click()
    expect(page).to_have_url(re.compile("/zero_lash/"))
    pressed = page.evaluate("window.pressed")
    assert pressed["clicks"] <= 9
    assert pressed["keys"] <= 16
    expect(page.get_by_role("heading", name="Barge six")).to_be_visible()


def in_the_station(page: Page) -> None:
    """The focus is on something of the page's main part, and not nowhere."""
    expect(page.locator("main *:focus")).to_have_count(1)


def test_the_focus_goes_on_when_what_had_it_is_taken_away(
    page: Page, live: str, shop: Shop, errors: list[str]
) -> None:
    """By keyboard alone: struck, counted back, drafted; the next Tab goes on from there."""
    build = shop(gaps=False)
    open_station(page, live, build)
    page.keyboard.press("l")
    expect(page.locator(".log li .number")).to_have_text(["1"])
    page.keyboard.press("+")
    page.keyboard.press("l")
    expect(page.locator(".log li .number")).to_have_text(["2", "1"])
    page.get_by_role("button", name=re.compile("Strike out")).first.press("Enter")
    page.get_by_role("button", name="Misread").press("Enter")
    expect(page.locator(".log li.struck")).to_have_count(1)
    expect(page.get_by_role("dialog")).to_be_hidden()
    in_the_station(page)
    page.get_by_role("button", name=re.compile("Count trial . again")).press("Enter")
    expect(page.locator(".log li.struck")).to_have_count(0)
    in_the_station(page)
    page.keyboard.press("c")
    page.keyboard.type("1")
    page.keyboard.press("Enter")
    expect(page.get_by_text("the running count is right")).to_be_visible()
    expect(page.get_by_role("button", name="Count back to closed")).to_be_focused()


def test_a_build_made_by_keyboard_goes_on_at_its_station(page: Page, live: str, shop: Shop) -> None:
    """The next Tab leads into the station and not to the head of the page."""
    shop(name="An earlier one")
    page.goto(live)
    page.get_by_role("button", name="New build").press("Enter")
    expect(page.get_by_role("dialog").get_by_label("Name")).to_be_focused()
    page.keyboard.type("Barge six")
    page.get_by_role("dialog").get_by_role("button", name="Rod B").press("Enter")
    page.get_by_role("button", name="Make the build").press("Enter")
    expect(page).to_have_url(re.compile("/zero_lash/"))
    expect(page.get_by_role("textbox", name="Turns from closed")).to_be_visible()
    expect(page.locator("#station")).to_be_focused()
    page.keyboard.press("Tab")
    in_the_station(page)
