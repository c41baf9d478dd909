"""Take docs/screenshots from a fresh demo shop: .venv/bin/python -m scripts.screenshots."""

import subprocess
import tempfile
from pathlib import Path

import httpx
from playwright.sync_api import Page, sync_playwright

from benchmarks.serving import BROWSER, ROOT, started

TARGET = ROOT / "docs" / "screenshots"
DESK = {"width": 1280, "height": 800}
TABLET = {"width": 820, "height": 1180}


def take(page: Page, url: str, name: str, *keys: str) -> None:
    """Open, press keys, and keep the picture once everything stands still."""
    page.goto(url)
    page.wait_for_load_state("networkidle")
    for key in keys:
        page.keyboard.press(key)
    page.wait_for_timeout(700)
    page.screenshot(path=TARGET / f"{name}.png")


def order_sheet(url: str) -> None:
    """The first page of the printed sheet as a picture."""
    with tempfile.NamedTemporaryFile(suffix=".pdf") as pdf:
        pdf.write(httpx.get(url, trust_env=False).content)
        pdf.flush()
        subprocess.run(
            ["pdftoppm", "-png", "-r", "80", "-singlefile", pdf.name, TARGET / "order-sheet"],
            check=True,
        )


def main() -> None:
    """Every main view, from demo data."""
    with tempfile.TemporaryDirectory(prefix="vivid-arm-shots-", dir="/var/tmp") as name:
        Path(name).chmod(0o755)
        with started(Path(name) / "data") as (url, _), sync_playwright() as playwright:
            builds = httpx.get(f"{url}/api/builds", trust_env=False).json()
            by_layout = {(b["layout"], b["cylinders"]): b for b in builds}
            v8, twin = by_layout["v", 8], by_layout["v", 2]
            flat, six = by_layout["flat", 4], by_layout["inline", 6]

            def station(build: dict, valve: int) -> str:  # type: ignore[type-arg]
                return f"{url}/builds/{build['id']}/zero-lash/{build['valves'][valve]['id']}"

            browser = playwright.chromium.launch(**BROWSER)  # type: ignore[arg-type]
            page = browser.new_page(viewport=DESK)  # type: ignore[arg-type]
            take(page, url, "board")
            take(page, f"{url}/builds/{flat['id']}/set-up", "set-up")
            take(page, station(v8, 1), "zero-lash")
            take(page, station(twin, 1), "contradiction")
            take(page, f"{url}/builds/{v8['id']}/order", "order")
            tablet = browser.new_page(viewport=TABLET, has_touch=True)  # type: ignore[arg-type]
            take(tablet, station(six, 1), "tablet")
            take(page, station(flat, 2), "caliper-dark", "d")
            order_sheet(f"{url}/api/builds/{v8['id']}/order.pdf")
            browser.close()


if __name__ == "__main__":
    main()
