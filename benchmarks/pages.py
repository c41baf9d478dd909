"""How long a builder waits for a page: every station cold and warm, beside an empty page.

Times run from the request to the frame in which the station's own content is painted; cold with
nothing cached, warm with the program's files there. Layout shift is the sum of the browser's own
entries over a second. Ratios are to an empty page of the same server in the same run.
"""

import tempfile
from pathlib import Path
from typing import Any

import httpx
from playwright.sync_api import Browser, BrowserContext, Page, sync_playwright

from benchmarks.serving import (
    ASKED_TODAY,
    BROWSER,
    FRAMES,
    KEY_TO_CHANGE,
    Processor,
    p95,
    started,
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


def opened(context: BrowserContext, address: str, selector: str) -> tuple[float, float]:
    """Milliseconds until a page's content is painted, and its layout shift over a second."""
    page = context.new_page()
    page.add_init_script(ASKED_TODAY)
    page.add_init_script(f"({_PAINTED})({selector!r})")
    # Told by the page itself: a page that is asked again and again is slower by that.
    with page.expect_console_message(lambda told: told.text.startswith("painted")) as told:
        page.goto(address)
    painted = float(told.value.text.split()[1])
    page.wait_for_timeout(1000)
    moved = float(page.evaluate("window.moved"))
    page.close()
    return painted, moved


SIZE: Any = {"width": 1280, "height": 800}


def station_rows(
    browser: Browser, keeping: BrowserContext, url: str, build: dict[str, Any]
) -> list[list[str]]:
    """A row for each station: cold, warm, ratio to an empty page, layout shift.

    ``keeping`` is a browser with a profile on disk, as people have one.
    """
    empty = [opened(keeping, f"{url}/mark.svg", "svg")[0] for _ in range(TIMES)]
    rows = [["empty page", "", f"{p95(empty):.0f} ms", "1", "", ""]]
    valve = build["valves"][0]["id"]
    for station, selector in CONTENT.items():
        tail = f"/{valve}" if station in ("zero_lash", "rocker") else ""
        address = f"{url}/builds/{build['id']}/{station}{tail}"
        cold = []
        for _ in range(TIMES):
            fresh = browser.new_context(viewport=SIZE)
            cold.append(opened(fresh, address, selector)[0])
            fresh.close()
        warm = [opened(keeping, address, selector) for _ in range(TIMES)]
        times, moved = [w[0] for w in warm], max(w[1] for w in warm)
        rows.append([
            station, f"{p95(cold):.0f} ms", f"{p95(times):.0f} ms",
            f"{p95(times) / p95(empty):.1f}", f"{moved:.3f}",
            f"{WANTED_MS['cold']} / {WANTED_MS['warm']} ms, 0.02",
        ])  # fmt: skip
    return rows


def feel_to_verdict(page: Page, url: str, build: dict[str, Any]) -> list[float]:
    """Milliseconds from a feel's key to the frame that shows what the trials now say."""
    page.goto(f"{url}/builds/{build['id']}/zero_lash/{build['valves'][-1]['id']}")
    page.locator("svg[data-low]").wait_for()
    page.evaluate(KEY_TO_CHANGE, ".say")
    for n in range(TIMES):
        page.keyboard.press("ArrowRight")
        page.wait_for_timeout(100)
        page.evaluate("window.took = []") if n == 0 else None
        page.keyboard.press("l")
        page.wait_for_timeout(500)
    return [float(x) for x in page.evaluate("window.took")]


def frames_throttled(page: Page, url: str, build: dict[str, Any], slower: int) -> float:
    """Frames a second while the rocker plays on a processor so many times slower."""
    page.goto(f"{url}/builds/{build['id']}/rocker/{build['valves'][0]['id']}")
    page.locator(".arm-view").wait_for()
    page.wait_for_timeout(1000)
    page.context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": slower})
    page.keyboard.press(" ")
    return float(page.evaluate(FRAMES))


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
            print("station       cold p95   warm p95   x empty   shift   wanted")
            for row in station_rows(browser, keeping, url, build):
                print("  ".join(cell.ljust(9) for cell in row))
            print(processor.stolen())
            keeping.close()
            page = browser.new_page(viewport=SIZE)
            page.add_init_script(ASKED_TODAY)
            keyed = feel_to_verdict(page, url, fresh)
            print(f"feel key to verdict, p95 of {len(keyed)}: {p95(keyed):.0f} ms (60 wanted)")
            for slower, wanted in ((1, 60), (4, 50)):
                shown = frames_throttled(page, url, build, slower)
                print(f"rocker plays, processor {slower} x slower: {shown:.0f} a second ({wanted})")
            browser.close()


if __name__ == "__main__":
    main()
