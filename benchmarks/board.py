"""Speed of board and head map with 2,000 builds of 16 valves and 10 readings each.

The application is really served on loopback; a request is timed from sending to
the whole answer. Every head map and station asked for is another build's.
"""

import subprocess
import sys
import tempfile
import time
from pathlib import Path
from random import Random

import httpx

from benchmarks.serving import ROOT, p95, started

BUILDS = 2000
ASKED = 200
WANTED_MS = 100


def timed(http: httpx.Client, path: str) -> float:
    """Milliseconds of one answered request."""
    start = time.perf_counter()
    http.get(path).raise_for_status()
    return (time.perf_counter() - start) * 1000


def table(builds: int = BUILDS) -> list[list[str]]:
    """Rows: what, median, 95th percentile, wanted."""
    rng = Random(3)
    with tempfile.TemporaryDirectory(prefix="vivid-arm-board-", dir="/var/tmp") as name:
        Path(name).chmod(0o755)
        data = Path(name) / "data"
        start = time.perf_counter()
        subprocess.run(
            [sys.executable, "-m", "vivid_arm", "seed", "--data", data, "--builds", str(builds)],
            check=True, cwd=ROOT, stdout=subprocess.DEVNULL,
        )  # fmt: skip
        seeded = time.perf_counter() - start
        with started(data) as (url, _), httpx.Client(base_url=url, trust_env=False) as http:
            pages = [rng.randrange(builds - 30) for _ in range(ASKED)]
            found = [
                build["id"]
                for offset in range(0, builds, 100)
                for build in http.get(f"/api/builds?offset={offset}&limit=100").json()["builds"]
            ]
            rng.shuffle(found)
            some, others = found[:ASKED], found[ASKED : 2 * ASKED]
            timings = {
                "board, first page": [timed(http, "/api/builds") for _ in range(ASKED)],
                "board, any page": [timed(http, f"/api/builds?offset={p}") for p in pages],
                "board, searched by name": [
                    timed(http, f"/api/builds?search=Quarry winch {p}") for p in pages
                ],
                "head map, another build each": [
                    timed(http, f"/api/builds/{b}/heads") for b in some
                ],
                "whole build, another each": [timed(http, f"/api/builds/{b}") for b in others],
            }
    rows = [
        [
            name,
            f"{sorted(times)[len(times) // 2]:.1f} ms",
            f"{p95(times):.1f} ms",
            f"{WANTED_MS} ms",
        ]
        for name, times in timings.items()
    ]
    return [*rows, [f"seeding {builds} builds with their summaries", f"{seeded:.0f} s", "", ""]]
