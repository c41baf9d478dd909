"""What one process, two, and a replica beside them carry, and how soon one page tells another."""

import argparse
import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from threading import Event, Thread
from uuid import uuid4

import httpx
from sqlalchemy import create_engine, text

from benchmarks.load import crowd
from benchmarks.serving import ROOT, p95, streaming_replica
from vivid_arm.records.cluster import free_port, running_cluster

PAUSE_S, WANTED_MS = 2.0, 100


@contextmanager
def served(count: int, **env: str) -> Iterator[list[str]]:
    """Processes of their own on one database, each at its own address."""
    ports = [free_port() for _ in range(count)]
    processes = [
        subprocess.Popen(
            [sys.executable, "-m", "vivid_arm", "serve", "--data", "/nonexistent", "--port",
             str(port), "--no-standins", "--no-demo"],
            cwd=ROOT, env=os.environ | env, stdout=subprocess.DEVNULL,
        )
        for port in ports
    ]  # fmt: skip
    urls = [f"http://127.0.0.1:{port}" for port in ports]
    try:
        for url in urls:
            while True:
                try:
                    httpx.get(f"{url}/api/health", trust_env=False).raise_for_status()
                    break
                except httpx.HTTPError:
                    time.sleep(0.05)
        yield urls
    finally:
        for process in processes:
            process.terminate()
        for process in processes:
            process.wait()


def told_after(one: str, other: str, times: int = 60) -> list[float]:
    """Milliseconds from a feel sent to one process until another has told it and shows it."""
    http = httpx.Client(trust_env=False, timeout=30)
    build = http.get(f"{one}/api/builds").json()["builds"][0]["id"]
    valve = http.get(f"{one}/api/builds/{build}").json()["valves"][0]["id"]
    station = f"/api/builds/{build}/valves/{valve}"
    heard, found = Event(), []

    def listen() -> None:
        with httpx.stream("GET", f"{other}/api/live", trust_env=False, timeout=60) as stream:
            for line in stream.iter_lines():
                if line.startswith("data: ") and json.loads(line[6:])["id"] == build:
                    heard.set()

    Thread(target=listen, daemon=True).start()
    time.sleep(1)
    for n in range(times):
        heard.clear()
        body = {"key": str(uuid4()), "setting": str(9 + n % 8 / 8), "feel": "loose"}
        begun = time.perf_counter()
        kept = http.post(f"{one}{station}/trials", json=body).raise_for_status().json()
        if not heard.wait(10):
            raise RuntimeError("a reading was not told")
        if http.get(f"{other}{station}").json()["log"] != kept["log"]:
            raise RuntimeError("what was told is not shown")
        found.append((time.perf_counter() - begun) * 1000)
    return found


def carried(name: str, urls: list[str], builds: int, seconds: float, crowds: list[int]) -> None:
    """Print how long the answers take to more and more people, and what no pause gives."""
    for people in crowds:
        took = crowd(urls, people, builds, seconds, PAUSE_S)
        every = [1000 * s for values in took.values() for s in values]
        kinds = ", ".join(f"{k} {p95([1000 * s for s in v]):.0f}" for k, v in took.items())
        print(
            f"{name}, {people} people, pause {PAUSE_S:g} s: {len(every) / seconds:.0f} a second, "
            f"p95 {p95(every):.0f} ms ({kinds})", flush=True,
        )  # fmt: skip
        if p95(every) > WANTED_MS:
            break
    took = crowd(urls, 20, builds, seconds, 0)
    rate = sum(map(len, took.values())) / seconds
    print(f"{name}, 20 people without a pause: {rate:.0f} a second", flush=True)


def main() -> None:
    """Print it all for a shop of many builds."""
    options = argparse.ArgumentParser()
    options.add_argument("--builds", type=int, default=2000)
    options.add_argument("--seconds", type=float, default=15)
    options.add_argument("--crowds", type=int, nargs="+", default=[5, 10, 15, 20, 30, 40])
    asked = options.parse_args()
    with tempfile.TemporaryDirectory(prefix="vivid-arm-scale-", dir="/var/tmp") as name:
        Path(name).chmod(0o755)
        with running_cluster(Path(name) / "data") as url:
            seed = ["-m", "vivid_arm", "seed", "--data", name, "--builds", str(asked.builds)]
            own = {"DATABASE_URL": url}
            subprocess.run([sys.executable, *seed], cwd=ROOT, check=True, env=os.environ | own)
            with create_engine(url).connect() as connection:
                size = connection.scalar(text("SELECT pg_database_size(current_database())"))
                print(f"{asked.builds} builds: {size / 1e6:.0f} MB", flush=True)
            with served(2, **own) as urls:
                told = told_after(urls[0], urls[1])
                print(f"told and shown by another process: p95 {p95(told):.0f} ms", flush=True)
                carried("two processes", urls, asked.builds, asked.seconds, asked.crowds)
            with served(1, **own) as urls:
                carried("one process", urls, asked.builds, asked.seconds, asked.crowds)
            with (
                streaming_replica(url, Path(name) / "replica") as copy,
                served(2, **own, READ_URL=copy) as urls,
            ):
                told = told_after(urls[0], urls[1])
                print(f"the same beside a replica: p95 {p95(told):.0f} ms", flush=True)
                carried("with a replica", urls, asked.builds, asked.seconds, asked.crowds)


if __name__ == "__main__":
    main()
