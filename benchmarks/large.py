"""A large table of readings: seconds until 5,000 lines are in, and what its build's pages take."""

import random
import tempfile
import time
from pathlib import Path
from uuid import uuid4

import httpx

from benchmarks.serving import started

LINES = 5000


def table(rng: random.Random) -> str:
    """Trials on the 16 valves of a V8, around a zero lash of 10 3/4 turns."""
    lines = ["valve,kind,reading,feel"]
    for n in range(LINES):
        feel = rng.choice(["loose", "zero", "tight"])
        off = 0.0 if feel == "zero" else rng.choice([0.0, 0.25, 0.5])
        turns = 10.75 + (off + 0.25 if feel != "zero" else 0) * (-1 if feel == "loose" else 1)
        lines.append(f"{n % 8 + 1}{'IE'[n // 8 % 2]},trial,{turns},{feel}")
    return "\n".join(lines)


def main() -> None:
    """Print the seconds."""
    with tempfile.TemporaryDirectory(prefix="vivid-arm-large-", dir="/var/tmp") as folder:
        Path(folder).chmod(0o755)
        with (
            started(Path(folder) / "data") as (url, _),
            httpx.Client(base_url=url, trust_env=False, timeout=120) as http,
        ):
            rods = http.get("/api/instruments").json()
            rod = next(r for r in rods if r["kind"] == "checking_rod")
            body = {"id": str(uuid4()), "name": "Large", "instrument_id": rod["id"]}
            build = http.post("/api/builds", json=body).json()
            here = f"/api/builds/{build['id']}"
            begun = time.perf_counter()
            http.post(f"{here}/readings", json={"csv": table(random.Random(5))}).raise_for_status()
            print(f"{LINES} lines of CSV: {time.perf_counter() - begun:.1f} s")
            station = f"{here}/valves/{build['valves'][0]['id']}"
            for path in (here, here, station, f"{here}/heads", f"{here}/decide", "/api/builds"):
                begun = time.perf_counter()
                http.get(path).raise_for_status()
                print(f"{path[-20:]:>20} {(time.perf_counter() - begun) * 1000:6.0f} ms")


if __name__ == "__main__":
    main()
