"""Many people at once on a shop of many builds: answers a second, and how long each takes."""

import argparse
import gzip
import json
import random
import subprocess
import sys
import tempfile
import threading
import time
from collections import defaultdict
from contextlib import closing
from http.client import HTTPConnection
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit
from uuid import uuid4

import httpx
import numpy as np

from benchmarks.serving import ROOT, Processor, started

AHEAD, REST_S = "ahead", 10.0
"""What a page asks while the rod is turned; it rests so long where the shop has too much to do."""


class Asker:
    """One kept connection, with as little work of its own as may be: both share the machine."""

    def __init__(self, url: str) -> None:
        self._connection = HTTPConnection(urlsplit(url).netloc, timeout=60)
        self._headers = {"Accept-Encoding": "gzip", "Content-Type": "application/json"}

    def ask(self, method: str, path: str, body: object = None) -> Any:
        """An answer as it was read; raises AssertionError for one that refuses."""
        sent = None if body is None else json.dumps(body)
        self._connection.request(method, path, sent, self._headers)
        answer = self._connection.getresponse()
        told = answer.read()
        assert answer.status < 400, f"{method} {path}: {answer.status} {told!r}"
        seen = answer.headers["x-written"]
        if seen:
            self._headers["X-Seen"] = seen
        return told if answer.headers["content-encoding"] != "gzip" else gzip.decompress(told)

    def close(self) -> None:
        """End the connection."""
        self._connection.close()


def person(
    number: int, url: str, builds: int, until: float, pause_s: float, took: dict[str, list[float]]
) -> None:
    """A builder: the board now and then, mostly one station and readings on it."""
    rng = random.Random(number)
    with closing(Asker(url)) as asker:

        def ask(name: str, method: str, path: str, body: object = None) -> Any:
            begun = time.perf_counter()
            answer = asker.ask(method, path, body)
            took[name].append(time.perf_counter() - begun)
            time.sleep(rng.uniform(0.5, 1.5) * pause_s)
            return answer

        rests_until = 0.0
        time.sleep(rng.uniform(0.0, max(pause_s, 2.0)))  # nobody begins on another's stroke
        while time.monotonic() < until:
            offset = rng.randrange(max(builds // 30, 1)) * 30
            rows = json.loads(ask("board", "GET", f"/api/builds?offset={offset}&limit=30"))
            build_id = rng.choice(rows["builds"])["id"]
            build = json.loads(ask("build", "GET", f"/api/builds/{build_id}"))
            for valve in rng.sample(build["valves"], 4):
                here = f"/api/builds/{build_id}/valves/{valve['id']}"
                ask("station", "GET", here)
                if time.monotonic() > rests_until:
                    told = json.loads(ask(AHEAD, "GET", f"{here}/ahead?turns=10"))
                    rests_until = 0 if told["once_felt"] else time.monotonic() + REST_S
                trial = {"key": str(uuid4()), "setting": "10", "feel": "loose"}
                ask("POST", "POST", f"{here}/trials", trial)
                if time.monotonic() > until:
                    return


def crowd(
    urls: list[str], people: int, builds: int, seconds: float, pause_s: float
) -> dict[str, list[float]]:
    """Seconds that each answer took, by its kind, of people spread over some addresses."""
    took: dict[str, list[float]] = defaultdict(list)
    until = time.monotonic() + seconds
    threads = [
        threading.Thread(target=person, args=(n, urls[n % len(urls)], builds, until, pause_s, took))
        for n in range(people)
    ]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    return took


def main() -> None:
    """Print answers a second and the 50th and 95th percentile of each kind of request."""
    options = argparse.ArgumentParser()
    options.add_argument("--builds", type=int, default=2000)
    options.add_argument("--people", type=int, default=20)
    options.add_argument("--workers", type=int, default=2)
    options.add_argument("--seconds", type=float, default=30)
    asked = options.parse_args()
    with tempfile.TemporaryDirectory(prefix="vivid-arm-load-", dir="/var/tmp") as folder:
        Path(folder).chmod(0o755)
        data = Path(folder) / "data"
        seed = ["-m", "vivid_arm", "seed", "--data", str(data), "--builds", str(asked.builds)]
        subprocess.run([sys.executable, *seed], cwd=ROOT, check=True)
        with started(data, "--workers", str(asked.workers)) as (url, _):
            while not httpx.get(f"{url}/api/backups", trust_env=False).json():
                time.sleep(1)
            for pause_s in (0.0, 2.0):
                processor = Processor()
                took = crowd([url], asked.people, asked.builds, asked.seconds, pause_s)
                ahead = took.pop(AHEAD, [])
                count = sum(map(len, took.values()))
                rate = count / asked.seconds
                print(f"{asked.people} people, pause {pause_s:g} s: {rate:.0f} a second")
                print(f"  {processor.stolen()}")
                every = [seconds for values in took.values() for seconds in values]
                for name, values in [*took.items(), ("all", every), (AHEAD, ahead)]:
                    half, most = np.percentile(values, [50, 95]) * 1000
                    print(f"  {name:8} {len(values):5} p50 {half:6.0f} ms  p95 {most:6.0f} ms")


if __name__ == "__main__":
    main()
