"""How long a reading on one screen takes to stand on another, from the key to the painted line.

    .venv/bin/python -m benchmarks.screens

Two browsers on two processes of one shop show the same valve; both clocks are this machine's.
"""

import tempfile
from pathlib import Path
from uuid import uuid4

import httpx
from playwright.sync_api import Page, sync_playwright

from benchmarks.serving import ASKED_TODAY, BROWSER, p95, quiet, started

TIMES = 30
WANTED_MS = 300

_DOWN = """() => addEventListener('keydown',
  () => (window.down = performance.timeOrigin + performance.now()), true)"""
# When the frame with a further line of the log has been painted.
_SEEN = """() => {
  const lines = () => document.querySelectorAll('.log li .number').length
  let before = lines()
  window.seen = 0
  new MutationObserver(() => {
    if (lines() === before) return
    before = lines()
    requestAnimationFrame(() => setTimeout(
      () => (window.seen = performance.timeOrigin + performance.now())))
  }).observe(document.querySelector('main'), { subtree: true, childList: true })
}"""


def station(url: str) -> str:
    """The address of a fresh valve, measured without gaps."""
    with httpx.Client(base_url=url, trust_env=False, timeout=30) as http:
        rod = next(r for r in http.get("/api/instruments").json() if r["kind"] == "checking_rod")
        body = {"id": str(uuid4()), "name": "Screens", "instrument_id": rod["id"], "gaps": False}
        build = http.post("/api/builds", json=body).json()
        return f"{url}/builds/{build['id']}/zero_lash/{build['valves'][0]['id']}"


def told_after(hand: Page, wall: Page) -> float:
    """Milliseconds from a key on one screen to the line on the other."""
    wall.evaluate("window.seen = 0")
    hand.keyboard.press("l")
    wall.wait_for_function("() => window.seen > 0")
    return float(wall.evaluate("window.seen")) - float(hand.evaluate("window.down"))


def main() -> None:
    """Print the median and the 95th percentile beside what is wanted."""
    with (
        tempfile.TemporaryDirectory() as folder,
        started(Path(folder), "--workers", "2") as (url, _),
        sync_playwright() as playwright,
    ):
        browsers = [playwright.chromium.launch(**BROWSER) for _ in range(2)]  # type: ignore[arg-type]
        hand, wall = (browser.new_page() for browser in browsers)
        address = station(url)
        for page in (hand, wall):
            page.add_init_script(ASKED_TODAY)
            page.goto(address)
            page.get_by_text("No reading yet.").wait_for()
            quiet(page)
        hand.evaluate(_DOWN)
        wall.evaluate(_SEEN)
        took = sorted(told_after(hand, wall) for _ in range(TIMES))
        print(f"{took[TIMES // 2]:.0f} ms, p95 {p95(took):.0f} ms of {TIMES}; wanted {WANTED_MS}")


if __name__ == "__main__":
    main()
