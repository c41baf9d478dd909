"""Chromium from Debian's package on the really served application."""

from collections.abc import Callable, Generator, Iterator
from contextlib import suppress
from typing import Any
from uuid import uuid4
from weakref import WeakKeyDictionary

import httpx
import pytest
from playwright.sync_api import Browser, BrowserContext, Page, Response, expect
from playwright.sync_api import Error as PlaywrightError

from benchmarks.serving import ASKED_TODAY

expect.set_options(timeout=30000)


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, Any]:
    return {
        "executable_path": "/usr/bin/chromium",
        "args": [
            "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
            "--disable-background-networking", "--disable-component-update", "--disable-sync",
        ],
    }  # fmt: skip


heard_of: WeakKeyDictionary[BrowserContext, list[str]] = WeakKeyDictionary()
"""What went wrong in a browser, told where its test fails."""


def _listen(context: BrowserContext) -> list[str]:
    heard: list[str] = []
    context.on("console", lambda line: heard.append(f"{line.type}: {line.text}"))
    context.on("weberror", lambda thrown: heard.append(f"thrown: {thrown.error}"))
    context.on("requestfailed", lambda asked: heard.append(f"{asked.failure}: {asked.url}"))
    context.on("response", lambda answer: _hear(answer, heard))
    return heard


def _hear(answer: Response, heard: list[str]) -> None:
    if answer.status >= 400 or answer.request.method != "GET":
        heard.append(f"{answer.status}: {answer.request.method} {answer.url}")


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(
    item: pytest.Item, call: pytest.CallInfo[None]
) -> Generator[None, pytest.TestReport, pytest.TestReport]:
    """A failure tells what its pages showed: it may not come again."""
    report = yield
    context = getattr(item, "funcargs", {}).get("context")
    if report.failed and call.when == "call" and context:
        for page in context.pages:
            shown = "it does not answer"
            with suppress(PlaywrightError):
                shown = page.locator("body").inner_text(timeout=2000)[:3000]
            report.sections.append((page.url, shown))
        heard = heard_of.get(context, [])
        report.sections.append(("heard in the browser", "\n".join(heard[-40:])))
    return report


@pytest.fixture(scope="session")
def browser(browser: Browser) -> Browser:
    """Every browser of the tests has been asked today who measures."""
    made = browser.new_context

    def asked(**how: Any) -> BrowserContext:
        context = made(**how)
        context.add_init_script(ASKED_TODAY)
        heard_of[context] = _listen(context)
        return context

    browser.new_context = asked  # type: ignore[method-assign, assignment]
    return browser


@pytest.fixture
def errors(page: Page) -> Iterator[list[str]]:
    """What the page throws; a test that uses it fails when there is any."""
    found: list[str] = []
    page.on("pageerror", lambda error: found.append(str(error)))
    yield found
    assert found == []


@pytest.fixture
def shop(live: str) -> Callable[..., dict[str, Any]]:
    """A build with a checking rod, made through the interface."""

    def make(**settings: Any) -> dict[str, Any]:
        with httpx.Client(base_url=live, trust_env=False, timeout=30) as http:
            rod = {
                "id": str(uuid4()), "kind": "checking_rod", "name": "Rod B", "closed_in": 6.8,
                "pitch_in": 0.05, "most_turns": 20.0,
            }  # fmt: skip
            caliper = {
                "id": str(uuid4()), "kind": "caliper", "name": "Caliper", "low_in": 0.0,
                "high_in": 12.0,
            }  # fmt: skip
            for body in (rod, caliper):
                http.post("/api/instruments", json=body).raise_for_status()
            chosen = caliper if settings.pop("caliper", False) else rod
            body = {
                "id": str(uuid4()), "name": "Test build", "instrument_id": chosen["id"],
                "preload_low_in": 0.05, "preload_high_in": 0.1, "preload_target_in": 0.07,
                "travel_in": 0.2,
            }  # fmt: skip
            answer = http.post("/api/builds", json=body | settings)
            answer.raise_for_status()
            found: dict[str, Any] = answer.json()
            return found

    return make
