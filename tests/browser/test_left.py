"""What is refused after the place it was entered in has been left: it stays in sight."""

import re
from collections.abc import Callable
from typing import Any
from uuid import uuid4

import pytest
from playwright.sync_api import Locator, Page, Route, expect

from tests.builders import first_held, open_station, page_settled, wait_for, web

Json = dict[str, Any]
Shop = Callable[..., Json]
NO = {"title": "No", "status": 422, "code": "no", "detail": "Not that one.", "context": {}}
TWO = {"layout": "single", "cylinders": 1}


class Held:
    """The first request of a kind waits until the test says what becomes of it; others with it."""

    def __init__(self, page: Page, url: str, method: str = "POST") -> None:
        self.page, self.method = page, method
        self.routes: list[Route] = []
        self.over = False
        page.route(url, self._hold)

    def _hold(self, route: Route) -> None:
        if route.request.method == self.method and not self.over:
            self.routes.append(route)
        else:
            route.continue_()

    def there(self) -> None:
        first_held(self.page, self.routes)

    def end(self, refused: bool = False) -> None:
        """The first goes on, or is refused; all others go on."""
        first = first_held(self.page, self.routes)
        self.over = True
        first.fulfill(status=422, json=NO) if refused else first.continue_()
        for route in self.routes[1:]:
            route.continue_()


def notice(page: Page, words: str) -> Locator:
    """What the header says is not kept, opened."""
    page.get_by_role("status").filter(has_text=words).click()
    return page.get_by_role("dialog", name="Not kept by the server yet")


def found_in(live: str, build: Json, check: str) -> dict[str, Json]:
    """The findings of a check, by valve."""
    checks = web.get(f"{live}/api/builds/{build['id']}/sign_off").json()["checks"]
    points = next(c["points"] for c in checks if c["name"] == check)
    return {p["valve"]: p for p in points}


def take_in_hand(page: Page, check: str) -> Locator:
    """A check by its name, and the field for a clearance."""
    page.get_by_role("button", name=re.compile(f"^{check}")).click()
    return page.get_by_role("textbox", name="Clearance")


def checking(page: Page, live: str, build: Json, check: str) -> Locator:
    page.goto(f"{live}/builds/{build['id']}/sign_off")
    return take_in_hand(page, check)


@pytest.mark.parametrize("gone", ["valve", "way", "page", "bench mode"])
def test_a_reading_refused_behind_the_builder_is_not_lost(
    page: Page, live: str, shop: Shop, gone: str
) -> None:
    """It waits in its valve's log and in the header, and is told nowhere else."""
    build = shop(gaps=False)
    open_station(page, live, build)
    here = page.url
    if gone == "bench mode":
        page.keyboard.press("w")
    held = Held(page, "**/trials")
    page.keyboard.press("+")
    page.keyboard.press("l")
    held.there()
    if gone == "valve":
        page.keyboard.press("v")
        expect(page).not_to_have_url(here)
    elif gone == "way":
        page.keyboard.press("m")
        expect(page.get_by_role("region", name="Set the rod")).to_have_count(0)
    elif gone == "page":
        page.get_by_role("link", name="Heads").click()
        expect(page.get_by_role("heading", name="Test build")).to_be_visible()
    else:
        page.keyboard.press("Escape")
    held.end(refused=True)
    said = notice(page, "1 reading refused")
    expect(said).to_contain_text("1, loose")
    expect(said).to_contain_text("Not that one.")
    expect(page.locator("#station [role=alert]")).to_have_count(0)
    said.get_by_role("button", name="Send again").click()
    expect(said).to_contain_text("Everything is kept.")
    page.goto(here)
    expect(page.locator(".log li .number")).to_have_text(["1"])


@pytest.mark.parametrize("way", ["bracket", "turns"])
def test_a_reading_stays_with_its_valve_when_the_next_is_asked_for(
    page: Page, live: str, shop: Shop, way: str
) -> None:
    """The turns are still being read as the hand goes on to the next valve."""
    build = shop(gaps=False, fastener_pitch_in=0.05)
    open_station(page, live, build)
    here = page.url
    held = Held(page, "**/api/compute/turns")
    if way == "turns":
        page.get_by_role("button", name="Turns", exact=True).click()
        page.get_by_label("Rod in place").fill("7.480")
        page.get_by_label("Turns, first drag to seated").fill("1 1/2")
        page.keyboard.press("Enter")
    else:
        page.get_by_role("textbox", name="Turns from closed").fill("9 1/2")
        page.keyboard.press("Enter")
        page.locator(".feel", has_text="Loose").first.click()
    held.there()
    with page.expect_response(re.compile("/(trials|measures)$")) as kept:
        page.get_by_role("navigation", name="Valves").get_by_role("link").nth(1).click()
        held.end()
    expect(page).not_to_have_url(here)
    assert build["valves"][0]["id"] in kept.value.url


def test_turns_refused_after_another_way_was_taken_are_told(
    page: Page, live: str, shop: Shop
) -> None:
    """The turns are still being read as another way is taken; then the reading is refused."""
    open_station(page, live, shop(gaps=False, fastener_pitch_in=0.05))
    page.route("**/measures", lambda route: route.fulfill(status=422, json=NO))
    held = Held(page, "**/api/compute/turns")
    page.get_by_role("button", name="Turns", exact=True).click()
    page.get_by_label("Rod in place").fill("7.480")
    page.get_by_label("Turns, first drag to seated").fill("1 1/2")
    page.keyboard.press("Enter")
    held.there()
    page.get_by_role("button", name="Indicator", exact=True).click()
    held.end()
    left = notice(page, "1 change not kept")
    expect(left).to_contain_text("Turns 1 1/2")
    expect(left).to_contain_text("Not that one.")


def test_an_expected_length_is_one_entry_and_its_refusal_is_seen(
    page: Page, live: str, shop: Shop
) -> None:
    """Enter and the field left at once, and then the valve left before the answer."""
    build = shop(gaps=False)
    open_station(page, live, build)
    here = page.url
    field = page.get_by_label(re.compile("^Expected length"))
    held = Held(page, "**/valves/*", "PATCH")
    field.fill("7.400")
    page.keyboard.press("Enter")
    page.keyboard.press("Tab")
    held.end()
    expect(page.get_by_text("Expected near 7.4000 in: the length entered")).to_be_visible()
    expect(page.get_by_role("alert")).to_have_count(0)
    assert len(held.routes) == 1
    again = Held(page, "**/valves/*", "PATCH")
    field.fill("7.300")
    page.keyboard.press("Enter")
    again.there()
    page.get_by_role("navigation", name="Valves").get_by_role("link").nth(1).click()
    expect(page).not_to_have_url(here)
    again.end(refused=True)
    said = notice(page, "1 change not kept")
    expect(said).to_contain_text("Not that one.")
    expect(said.get_by_role("link", name="Enter it again")).to_have_attribute(
        "href", here.removeprefix(live)
    )


def test_answers_as_fast_as_the_finger_go_from_valve_to_valve(
    page: Page, live: str, shop: Shop
) -> None:
    """Nobody waits for the server between two valves, and none gets another's answer."""
    build = shop(layout="inline", cylinders=2)
    checking(page, live, build, "Rod spins")
    held = Held(page, "**/findings")
    for key in "yyny":
        page.keyboard.press(key)
    expect(page.get_by_role("row", name=re.compile("^2E yes, saving…"))).to_be_visible()
    held.end()
    expect(page.get_by_role("row", name=re.compile("saving…"))).to_have_count(0)
    given = found_in(live, build, "spin")
    assert {v: p["yes"] for v, p in given.items()} == {
        "1I": True, "1E": True, "2I": False, "2E": True,
    }  # fmt: skip


def test_figures_as_fast_as_the_finger_go_from_valve_to_valve(
    page: Page, live: str, shop: Shop
) -> None:
    checking(page, live, shop(**TWO), "Spring coil clearance")
    held = Held(page, "**/findings")
    for text in ("0.070", "0.080"):
        page.get_by_role("textbox", name="Clearance").fill(text)
        page.keyboard.press("Enter")
    held.end()
    expect(page.get_by_role("row", name=re.compile("^1E 80 thou"))).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("^1I 70 thou"))).to_be_visible()


def test_a_finding_that_is_refused_comes_back_for_its_valve(
    page: Page, live: str, shop: Shop
) -> None:
    field = checking(page, live, shop(**TWO), "Spring coil clearance")
    field.fill("wide")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_have_count(1)
    expect(field).to_have_value("wide")
    expect(field).to_have_attribute("aria-invalid", "true")
    expect(page.locator(".ask .valve")).to_have_text("1I")
    field.fill("0.070")
    page.keyboard.press("Enter")
    expect(page.get_by_role("row", name=re.compile("^1I 70 thou"))).to_be_visible()
    expect(page.locator(".ask .valve")).to_have_text("1E")
    expect(page.get_by_role("alert")).to_have_count(0)


def test_a_finding_refused_while_the_next_is_typed_waits_in_sight(
    page: Page, live: str, shop: Shop
) -> None:
    """What is being typed for the next valve stays there, and stays its own."""
    field = checking(page, live, shop(**TWO), "Spring coil clearance")
    held = Held(page, "**/findings")
    field.fill("0.070")
    page.keyboard.press("Enter")
    field.fill("0.080")
    held.end(refused=True)
    expect(page.get_by_role("row", name=re.compile("^1I 0.070, Not that one."))).to_be_visible()
    expect(field).to_have_value("0.080")
    page.keyboard.press("Enter")
    expect(page.get_by_role("row", name=re.compile("^1E 80 thou"))).to_be_visible()
    said = notice(page, "1 reading refused")
    expect(said).to_contain_text("Spring coil clearance 1I: 0.070")
    said.get_by_role("button", name="Send again").click()
    expect(page.get_by_role("row", name=re.compile("^1I 70 thou"))).to_be_visible()


def test_a_check_stays_in_hand_when_its_limit_lets_it_pass(
    page: Page, live: str, shop: Shop
) -> None:
    """It was shown because it fails; with another limit it passes, and is shown all the same."""
    build = shop(**TWO)
    found: list[Json] = [
        {"name": "preload", "way": "indicator", "text": "0.070"},
        {"name": "spin", "way": "", "text": "", "yes": True},
        {"name": "mark_edge", "way": "", "text": "0.030"},
    ]
    for what in found:
        for valve in ("1I", "1E"):
            body = {"key": str(uuid4()), "valve": valve, "unit": "in", **what}
            url = f"{live}/api/builds/{build['id']}/findings"
            web.post(url, json=body).raise_for_status()
    page.goto(f"{live}/builds/{build['id']}/sign_off")
    heading = page.get_by_role("heading", name="Mark to the tip's edge")
    expect(heading).to_be_visible()
    for kind in ("intake", "exhaust"):
        page.get_by_label(f"Least, {kind}", exact=True).fill("0.020")
        page.keyboard.press("Enter")
    expect(page.get_by_role("cell", name="✓ passes")).to_have_count(2)
    expect(heading).to_be_visible()


def test_a_limit_stays_with_its_check_when_the_next_is_asked_for(
    page: Page, live: str, shop: Shop
) -> None:
    build = shop(**TWO)
    checking(page, live, build, "Spring coil clearance")
    held = Held(page, "**/api/compute/length")
    page.get_by_label("Least, intake", exact=True).fill("0.050")
    page.keyboard.press("Enter")
    held.there()
    take_in_hand(page, "Retainer to seal")
    with page.expect_response(lambda answer: answer.request.method == "PATCH") as kept:
        held.end()
    assert list(kept.value.json()["limits"]) == ["coil"]


def test_a_change_refused_after_its_page_was_left_is_told_on_every_page(
    page: Page, live: str, shop: Shop
) -> None:
    build = shop()
    setup = f"{live}/builds/{build['id']}/setup"
    page.goto(setup)
    held = Held(page, f"**/api/builds/{build['id']}", "PATCH")
    page.get_by_label("Plunger travel").fill("0.160")
    page.keyboard.press("Enter")
    held.there()
    page.get_by_role("link", name="Heads").click()
    expect(page).to_have_url(re.compile("/heads$"))
    held.end(refused=True)
    said = notice(page, "1 change not kept")
    expect(said).to_contain_text("Not that one.")
    said.get_by_role("link", name="Enter it again").click()
    expect(page).to_have_url(setup)
    expect(page.get_by_role("status").filter(has_text="not kept")).to_have_count(0)


@pytest.mark.parametrize("entered", ["change", "reading"])
def test_what_is_refused_under_the_press_that_leaves_is_not_lost(
    page: Page, live: str, shop: Shop, entered: str
) -> None:
    """The refusal is there while the finger is still on the link."""
    build = shop(gaps=False)
    if entered == "change":
        page.goto(f"{live}/builds/{build['id']}/setup")
        held = Held(page, f"**/api/builds/{build['id']}", "PATCH")
        page.get_by_label("Plunger travel", exact=True).fill("0.160")
    else:
        open_station(page, live, build)
        held = Held(page, "**/trials")
        page.keyboard.press("+")
        page.keyboard.press("l")
    page.get_by_role("link", name="Heads").hover()
    page.mouse.down()
    held.there()
    with page.expect_response(lambda answer: answer.status == 422):
        held.end(refused=True)
    page_settled(page)
    page.mouse.up()
    expect(page).to_have_url(re.compile("/heads$"))
    said = notice(page, "not kept" if entered == "change" else "1 reading refused")
    expect(said).to_contain_text("Not that one.")


def test_a_length_that_cannot_be_read_is_told_after_its_view_has_gone(
    page: Page, live: str, shop: Shop
) -> None:
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/decide")
    page.get_by_role("button", name="The rod", exact=True).click()
    held = Held(page, "**/api/compute/length")
    page.get_by_label("Rod tried, diameter", exact=True).fill("thick")
    page.keyboard.press("Tab")
    held.there()
    page.get_by_role("button", name="Hot engine", exact=True).click()
    expect(page.get_by_label("Rod tried, diameter", exact=True)).to_have_count(0)
    held.end()
    said = notice(page, "1 change not kept")
    expect(said).to_contain_text("Rod tried, diameter")
    expect(said).to_contain_text("“thick” is not a length")
    said.get_by_role("button", name="Discard").click()
    expect(said).to_contain_text("Everything is kept.")


def test_a_figure_that_is_none_is_told_after_its_view_has_gone(
    page: Page, live: str, shop: Shop
) -> None:
    page.goto(f"{live}/builds/{shop()['id']}/decide")
    page.get_by_role("button", name="The rod", exact=True).click()
    page.get_by_label("Spring force at full lift", exact=True).fill("strong")
    page.get_by_role("button", name="Hot engine", exact=True).click()
    expect(page.get_by_label("Spring force at full lift", exact=True)).to_have_count(0)
    said = notice(page, "1 change not kept")
    expect(said).to_contain_text("“strong” is not a figure")


@pytest.mark.parametrize("reads", [True, False])
def test_a_firing_order_is_read_before_its_page_is_left(
    page: Page, live: str, shop: Shop, reads: bool
) -> None:
    """What cannot be read keeps the page once, and stands there."""
    build = shop(layout="inline", cylinders=4)
    page.goto(f"{live}/builds/{build['id']}/setup")
    held = Held(page, "**/api/compute/firing-order")
    field = page.get_by_role("textbox", name="Firing order")
    field.fill("1-2-4-3" if reads else "1-2-x-3")
    page.get_by_role("link", name="Heads").click()
    held.end()
    if reads:
        expect(page).to_have_url(re.compile("/heads$"))
        address = f"{live}/api/builds/{build['id']}"
        wait_for(lambda: web.get(address).json()["engine"]["firing_order"] == [1, 2, 4, 3])
    else:
        expect(page.get_by_role("alert")).to_be_visible()
        expect(field).to_have_value("1-2-x-3")
