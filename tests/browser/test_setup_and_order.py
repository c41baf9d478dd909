"""The set-up with mistakes in it, and the order page."""

import re
import time
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, Route, expect

from tests.builders import first_held, open_station, settle_by_web, station_url, web

Shop = Callable[..., dict[str, Any]]


def kept(live: str, build: dict[str, Any]) -> dict[str, Any]:
    answer = web.get(f"{live}/api/builds/{build['id']}")
    found: dict[str, Any] = answer.json()
    return found


def expect_kept(
    page: Page, live: str, build: dict[str, Any], read: Callable[[dict[str, Any]], Any], wanted: Any
) -> None:
    """Within 30 s the build is kept so."""
    until = time.monotonic() + 30
    while (found := read(kept(live, build))) != wanted and time.monotonic() < until:
        page.wait_for_timeout(50)
    assert found == wanted


def window(build: dict[str, Any]) -> list[float]:
    """Least, aim and most preload."""
    return [build[f"preload_{name}_in"] for name in ("low", "target", "high")]


def type_into(page: Page, label: str, text: str) -> None:
    page.get_by_label(label, exact=True).fill(text)
    page.keyboard.press("Enter")


@pytest.mark.parametrize(
    ("label", "text", "words"),
    [
        ("Plunger travel", "70", "Plunger travel 70 thou is not more than the most preload"),
        ("Plunger travel", "wide", "“wide” is not a length"),
        ("Plunger travel", "", "Plunger travel is empty"),
        ("Plunger travel", "0.09", "The plunger would bottom"),
        ("Least preload", "0.12", "runs backwards"),
        ("Aim", "0.2", "Preload target 200 thou is outside the window"),
        ("Rocker ratio, intake", "16", "Rocker ratio: 16 is outside 1 to 2.5"),
        ("Rocker ratio, intake", "big", "“big” is not a figure"),
        ("Or another step", "0.7", "Stock step: 0.7 in is outside"),
        ("Name", "", None),
    ],
)
def test_a_mistake_stays_as_typed_and_nothing_is_kept(
    page: Page, live: str, shop: Shop, label: str, text: str, words: str | None
) -> None:
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/setup")
    expect(page.get_by_label("Plunger travel")).to_have_value("0.2000")
    type_into(page, label, text)
    if words:
        expect(page.get_by_role("alert").first).to_contain_text(words)
        expect(page.get_by_label(label, exact=True)).to_have_value(text)
    page.get_by_role("heading", name="Rod").click()
    assert kept(live, build)["version"] == build["version"]


def test_two_mistakes_are_both_shown_and_mended(page: Page, live: str, shop: Shop) -> None:
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/setup")
    type_into(page, "Rocker ratio, exhaust", "17")
    type_into(page, "Most preload", "0.3")
    expect(page.get_by_role("alert")).to_have_count(2)
    type_into(page, "Rocker ratio, exhaust", "1.7")
    expect(page.get_by_role("alert")).to_have_count(1)
    type_into(page, "Most preload", "90 thou")
    expect(page.get_by_role("alert")).to_have_count(0)
    expect(page.get_by_text("90 thou", exact=True)).to_be_visible()
    both = (1.7, 0.09)
    expect_kept(page, live, build, lambda b: (b["ratio_exhaust"], b["preload_high_in"]), both)


def test_a_window_is_changed_figure_by_figure_through_an_impossible_state(
    page: Page, live: str, shop: Shop
) -> None:
    """From 50..100 to 20..40: the middle states are refused, the last one keeps all."""
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/setup")
    type_into(page, "Most preload", "40 thou")
    expect(page.get_by_role("alert")).to_be_visible()
    type_into(page, "Least preload", "20 thou")
    expect(page.get_by_role("alert")).to_be_visible()
    type_into(page, "Aim", "30 thou")
    expect(page.get_by_role("alert")).to_be_hidden()
    expect_kept(page, live, build, window, [0.02, 0.03, 0.04])


def test_figures_typed_faster_than_they_are_answered_are_all_kept(
    page: Page, live: str, shop: Shop
) -> None:
    """Four fields in one go while every answer takes its time; then away to another page."""
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/setup")
    expect(page.get_by_label("Plunger travel")).to_have_value("0.2000")

    def slowly(route: Route) -> None:
        time.sleep(0.2)
        route.continue_()

    page.route(f"**/api/builds/{build['id']}", slowly)
    for label, text in (
        ("Most preload", "90 thou"),
        ("Aim", "60 thou"),
        ("Plunger travel", "180 thou"),
        ("Least preload", "40 thou"),
    ):
        page.get_by_label(label, exact=True).fill(text)
        page.keyboard.press("Tab")
    page.get_by_role("link", name="Find zero lash").click()
    expect(page.get_by_text("No reading yet.")).to_be_visible()
    page.get_by_role("link", name="Order").click()
    expect_kept(page, live, build, lambda b: (*window(b), b["travel_in"]), (0.04, 0.06, 0.09, 0.18))


def test_a_figure_typed_as_the_page_is_left_is_kept(page: Page, live: str, shop: Shop) -> None:
    """A reload, a closed tab: what was entered was entered."""
    for ratio in (1.51, 1.52, 1.53, 1.54, 1.55):
        build = shop()
        page.goto(f"{live}/builds/{build['id']}/setup")
        page.get_by_label("Rocker ratio, intake").fill(str(ratio))
        # Away in the same breath: no time for an answer.
        page.keyboard.press("Enter")
        page.evaluate("location.href = 'about:blank'")
        # Else the next page may be asked for while this one is still being left, and never comes.
        page.wait_for_url("about:blank")
        expect_kept(page, live, build, lambda b: b["ratio_intake"], ratio)


def test_a_length_that_is_being_read_as_the_page_is_left_is_asked_about(
    page: Page, live: str, shop: Shop
) -> None:
    """No Enter, and away: the browser asks, and by then the length is kept."""
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/setup")
    held: list[Route] = []
    page.route("**/api/compute/length", lambda route: held.append(route))
    page.get_by_label("Plunger travel").click()
    page.keyboard.press("Control+a")
    page.keyboard.type("0.18")
    with page.expect_event("dialog") as asked:
        page.evaluate("setTimeout(() => { location.href = 'about:blank' })")
    assert asked.value.type == "beforeunload"
    asked.value.dismiss()
    first_held(page, held).continue_()
    expect_kept(page, live, build, lambda b: b["travel_in"], 0.18)


def test_a_habit_of_the_trade_fills_the_window(page: Page, live: str, shop: Shop) -> None:
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/setup")
    type_into(page, "Aim", "75 thou")
    school = page.get_by_role("combobox", name="Preload school")
    names = school.locator("option").all_inner_texts()
    school.focus()
    for _ in range(1 + next(i for i, name in enumerate(names) if "Tie-bar" in name)):
        page.keyboard.press("ArrowDown")
    # Going through the list keeps nothing of what is passed over.
    expect(page.get_by_label("Aim", exact=True)).to_have_value("75 thou")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Aim", exact=True)).to_have_value("0.0500")
    expect(page.get_by_label("Least preload")).to_have_value("0.0400")
    expect(school).to_have_value(re.compile("^(?!maker|turns)"))
    told = web.get(f"{live}/api/builds/{build['id']}/history").text
    assert "Preload school" in told
    assert "urns of the fastener" not in told


def test_a_corrected_closed_length_moves_the_trials(page: Page, live: str, shop: Shop) -> None:
    build = shop()
    open_station(page, live, build)
    page.keyboard.press("r")
    page.keyboard.type("10")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Zero Z").click()
    expect(page.get_by_role("heading", name="About 7.3000 in so far.")).to_be_visible()
    # Foreseen, it stands there before it is kept.
    expect(page.locator(".log li .number")).to_have_text(["1"])
    page.goto(f"{live}/builds/{build['id']}/setup")
    page.get_by_role("button", name="Correct…").click()
    type_into(page, "Closed length (maker's figure)", "6.300")
    page.get_by_role("button", name="Keep the correction").click()
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.goto(station_url(live, build))
    expect(page.get_by_role("heading", name="About 6.8000 in so far.")).to_be_visible()
    expect(page.locator(".log li")).to_contain_text("worked out again")
    page.locator(".log").get_by_role("button", name=re.compile("6.8000 in")).click()
    expect(page.get_by_text("6.3000 in + 10 × 0.05 in = 6.8000 in")).to_be_visible()


def test_a_figure_that_is_still_being_read_is_kept_by_the_button_pressed_next(
    page: Page, live: str, shop: Shop
) -> None:
    """The correction waits for the length that the server has not read yet."""
    build = shop()
    held: list[Route] = []
    page.route("**/api/compute/length", lambda route: held.append(route))
    page.goto(f"{live}/builds/{build['id']}/setup")
    page.get_by_role("button", name="Correct…").click()
    page.get_by_label("Closed length (maker's figure)").fill("6.300")
    with page.expect_request("**/api/compute/length"):
        page.get_by_role("button", name="Keep the correction").click()
    expect(page.get_by_role("dialog")).to_be_visible()
    first_held(page, held).continue_()
    expect(page.get_by_role("dialog")).to_be_hidden()
    assert web.get(f"{live}/api/builds/{build['id']}").json()["instrument"]["closed_in"] == 6.3


def test_a_build_needs_a_name(page: Page, live: str) -> None:
    page.goto(live)
    page.get_by_role("button", name="New build").click()
    page.get_by_role("button", name="Make the build").click()
    expect(page.get_by_role("alert")).to_contain_text("Name is empty")
    page.get_by_label("Name", exact=True).fill("Single")
    page.get_by_role("button", name="Single", exact=True).click()
    expect(page.get_by_role("group", name="Cylinders").get_by_role("button")).to_have_count(1)
    page.get_by_role("button", name="Make the build").click()
    expect(page.get_by_role("heading", name="Measured with")).to_be_visible()
    expect(page.get_by_text("Choose what measures it to go on.")).to_be_visible()


def test_another_length_is_picked_and_given_back(page: Page, live: str, shop: Shop) -> None:
    build = shop(cylinders=4)
    for valve, turns in ((0, "10 3/4"), (1, "11")):
        settle_by_web(live, build, build["valves"][valve], turns)
    page.goto(f"{live}/builds/{build['id']}/decide")
    chosen = page.get_by_role("row", name=re.compile("Intake and exhaust"))
    expect(chosen).to_contain_text("4 × 7.4000, 4 × 7.4250")
    page.get_by_role("button", name="On the ladder").click()
    strip = page.locator(".notch.best text")
    intake = page.get_by_role("group", name="intake lengths")
    intake.get_by_role("button", name=re.compile("^7.4500")).click()
    expect(strip.first).to_have_text("7.4500")
    said = page.get_by_role("region", name="intake").get_by_role("alert")
    expect(said).to_contain_text("7.4500 in is outside the window")
    page.reload()
    page.get_by_role("button", name="On the ladder").click()
    expect(strip.first).to_have_text("7.4500")
    page.get_by_role("button", name="Back to the nearest that fits").click()
    expect(strip.first).to_have_text("7.4000")
    expect(said).to_be_hidden()
    page.get_by_role("region", name="intake").get_by_role(
        "button", name=re.compile("^Preload")
    ).click()
    expect(
        page.get_by_text("7.4000 in − 7.3375 in = 62.5 thou").locator("visible=true")
    ).to_be_visible()


def test_order_waits_for_zero_lash(page: Page, live: str, shop: Shop) -> None:
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/order")
    expect(page.get_by_text("Nothing to order yet: find zero lash first.")).to_be_visible()
    expect(page.get_by_role("link", name="CSV")).to_be_hidden()
    page.get_by_role("link", name="Decide").click()
    page.get_by_role("region", name="exhaust").get_by_role("link", name="Measure").click()
    expect(page.get_by_text("Cylinder 1 exhaust")).to_be_visible()


def test_an_address_that_leads_nowhere_is_said(page: Page, live: str) -> None:
    page.goto(f"{live}/builds/00000000-0000-4000-8000-000000000000/order")
    expect(page.get_by_role("alert")).to_contain_text("There is no such build.")
    page.goto(f"{live}/nowhere")
    expect(page.get_by_role("heading", name="Builds")).to_be_visible()


@pytest.mark.parametrize(
    ("label", "text", "words"),
    [
        ("Firing order", "1-8-4-3-6-5-7-7", "7 twice; 2 missing"),
        ("Firing order", "18436572", "The dashes are missing: use 1-8-4-3-6-5-7-2?"),
        ("Valves front to rear, left bank", "EIIEEIII", "not one I and one E"),
        ("Bank angle", "270", "Bank angle: 270° is outside"),
        ("Bank angle", "wide", "“wide” is not a figure"),
    ],
)
def test_an_engine_that_cannot_be_is_refused_beside_its_field(
    page: Page, live: str, shop: Shop, label: str, text: str, words: str
) -> None:
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/setup")
    field = page.get_by_label(label, exact=True)
    field.fill(text)
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text(words)
    expect(field).to_have_value(text)
    assert kept(live, build)["engine"] == build["engine"]


def test_odd_firing_is_entered_as_its_intervals(page: Page, live: str, shop: Shop) -> None:
    build = shop(layout="v", cylinders=4)
    page.goto(f"{live}/builds/{build['id']}/setup")
    page.get_by_role("button", name="Odd", exact=True).click()
    field = page.get_by_label("Crank degrees from each firing to the next, 720 in all")
    field.fill("150 210 150 200")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("add up to 710°, not to 720°")
    field.fill("150 210 150 210")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_have_count(0)
    expect_kept(page, live, build, lambda b: b["engine"]["intervals_deg"], [150, 210, 150, 210])


def test_a_cam_card_is_kept_once_it_is_whole(page: Page, live: str, shop: Shop) -> None:
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/setup")
    lobe = page.get_by_role("group", name="intake lobe")
    for label, text in (
        ("Advertised duration", "290"), ("Duration at 0.050", "230"), ("Lobe lift", ".353"),
    ):  # fmt: skip
        lobe.get_by_label(label, exact=True).fill(text)
        page.keyboard.press("Enter")
    page.get_by_role("button", name="Exhaust as intake").click()
    expect(page.get_by_text("2 figures still to enter")).to_be_visible()
    assert kept(live, build)["cam"] is None
    page.get_by_label("Intake lobe centre (ICL)").fill("106")
    page.keyboard.press("Enter")
    page.get_by_label("Lobe separation (LSA)").fill("240")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text(
        "Lobe separation: 240° is outside 85° to 130°"
    )
    page.get_by_label("Lobe separation (LSA)").fill("110")
    page.keyboard.press("Enter")
    expect(page.get_by_role("img", name="Lobe lift over the crank")).to_be_visible()
    card = kept(live, build)["cam"]
    assert (card["icl_deg"], card["lsa_deg"]) == (106, 110)
    assert card["exhaust"]["lobe_lift_in"] == 0.353


def test_solid_lifters_ask_for_lash_and_choose_no_rod(page: Page, live: str, shop: Shop) -> None:
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/setup")
    page.get_by_role("button", name="Solid", exact=True).click()
    page.get_by_label("Lash, intake").fill("18 thou")
    page.keyboard.press("Enter")
    expect(page.get_by_text("18 thou", exact=True)).to_be_visible()
    expect(page.get_by_label("Plunger travel")).to_have_count(0)
    page.goto(f"{live}/builds/{build['id']}/decide")
    expect(page.get_by_text("Solid lifters: no preload on the intake side.")).to_be_visible()
    assert kept(live, build)["lash_intake_in"] == 0.018


def test_a_new_build_is_set_up_like_an_earlier_one(
    page: Page, live: str, shop: Callable[..., dict[str, Any]]
) -> None:
    """A name and a pattern, and the first trial is at hand."""
    build = shop(name="Towpath engine", layout="inline", cylinders=4, ratio_intake=1.7)
    page.goto(live)
    page.get_by_role("button", name="New build").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill("Its sister")
    dialog.get_by_label("Set up like").select_option("Towpath engine")
    expect(dialog.get_by_text("Cylinders")).to_be_hidden()
    dialog.get_by_role("button", name="Make the build").click()
    expect(page).to_have_url(re.compile("/zero_lash/"))
    expect(page.get_by_role("heading", name="Its sister")).to_be_visible()
    new = page.url.split("/builds/")[1].split("/")[0]
    made = web.get(f"{live}/api/builds/{new}").json()
    assert (made["cylinders"], made["ratio_intake"]) == (4, 1.7)
    assert new != build["id"]


def test_any_earlier_build_is_found_as_a_pattern(
    page: Page, live: str, shop: Callable[..., dict[str, Any]]
) -> None:
    """Of more builds than a list holds it is looked for by name, in the archive too."""
    shop(name="Ferry engine")
    away = shop(name="Quarry engine", cylinders=6)
    web.post(f"{live}/api/builds/{away['id']}/archive").raise_for_status()
    asked: list[str] = []

    def of_a_large_shop(route: Route) -> None:
        asked.append(route.request.url)
        told = route.fetch()
        route.fulfill(response=told, json=told.json() | {"total": 150})

    page.route("**/api/builds?*", of_a_large_shop)
    page.goto(live)
    expect(page.get_by_role("link", name="Ferry engine", exact=True)).to_be_visible()
    pages = [url for url in asked if "limit=30" in url]
    assert asked == pages, "patterns are asked for when a build is to be made"
    page.get_by_role("button", name="New build").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill("The next")
    dialog.get_by_label("Look for a build").fill("no such")
    expect(dialog.get_by_text("No build is like that.")).to_be_visible()
    dialog.get_by_label("Look for a build").fill("quarry")
    chosen = dialog.get_by_label("Set up like").locator("option:checked")
    expect(chosen).to_have_text("Quarry engine, in the archive")
    page.keyboard.press("Enter")
    dialog.get_by_role("button", name="Make the build").click()
    expect(page.get_by_role("heading", name="The next")).to_be_visible()
    new = page.url.split("/builds/")[1].split("/")[0]
    assert kept(live, {"id": new})["cylinders"] == 6
