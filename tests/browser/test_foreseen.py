"""What a feel makes of the station stands there before the server has kept the reading."""

from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, Route, expect

from tests.builders import first_held, open_station

Shop = Callable[..., dict[str, Any]]
FRAMES = "() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))"


@pytest.fixture(autouse=True)
def unmoved(page: Page) -> None:
    """What is foreseen holds until something moves: nobody tells again that the build was made."""
    page.route("**/api/live**", lambda route: None)


def turn_on(page: Page, key: str, turns: str) -> None:
    """Turn the rod, and wait until the page has been told what its feels would give."""
    with page.expect_response(lambda told: f"ahead?turns={turns}" in told.url) as told:
        page.keyboard.press(key)
    told.value.finished()
    page.evaluate(FRAMES)


def loose_at_one_turn(page: Page) -> list[Route]:
    """Rod of 6.800 in, a turn of 0.050: longer than 6.850 before it is kept. The way is held up."""
    held: list[Route] = []
    page.route("**/trials", lambda route: held.append(route))
    turn_on(page, "+", "1")
    page.keyboard.press("l")
    expect(page.get_by_role("heading", name="Longer than 6.8500 in.")).to_be_visible()
    expect(page.locator(".log .unsent")).to_contain_text("saving")
    return held


def test_the_verdict_comes_before_the_answer(page: Page, live: str, shop: Shop) -> None:
    open_station(page, live, shop(gaps=False))
    held = loose_at_one_turn(page)
    expect(page.locator(".log li .number")).to_have_count(0)
    first_held(page, held).continue_()
    expect(page.locator(".log li .number")).to_have_text(["1"])
    expect(page.get_by_role("heading", name="Longer than 6.8500 in.")).to_be_visible()
    page.unroute("**/trials")
    turn_on(page, "+", "2")
    page.keyboard.press("t")
    expect(page.locator(".log li .number")).to_have_text(["2", "1"])


@pytest.mark.parametrize("refused", [True, False])
def test_a_verdict_whose_reading_is_not_kept_is_taken_back(
    page: Page, live: str, shop: Shop, refused: bool
) -> None:
    problem = {"title": "No", "status": 422, "code": "no", "detail": "Not that one.", "context": {}}
    open_station(page, live, shop(gaps=False))
    before = page.locator(".say h3, .say h2").first.inner_text()
    held = loose_at_one_turn(page)
    if refused:
        first_held(page, held).fulfill(status=422, json=problem)
    else:
        first_held(page, held).abort()
    sign = "Not that one." if refused else "1 reading waits for the server"
    expect(page.get_by_text(sign)).to_be_visible()
    expect(page.get_by_role("heading", name=before)).to_be_visible()
    expect(page.get_by_role("heading", name="Longer than 6.8500 in.")).to_have_count(0)


def test_nothing_is_foreseen_of_another_setting(page: Page, live: str, shop: Shop) -> None:
    """A rod turned on makes it another reading than the one asked about."""
    open_station(page, live, shop())
    page.route("**/trials", lambda route: None)
    turn_on(page, "+", "1")
    page.route("**/ahead**", lambda route: None)
    before = page.locator(".say h3, .say h2").first.inner_text()
    page.keyboard.press("+")
    page.keyboard.press("l")
    expect(page.locator(".log .unsent")).to_contain_text("2, loose")
    expect(page.get_by_role("heading", name=before)).to_be_visible()
