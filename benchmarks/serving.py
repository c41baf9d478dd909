"""Speed of the running application: start, a saved reading, key to paint, first view."""

import gzip
import os
import signal
import subprocess
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Generic, TypeVar
from uuid import uuid4

import httpx
import numpy as np
from playwright.sync_api import Page, sync_playwright
from sqlalchemy import make_url

from vivid_arm.records.cluster import free_port, owned_by_the_server, running_cluster, tool

ROOT = Path(__file__).parents[1]
BROWSER = {
    "executable_path": "/usr/bin/chromium",
    "args": [
        "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
        "--disable-background-networking", "--disable-component-update", "--disable-sync",
    ],
}  # fmt: skip

ASKED_TODAY = """try {
  localStorage.setItem('vivid-arm.asked', new Date().toDateString())
  localStorage.setItem('vivid-arm.kept', Date.now())
} catch {}"""
"""Run before any page: it has been asked today who measures, and is at work past midnight."""

# Seconds since navigation until the first build on the board has been painted.
_FIRST_VIEW = """() => {
  const seen = () => document.querySelector('.board li')
  const watch = new MutationObserver(() => {
    if (!seen()) return
    watch.disconnect()
    requestAnimationFrame(() => setTimeout(() => { window.usable = performance.now() }))
  })
  watch.observe(document, { subtree: true, childList: true })
}"""

# Milliseconds from a key going down to the frame after the ladder's change.
_KEY_TO_PAINT = """(part) => {
  window.took = []
  let down = 0
  addEventListener('keydown', (e) => { down = e.timeStamp }, true)
  const svg = document.querySelector('svg[data-low]')
  const state = () => part === 'rod'
    ? svg.querySelector('[data-part=rod]')?.dataset.length
    : svg.querySelectorAll('[data-peg]').length
  let before = state()
  new MutationObserver(() => {
    if (!down || state() === before) return
    before = state()
    const start = down
    down = 0
    requestAnimationFrame(() => setTimeout(() => window.took.push(performance.now() - start)))
  }).observe(svg, { subtree: true, childList: true, attributes: true })
}"""


# Milliseconds from a key going down to the frame after a change of what a selector names.
KEY_TO_CHANGE = """(selector) => {
  window.took = []
  let down = 0
  addEventListener('keydown', (e) => { down = e.timeStamp }, true)
  new MutationObserver(() => {
    if (!down) return
    const start = down
    down = 0
    requestAnimationFrame(() => setTimeout(() => window.took.push(performance.now() - start)))
  }).observe(document.querySelector(selector),
    { subtree: true, attributes: true, childList: true, characterData: true })
}"""

# Frames a second while the lift plays for two seconds.
FRAMES = """() => new Promise((done) => {
  let frames = 0
  const begun = performance.now()
  const seen = new Set()
  const tick = () => {
    const at = document.querySelector('.arm-view .contact').getAttribute('cy')
    if (!seen.has(at)) { seen.add(at); frames += 1 }
    if (performance.now() - begun < 2000) requestAnimationFrame(tick)
    else done(frames / (performance.now() - begun) * 1000)
  }
  requestAnimationFrame(tick)
})"""


# Until nothing has been answered for half a second, and nothing is waited for. The pages' live
# stream stays open, so that a network without connections never comes.
_QUIET = """() => new Promise((done) => {
  let answered = -1
  let since = performance.now()
  const look = () => {
    const now = performance.getEntriesByType('resource').length
    if (now !== answered || document.querySelector('.busy span')) since = performance.now()
    answered = now
    if (performance.now() - since > 500) done()
    else setTimeout(look, 50)
  }
  look()
})"""


class Processor:
    """What the machine took away while a benchmark ran: it may be shared."""

    def __init__(self) -> None:
        self._begun = self._ticks()

    @staticmethod
    def _ticks() -> np.ndarray:
        """Ticks since the start: user, nice, system, idle, wait, irq, softirq, stolen (proc(5))."""
        return np.array(Path("/proc/stat").read_text().split()[1:9], float)

    def lost(self) -> float:
        """The share of what was wanted of the processors that went to other machines."""
        ticks = self._ticks() - self._begun
        wanted = ticks.sum() - ticks[3] - ticks[4]
        return float(ticks[7] / max(wanted, 1))

    def stolen(self) -> str:
        """That share in words."""
        return f"of the processor wanted {self.lost():.0%} went to other machines"


MOST_LOST = 0.02
"""A machine is unloaded while no more of what was wanted of it went to others."""

Measured = TypeVar("Measured")


@dataclass
class Unloaded(Generic[Measured]):
    """What was measured while the machine was unloaded, and what while it was not."""

    here: list[Measured]
    loaded: list[Measured]

    @property
    def every(self) -> list[Measured]:
        return self.here + self.loaded


def unloaded(measure: Callable[[], tuple[Measured, float]], times: int) -> Unloaded[Measured]:
    """Measure until the machine was unloaded so many times; three times as often at the most.

    ``measure`` gives what it found and what share went to other machines meanwhile.
    """
    found: Unloaded[Measured] = Unloaded([], [])
    while len(found.here) < times and len(found.every) < 3 * times:
        value, lost = measure()
        (found.here if lost <= MOST_LOST else found.loaded).append(value)
    return found


def quiet(page: Page) -> None:
    """Wait until a page asks for nothing more."""
    page.evaluate(_QUIET)


@contextmanager
def started(folder: Path, *more: str, standins: bool = False) -> Iterator[tuple[str, float]]:
    """./start on a free port: its address, and seconds until it is healthy."""
    port = free_port()
    begun = time.perf_counter()
    process = subprocess.Popen(
        ["./start", "--port", str(port), "--data", str(folder), *more]
        + ([] if standins else ["--no-standins"]),
        cwd=ROOT,
        stdout=subprocess.DEVNULL,
        env={k: v for k, v in os.environ.items() if k != "DATABASE_URL"},
    )
    url = f"http://127.0.0.1:{port}"
    try:
        while True:
            try:
                httpx.get(f"{url}/api/health", trust_env=False).raise_for_status()
                break
            except httpx.HTTPError:
                time.sleep(0.02)
        yield url, time.perf_counter() - begun
    finally:
        process.send_signal(signal.SIGINT)
        process.wait()


@contextmanager
def streaming_replica(primary: str, data: Path) -> Iterator[str]:
    """A replica that follows a cluster, by PostgreSQL's own means; its owner's URL."""
    data.mkdir()
    tool("pg_basebackup", "-D", str(data / "postgres"), "-X", "stream", "-c", "fast", "-R",
         url=primary)  # fmt: skip
    (data / "postgres.password").write_text(make_url(primary).password or "")
    owned_by_the_server(data)
    (data / "postgres").chmod(0o700)
    with running_cluster(data) as url:
        yield url


def p95(values: list[float]) -> float:
    return float(np.percentile(values, 95))


def saved_readings(url: str, count: int = 300) -> list[float]:
    """Milliseconds for each of ``count`` trials, spread over a V8's valves."""
    took = []
    with httpx.Client(base_url=url, trust_env=False) as http:
        rod = next(r for r in http.get("/api/instruments").json() if r["kind"] == "checking_rod")
        body = {"id": str(uuid4()), "name": "Benchmark", "instrument_id": rod["id"]}
        build = http.post("/api/builds", json=body).json()
        for n in range(count):
            valve = build["valves"][n % 16]["id"]
            trial = {
                "key": str(uuid4()), "setting": str(9 + n % 8 / 8), "feel": "loose",
                "gap": f"{0.120 - n % 8 * 0.01:.3f}",
            }  # fmt: skip
            begun = time.perf_counter()
            http.post(
                f"/api/builds/{build['id']}/valves/{valve}/trials", json=trial
            ).raise_for_status()
            took.append((time.perf_counter() - begun) * 1000)
    return took


def key_to_paint(page: Page, url: str, presses: int = 60) -> tuple[list[float], list[float]]:
    """Milliseconds from key to paint: turning the rod, and a trial with its answer."""
    with httpx.Client(base_url=url, trust_env=False) as http:
        rod = next(r for r in http.get("/api/instruments").json() if r["kind"] == "checking_rod")
        body = {"id": str(uuid4()), "name": "Keys", "instrument_id": rod["id"], "gaps": False}
        build = http.post("/api/builds", json=body).json()
    page.goto(f"{url}/builds/{build['id']}/zero_lash/{build['valves'][0]['id']}")
    page.get_by_text("No reading yet.").wait_for()
    results = []
    for part, key in (("rod", "ArrowRight"), ("peg", "l")):
        page.evaluate(_KEY_TO_PAINT, part)
        for n in range(presses if part == "rod" else 20):
            page.keyboard.press(key)
            page.wait_for_timeout(300 if part == "peg" else 60)
            if n and page.evaluate("window.took.length") <= n - 3:
                raise RuntimeError("a key press was not painted")
        results.append([float(x) for x in page.evaluate("window.took")])
        page.reload()
        page.locator("svg[data-low]").wait_for()
    return results[0], results[1]


def rocker_rows(page: Page, url: str) -> list[list[str]]:
    """The batch over HTTP, key to painted arm view, and frames while it plays."""
    with httpx.Client(base_url=url, trust_env=False) as http:
        board = http.get("/api/builds", params={"search": "Towpath"}).json()["builds"]
        build = http.get(f"/api/builds/{board[0]['id']}").json()
        place = f"{build['id']}/valves/{build['valves'][0]['id']}"
        batches = []
        for _ in range(61):
            begun = time.perf_counter()
            http.get(f"/api/builds/{place}/rocker/motion").raise_for_status()
            batches.append((time.perf_counter() - begun) * 1000)
    batches = batches[1:]
    address = f"{url}/builds/{build['id']}/rocker/{build['valves'][0]['id']}"
    said = f"{np.median(batches):.0f} / {p95(batches):.0f} ms"
    rows = [["batch of 81 settings × 61 lifts, median / p95", said, "40 ms"]]
    for name, keys in (("lift", ("ArrowRight", "ArrowLeft")), ("rod", ("+", "-"))):
        page.goto(address)
        page.locator(".arm-view").wait_for()
        page.evaluate(KEY_TO_CHANGE, ".arm-view")
        for n in range(60):
            page.keyboard.press(keys[n // 3 % 2])
            page.wait_for_timeout(60)
        found = [float(x) for x in page.evaluate("window.took")]
        painted = f"{p95(found):.1f} ms"
        rows.append([f"key to painted arm view, {name}, p95 of {len(found)}", painted, "50 ms"])
    page.keyboard.press(" ")
    rows.append(["frames a second while the lift plays", f"{page.evaluate(FRAMES):.0f}", "60"])
    return rows


# Milliseconds of each frame while a practice engine's crank turns for two seconds.
_CRANK_FRAMES = """() => new Promise((done) => {
  const slider = document.querySelector('.practice input[type=range]')
  const took = []
  const begun = performance.now()
  let last = begun
  const tick = (now) => {
    took.push(now - last)
    last = now
    slider.value = String(Math.round((now - begun) / 3) % 720)
    slider.dispatchEvent(new Event('input', { bubbles: true }))
    if (now - begun < 2000) requestAnimationFrame(tick)
    else done(took.slice(2))
  }
  requestAnimationFrame(tick)
})"""


def practice_rows(page: Page, url: str) -> list[list[str]]:
    """A practice engine: its start, an answer of its bench, frames while its crank turns."""
    starts, answers = [], []
    with httpx.Client(base_url=url, trust_env=False, timeout=30) as http:
        for seed in range(20):
            body = {"id": str(uuid4()), "scenario": "comeback", "seed": seed}
            begun = time.perf_counter()
            made = http.post("/api/practice", json=body).raise_for_status().json()
            starts.append((time.perf_counter() - begun) * 1000)
        for n in range(200):
            how = {"name": "feel"} if n else {"name": "fit", "how": {"valve": "1I"}}
            begun = time.perf_counter()
            http.post(
                f"/api/practice/{made['id']}/deeds", json={"key": str(uuid4())} | how
            ).raise_for_status()
            answers.append((time.perf_counter() - begun) * 1000)
    page.goto(f"{url}/builds/{made['build_id']}/base_circle")
    page.locator(".practice .train").wait_for()
    page.wait_for_timeout(500)
    frames = [float(x) for x in page.evaluate(_CRANK_FRAMES)]
    return [
        ["practice engine of 16 valves started, p95 of 20", f"{p95(starts):.0f} ms", "1000 ms"],
        ["answer of hand or tool, p95 of 200", f"{p95(answers):.0f} ms", "50 ms"],
        ["frame while the crank turns, p95", f"{p95(frames):.1f} ms", "20 ms"],
    ]


def first_views(url: str, count: int = 10) -> list[float]:
    """Milliseconds from the request of the board to its first build painted, empty cache."""
    took = []
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(**BROWSER)  # type: ignore[arg-type]
        for _ in range(count):
            context = browser.new_context(viewport={"width": 1280, "height": 800})
            page = context.new_page()
            page.add_init_script(ASKED_TODAY)
            page.add_init_script(f"({_FIRST_VIEW})()")
            page.goto(url)
            while not page.evaluate("window.usable || 0"):
                page.wait_for_timeout(20)
            took.append(float(page.evaluate("window.usable")))
            context.close()
        browser.close()
    return took


def initial_script_kb(url: str) -> tuple[float, float]:
    """Gzipped kB of JavaScript that the board loads, and of all JavaScript there is."""
    asked: list[str] = []
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(**BROWSER)  # type: ignore[arg-type]
        page = browser.new_page()
        page.add_init_script(ASKED_TODAY)
        page.on("request", lambda r: asked.append(r.url) if r.url.endswith(".js") else None)
        page.goto(url)
        quiet(page)
        browser.close()
    assets = ROOT / "frontend" / "dist" / "assets"
    sizes = {f.name: len(gzip.compress(f.read_bytes())) / 1000 for f in assets.glob("*.js")}
    return sum(sizes[name.rsplit("/", 1)[1]] for name in set(asked)), sum(sizes.values())


def table() -> list[list[str]]:
    """Rows: what, measured, wanted."""
    with tempfile.TemporaryDirectory(prefix="vivid-arm-bench-", dir="/var/tmp") as name:
        Path(name).chmod(0o755)
        data = Path(name) / "data"
        with started(data):
            pass
        starts = []
        for _ in range(3):
            with started(data) as (url, seconds):
                starts.append(seconds)
        with started(data) as (url, _):
            readings = saved_readings(url)
            views = first_views(url)
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(**BROWSER)  # type: ignore[arg-type]
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                page.add_init_script(ASKED_TODAY)
                turns, trials = key_to_paint(page, url)
                rocker = rocker_rows(page, url)
                practice = practice_rows(page, url)
                browser.close()
            initial, everything = initial_script_kb(url)
    fast = f"{p95(turns):.1f} ms"
    saved = f"{p95(trials):.1f} ms"
    return [
        ["warm ./start to healthy, worst of 3", f"{max(starts):.2f} s", "5 s"],
        [f"reading saved and answered, p95 of {len(readings)}", f"{p95(readings):.1f} ms", "30 ms"],
        [f"key to painted ladder, rod turned, p95 of {len(turns)}", fast, "50 ms"],
        [f"key to painted ladder, trial felt, p95 of {len(trials)}", saved, "50 ms"],
        [f"first view usable, worst of {len(views)}", f"{max(views):.0f} ms", "1000 ms"],
        ["JavaScript of the first view, gzipped", f"{initial:.0f} kB", "250 kB"],
        ["JavaScript of all pages, gzipped", f"{everything:.0f} kB", ""],
        *rocker,
        *practice,
    ]  # fmt: skip
