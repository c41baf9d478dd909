"""How long the papers of a build take: a finished one of the demo, and one that was thrown at.

    .venv/bin/python -m benchmarks.papers

Each paper is asked for once, after a reading that changed the build: nothing is kept of it.
"""

import tempfile
import time
from pathlib import Path
from uuid import uuid4

import httpx

from benchmarks.serving import saved_readings, started

PAPERS = ("report.pdf", "cut-list.pdf")
READINGS, MARKS = 480, 96


def thrown_at(url: str, http: httpx.Client) -> str:
    """A V8 with hundreds of readings and marks, every check answered; its id."""
    saved_readings(url, READINGS)
    found = http.get("/api/builds", params={"search": "Benchmark"}).json()["builds"][0]["id"]
    build = http.get(f"/api/builds/{found}").json()
    for n in range(MARKS):
        valve = build["valves"][n % 16]["id"]
        mark = {
            "key": str(uuid4()),
            "inboard": f"-0.0{50 - n % 16}",
            "outboard": f"0.0{20 + n % 16}",
        }
        http.post(f"/api/builds/{found}/valves/{valve}/marks", json=mark).raise_for_status()
    for check in http.get(f"/api/builds/{found}/sign_off").json()["checks"]:
        for point in check["points"]:
            finding = {
                "key": str(uuid4()), "name": check["name"], "valve": point["valve"],
                "way": (check["ways"] or [""])[0], "text": "" if check["yes_no"] else "0.100",
                "yes": True if check["yes_no"] else None,
            }  # fmt: skip
            http.post(f"/api/builds/{found}/findings", json=finding)
    return str(found)


def took(http: httpx.Client, build: str, paper: str) -> str:
    """Seconds for a paper, and how many bytes it has; or why there is none."""
    begun = time.perf_counter()
    answer = http.get(f"/api/builds/{build}/{paper}")
    seconds = time.perf_counter() - begun
    if answer.is_error:
        return f"{answer.status_code} {answer.json().get('code')}"
    return f"{seconds:.2f} s, {len(answer.content) // 1000} kB"


def main() -> None:
    """Print a table of the papers."""
    with (
        tempfile.TemporaryDirectory() as folder,
        started(Path(folder), standins=False) as (url, _),
        httpx.Client(base_url=url, trust_env=False, timeout=60) as http,
    ):
        demo = http.get("/api/builds").json()["builds"]
        builds = {"thrown at": thrown_at(url, http)} | {b["name"]: b["id"] for b in demo[:3]}
        for name, build in builds.items():
            for paper in PAPERS:
                print(f"{name:28} {paper:14} {took(http, build, paper)}")


if __name__ == "__main__":
    main()
