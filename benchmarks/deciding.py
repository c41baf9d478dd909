"""Deciding, papers and the gauge: grouping, the decide page, PDFs, line to screen."""

import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from statistics import median
from typing import Any
from uuid import uuid4

import httpx
import numpy as np
from playwright.sync_api import sync_playwright

from benchmarks.geometry import took
from benchmarks.serving import ASKED_TODAY, BROWSER, ROOT, p95
from vivid_arm.core.rods.decide import Aim, ValveKnown, decide
from vivid_arm.core.rods.grouping import Need, fewest_lengths
from vivid_arm.core.rods.growth import starting_stack
from vivid_arm.core.rods.preload import Lifter
from vivid_arm.records.cluster import free_port

LIFTER = Lifter(0.020, 0.060, 0.040, 0.140)

# Date.now() of the frame after the gauge's value has changed to what is looked for.
_LINE_TO_PAINT = """(wanted) => new Promise((done) => {
  const cell = document.querySelector('[data-gauge-value=indicator]')
  const look = () => cell.textContent.trim() === wanted
  const watch = new MutationObserver(() => {
    if (!look()) return
    watch.disconnect()
    requestAnimationFrame(() => setTimeout(() => done(Date.now())))
  })
  watch.observe(cell, { subtree: true, characterData: true, childList: true })
})"""


def _grouping() -> list[float]:
    """32 valves and 80 lengths, the whole answer with what more lengths would gain."""
    rng = np.random.default_rng(5)
    needs = [
        Need(f"{i}I", "intake", z + 0.02, z + 0.06, z + 0.04)
        for i, z in enumerate(7.4 + rng.uniform(-0.15, 0.15, 32))
    ]
    lengths = [7.2 + 0.006 * k for k in range(80)]
    return took(lambda: fewest_lengths(needs, lengths, "longer"), 100)


def _deciding() -> list[float]:
    """Everything the decide page asks of the core for 32 valves, 10,000 engines drawn."""
    rng = np.random.default_rng(6)
    valves = [
        ValveKnown(
            f"{i // 2 + 1}{'IE'[i % 2]}", ("intake", "exhaust")[i % 2], 7.4 + z, 0.002, 1.6, 0.1
        )
        for i, z in enumerate(rng.uniform(-0.02, 0.02, 32))
    ]
    aim = Aim("length", LIFTER, {}, 0.0556, False)
    stack = starting_stack("aluminium", "aluminium")

    def run() -> Any:
        found = decide(aim, valves, 0.005, "longer", "fewest", stack=stack)
        return found.rows, found.ways, found.remedies, found.fewest

    return took(run, 40)


def _v16(http: httpx.Client) -> str:
    """A V16 with all 32 valves measured, every check made; its address."""
    rod = {"id": str(uuid4()), "kind": "checking_rod", "name": "Rod", "closed_in": 7.15,
           "pitch_in": 0.05, "most_turns": 20.0}  # fmt: skip
    http.post("/api/instruments", json=rod).raise_for_status()
    body = {"id": str(uuid4()), "name": "Test V16", "layout": "v", "cylinders": 16,
            "instrument_id": rod["id"], "preload_low_in": 0.02, "preload_high_in": 0.06,
            "plan": {"strategy": "fewest", "block": "aluminium", "head": "aluminium"}}  # fmt: skip
    build = http.post("/api/builds", json=body).raise_for_status().json()
    url = f"/api/builds/{build['id']}"
    for i, valve in enumerate(build["valves"]):
        trial = {"key": str(uuid4()), "setting": f"{11 + (i % 4) / 8}", "feel": "zero", "by": "T"}
        http.post(f"{url}/valves/{valve['id']}/trials", json=trial).raise_for_status()
    for check in http.get(f"{url}/sign_off").json()["checks"]:
        for point in check["points"]:
            found: dict[str, Any] = {"yes": True} if check["yes_no"] else {"text": "0.12"}
            if check["ways"][0] and not check["yes_no"]:
                found["way"] = check["ways"][0]
                found["text"] = "0.5" if check["name"] == "preload" else "0.12"
            http.post(f"{url}/findings", json={"key": str(uuid4()), "name": check["name"],
                      "valve": point["valve"]} | found).raise_for_status()  # fmt: skip
    return url


def _asked(http: httpx.Client, path: str, times: int) -> list[float]:
    return took(lambda: http.get(path).raise_for_status(), times)


def _gauge(url: str, page_url: str, port: int) -> list[float]:
    """Milliseconds from a line leaving the gauge to its value painted."""
    found = []
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(**BROWSER)  # type: ignore[arg-type]
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.add_init_script(ASKED_TODAY)
        page.goto(f"{url}{page_url}")
        page.get_by_role("button", name="Spring coil clearance").click()
        page.locator("[data-gauge-value=indicator]").wait_for()
        with socket.create_connection(("127.0.0.1", port)) as cable:
            for k in range(40):
                value = 0.1 + k / 1000
                page.evaluate(f"window.seen = ({_LINE_TO_PAINT})('{value:.4f} in'); undefined")
                sent = time.time() * 1000
                cable.sendall(f"move indicator {value}\n".encode())
                found.append(page.evaluate("window.seen") - sent)
        browser.close()
    return found


@contextmanager
def _served(folder: Path) -> Iterator[tuple[str, int]]:
    """The application in a process of its own: its address, and the gauge's port."""
    port = free_port()
    command = [sys.executable, "-m", "vivid_arm", "serve", "--no-demo", "--port", str(port)]
    process = subprocess.Popen(
        [*command, "--data", str(folder)], cwd=ROOT, stdout=subprocess.PIPE, text=True
    )
    assert process.stdout is not None
    try:
        cable = 0
        for line in process.stdout:
            if line.startswith("Indicator"):
                cable = int(line.rsplit(":", 1)[1])
            if line.startswith("Vivid Arm"):
                break
        url = f"http://127.0.0.1:{port}"
        while True:
            with suppress(httpx.HTTPError):
                httpx.get(f"{url}/api/health", trust_env=False).raise_for_status()
                break
            time.sleep(0.05)
        yield url, cable
    finally:
        process.send_signal(signal.SIGINT)
        process.wait()


def table() -> list[list[str]]:
    """Rows of what was measured."""
    grouping, deciding = _grouping(), _deciding()
    with tempfile.TemporaryDirectory(prefix="vivid-arm-bench-", dir="/var/tmp") as name:
        Path(name).chmod(0o755)
        with _served(Path(name) / "data") as (url, cable):
            http = httpx.Client(base_url=url, trust_env=False, timeout=30)
            build = _v16(http)
            page = _asked(http, f"{build}/decide", 30)
            order = _asked(http, f"{build}/order.pdf", 5)
            report = _asked(http, f"{build}/report.pdf", 5)
            gauge = _gauge(url, build.replace("/api", "") + "/sign_off", cable)
    return [
        ["fewest lengths, 32 valves × 80 lengths, median", f"{median(grouping):.1f} ms", "10 ms"],
        ["decided with 10,000 engines drawn, core, median", f"{median(deciding):.1f} ms", "50 ms"],
        ["decide page of a V16 over HTTP, median", f"{median(page):.0f} ms", "50 ms"],
        ["the same, 95 %", f"{p95(page):.0f} ms", ""],
        ["order PDF, V16, median", f"{median(order) / 1000:.2f} s", "1.5 s"],
        ["report PDF, V16 with every check, median", f"{median(report) / 1000:.2f} s", "4 s"],
        ["gauge: line to painted value, 95 %", f"{p95(gauge):.0f} ms", "100 ms"],
    ]


if __name__ == "__main__":
    for row in table():
        print("  ".join(cell.ljust(52) for cell in row))
