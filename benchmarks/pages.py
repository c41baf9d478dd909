"""How long a builder waits for a page: every station cold and warm, beside an empty page.

Times run from the request to the frame in which the station's own content is painted; cold with
nothing cached, warm with the program's files there. Layout shift is the sum of the browser's own
entries over a second. Ratios are to an empty page of the same server in the same run. The figures
are of an unloaded machine: what was measured while other machines took the processor is measured
again, and counted.
"""

import tempfile
import time
from collections.abc import Iterator
from contextlib import closing
from functools import partial
from itertools import chain
from pathlib import Path
from typing import Any

import httpx
from playwright.sync_api import Browser, BrowserContext, Page, sync_playwright

from benchmarks.serving import (
    ASKED_TODAY,
    BROWSER,
    FRAMES,
    KEY_TO_CHANGE,
    MOST_LOST,
    Processor,
    Unloaded,
    p95,
    started,
    unloaded,
)

TIMES = 20
CONTENT = {
    "setup": ".setup", "base_circle": ".base svg", "zero_lash": "svg[data-low]",
    "rocker": ".arm-view", "heads": ".drawing svg", "decide": "#station h2, #station section",
    "order": "#station h2, #station section", "sign_off": "#station h2, #station section",
    "history": "#station h2, #station li",
}  # fmt: skip
"""What a station has painted when it is there."""
WANTED_MS = {"cold": 1200, "warm": 600}

# When the first thing that fits a selector has been painted, and how far things moved.
_PAINTED = """(selector) => {
  window.moved = 0
  new PerformanceObserver((list) => {
    for (const e of list.getEntries()) if (!e.hadRecentInput) window.moved += e.value
  }).observe({ type: 'layout-shift', buffered: true })
  const look = () => {
    if (!document.querySelector(selector)) return requestAnimationFrame(look)
    requestAnimationFrame(() => setTimeout(() => console.log('painted', performance.now())))
  }
  look()
}"""


def opened(
    context: BrowserContext, address: str, selector: str, moves: list[float] | None = None
) -> tuple[float, float]:
    """Milliseconds until a page's content is painted, and the share that was lost until then.

    ``moves``, where there is one, takes up its layout shift over a second.
    """
    page = context.new_page()
    page.add_init_script(ASKED_TODAY)
    page.add_init_script(f"({_PAINTED})({selector!r})")
    processor = Processor()
    # Told by the page itself: a page that is asked again and again is slower by that.
    with page.expect_console_message(lambda told: told.text.startswith("painted")) as told:
        page.goto(address)
    painted, lost = float(told.value.text.split()[1]), processor.lost()
    if moves is not None:
        page.wait_for_timeout(1000)
        moves.append(float(page.evaluate("window.moved")))
    page.close()
    return painted, lost


SIZE: Any = {"width": 1280, "height": 800}


def opened_cold(browser: Browser, address: str, selector: str) -> tuple[float, float]:
    """The same in a browser that was never here."""
    with closing(browser.new_context(viewport=SIZE)) as fresh:
        return opened(fresh, address, selector)


def p95s(found: Unloaded[float]) -> str:
    """The 95th percentile in words; that of all beside it where the machine had been loaded."""
    if len(found.here) < TIMES:
        return f"{len(found.here)} unloaded; all {p95(found.every):.0f} ms"
    more = f" ({len(found.loaded)}: {p95(found.every):.0f})" if found.loaded else ""
    return f"{p95(found.here):.0f} ms{more}"


def station_rows(
    browser: Browser, keeping: BrowserContext, url: str, build: dict[str, Any]
) -> Iterator[list[str]]:
    """A row for each station: cold, warm, ratio to an empty page, layout shift.

    ``keeping`` is a browser with a profile on disk, as people have one.
    """
    empty = unloaded(lambda: opened(keeping, f"{url}/mark.svg", "svg"), TIMES)
    yield ["empty page", "", p95s(empty), "1", "", ""]
    valve = build["valves"][0]["id"]
    for station, selector in CONTENT.items():
        tail = f"/{valve}" if station in ("zero_lash", "rocker") else ""
        address = f"{url}/builds/{build['id']}/{station}{tail}"
        cold = unloaded(partial(opened_cold, browser, address, selector), TIMES)
        moves: list[float] = []
        warm = unloaded(partial(opened, keeping, address, selector, moves), TIMES)
        yield [
            station, p95s(cold), p95s(warm), f"{p95(warm.every) / p95(empty.every):.1f}",
            f"{max(moves):.3f}", f"{WANTED_MS['cold']} / {WANTED_MS['warm']} ms, 0.02",
        ]  # fmt: skip


def feel_to_verdict(page: Page, url: str, build: dict[str, Any]) -> Unloaded[float]:
    """Milliseconds from a feel's key to the frame that shows what the trials now say."""
    page.goto(f"{url}/builds/{build['id']}/zero_lash/{build['valves'][-1]['id']}")
    page.locator("svg[data-low]").wait_for()
    page.evaluate(KEY_TO_CHANGE, ".say")

    def felt() -> tuple[float, float]:
        page.keyboard.press("ArrowRight")
        page.wait_for_timeout(100)
        page.evaluate("window.took = []")
        processor = Processor()
        page.keyboard.press("l")
        # Asked from outside: the page's policy lets nothing be evaluated within it.
        begun = time.monotonic()
        while not page.evaluate("window.took.length"):
            page.wait_for_timeout(50)
            if time.monotonic() - begun > 30:
                raise RuntimeError("a key press was not painted")
        lost = processor.lost()
        page.wait_for_timeout(500)
        return float(page.evaluate("window.took[0]")), lost

    return unloaded(felt, TIMES)


def frames_throttled(page: Page, url: str, build: dict[str, Any], slower: int) -> Unloaded[float]:
    """Frames a second while the rocker plays on a processor so many times slower."""
    page.goto(f"{url}/builds/{build['id']}/rocker/{build['valves'][0]['id']}")
    page.locator(".arm-view").wait_for()
    page.wait_for_timeout(1000)
    page.context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": slower})
    page.keyboard.press(" ")

    def seen() -> tuple[float, float]:
        processor = Processor()
        return float(page.evaluate(FRAMES)), processor.lost()

    return unloaded(seen, 3)


def main() -> None:
    """Print the stations' table, key to verdict, and the frames of the rocker."""
    with tempfile.TemporaryDirectory(prefix="vivid-arm-pages-", dir="/var/tmp") as name:
        Path(name).chmod(0o755)
        with started(Path(name) / "data") as (url, _), sync_playwright() as playwright:
            with httpx.Client(base_url=url, trust_env=False, timeout=30) as http:
                found = http.get("/api/builds", params={"search": "Towpath"}).json()["builds"]
                build = http.get(f"/api/builds/{found[0]['id']}").json()
                rod = build["instrument"]["id"]
                body = {"name": "Keys", "instrument_id": rod, "gaps": False}
                fresh = http.post(
                    "/api/builds", json=body | {"id": "7e0c2f64-55f0-4b1e-8f2a-0a4c64f8f001"}
                ).json()
            browser = playwright.chromium.launch(**BROWSER)  # type: ignore[arg-type]
            keeping = playwright.chromium.launch_persistent_context(
                Path(name) / "profile",
                viewport=SIZE,
                **BROWSER,  # type: ignore[arg-type]
            )
            processor = Processor()
            print(f"unloaded: at most {MOST_LOST:.0%} of what was wanted went to other machines")
            print("p95 of 20 unloaded (how many more were made: p95 of all)")
            heads = ["station", "cold", "warm", "x empty", "shift", "wanted"]
            for row in chain([heads], station_rows(browser, keeping, url, build)):
                widths = (12, 22, 22, 9, 7, 0)
                print(
                    "".join(said.ljust(w) for said, w in zip(row, widths, strict=True)), flush=True
                )
            print(processor.stolen())
            keeping.close()
            page = browser.new_page(viewport=SIZE)
            page.add_init_script(ASKED_TODAY)
            keyed = feel_to_verdict(page, url, fresh)
            print(f"feel key to verdict, p95: {p95s(keyed)} (60 ms wanted)")
            for slower, wanted in ((1, 60), (4, 50)):
                shown = frames_throttled(page, url, build, slower)
                told = f"{min(shown.every):.0f} a second at the least"
                if shown.here:
                    told = f"{min(shown.here):.0f} a second unloaded, {told}"
                print(f"rocker plays, processor {slower} x slower: {told} ({wanted} wanted)")
            browser.close()


if __name__ == "__main__":
    main()
