"""Two people on two devices, over TLS: let in by codes, named by themselves, shut out."""

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, Route, expect
from sqlalchemy import Engine

from tests.builders import first_held, wait_for
from tests.standins import serving
from vivid_arm.api.app import make_app
from vivid_arm.demo import shop
from vivid_arm.records import accounts, database
from vivid_arm.tls import own_certificate

pytestmark = pytest.mark.slow
PHONE: Any = {"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}
BENCH: Any = {"viewport": {"width": 1280, "height": 800}}
Opened = Callable[[Any], Page]


@pytest.fixture
def over_tls(working: str, empty: Engine, scratch: Path) -> Iterator[str]:
    """A shop with accounts and the demo's builds, served over TLS."""
    with database.sessions(empty).begin() as session:
        shop.load(session)
    own = own_certificate(scratch / "certificate", ["127.0.0.1"])
    with serving(make_app(working, people=True), own) as url:
        yield url


@pytest.fixture
def opened(browser: Browser) -> Iterator[Opened]:
    contexts = []

    def one(size: Any) -> Page:
        contexts.append(browser.new_context(ignore_https_errors=True, **size))
        return contexts[-1].new_page()

    yield one
    for context in contexts:
        context.close()


def by_code(page: Page, code: str, password: str) -> None:
    page.get_by_label("Code").fill(code)
    page.get_by_label("Password", exact=True).fill(password)
    page.get_by_label("The same again").fill(password)
    page.get_by_role("button", name="Set it and go in").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_role("heading", name="Builds")).to_be_visible()


def test_a_refusal_older_than_the_sign_in_shuts_nobody_out(
    over_tls: str, opened: Opened, empty: Engine
) -> None:
    """What was asked before, on a slow line, is refused after somebody has come in."""
    with database.sessions(empty).begin() as session:
        code = accounts.first_code(session) or ""
    office = opened(BENCH)
    asked: list[Route] = []
    office.route("**/api/builds?**", lambda route: asked.append(route))
    # The board asks before it is known whether anybody is signed in.
    who: list[Route] = []
    office.route("**/api/me", lambda route: who.append(route))
    office.goto(over_tls)
    wait_for(lambda: office.evaluate("true") and len(asked) == 1)
    office.unroute("**/api/me")
    for route in who:
        route.continue_()
    office.get_by_label("Name").fill("Orla")
    office.get_by_label("Code").fill(code)
    office.get_by_label("Password", exact=True).fill("three words apart")
    office.get_by_label("The same again").fill("three words apart")
    office.get_by_role("button", name="Set it and go in").click()
    expect(office.get_by_role("link", name="Signed in as Orla")).to_be_visible()
    wait_for(lambda: office.evaluate("true") and len(asked) > 1)
    with office.expect_response(lambda answer: answer.status == 401):
        asked[0].fulfill(status=401, json={"detail": "Sign in first."})
    for route in asked[1:]:
        route.continue_()
    expect(office.get_by_text("Courier van")).to_be_visible()
    expect(office.get_by_role("link", name="Signed in as Orla")).to_be_visible()
    expect(office.get_by_role("dialog")).to_have_count(0)


def test_an_owner_lets_an_apprentice_in_who_measures_and_does_not_sign(
    over_tls: str, opened: Opened, empty: Engine
) -> None:
    with database.sessions(empty).begin() as session:
        code = accounts.first_code(session) or ""
    office, phone = opened(BENCH), opened(PHONE)
    office.goto(over_tls)
    office.get_by_label("Name").fill("Orla")
    by_code(office, code, "three words apart")
    kept = office.context.cookies()
    (cookie,) = [c for c in kept if c.get("name") not in ("vivid-arm-language", "vivid-arm-unit")]
    assert (cookie["name"], cookie["secure"], cookie["httpOnly"], cookie["sameSite"]) == (
        "__Host-vivid-arm", True, True, "Strict",
    )  # fmt: skip
    office.get_by_role("link", name="Signed in as Orla").click()
    people = office.get_by_role("list", name="Accounts").get_by_role("listitem")
    office.get_by_label("Somebody new").fill("Jory")
    role = office.get_by_role("combobox", name="Role", exact=True)
    role.select_option("Apprentice: measures; neither orders nor signs")
    office.get_by_role("button", name="Add").click()
    told = office.locator(".code b")
    expect(told).to_be_visible()

    phone.goto(over_tls)
    phone.get_by_role("button", name="I have a code").click()
    by_code(phone, told.inner_text(), "other words again")
    phone.locator("li", has_text="Courier van").get_by_role("link", name="Measure").click()
    log = phone.get_by_role("list", name="Readings")
    phone.get_by_role("textbox", name="Turns from closed").fill("9")
    phone.locator(".feel", has_text="Loose").first.click()
    expect(log).to_contain_text("Jory")

    build = phone.url.split("/")[4]
    phone.goto(f"{over_tls}/builds/{build}/order")
    phone.get_by_role("button", name="Draft").first.click()
    expect(phone.get_by_role("alert").first).to_contain_text("An apprentice does not order")

    # Shut out while a reading is under way: it waits, and is kept once he is let in again.
    phone.go_back()
    under_way: list[Route] = []
    phone.route("**/trials", lambda route: under_way.append(route))
    phone.get_by_role("textbox", name="Turns from closed").fill("9 1/2")
    with phone.expect_request("**/trials"):
        phone.locator(".feel", has_text="Loose").first.click()
    office.reload()
    jory = people.filter(has_text="Jory")
    jory.get_by_role("button", name="Sign out").click()
    expect(jory).to_contain_text("Signed in nowhere")
    first_held(phone, under_way).continue_()
    phone.unroute("**/trials")
    expect(phone.get_by_role("dialog", name="Sign in")).to_be_visible()
    phone.get_by_label("Name").fill("jory")
    phone.get_by_label("Password").fill("not the words")
    phone.get_by_role("button", name="Sign in").click()
    expect(phone.get_by_text("Name and password do not go together.")).to_be_visible()
    phone.get_by_label("Password").fill("other words again")
    phone.get_by_role("button", name="Sign in").click()
    expect(log).to_contain_text("9 1/2", timeout=30_000)
    expect(log).to_contain_text("Jory")
