"""Application and database killed while readings come in: none that was acknowledged is lost."""

import os
import signal
import subprocess
import threading
import time
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import pytest

from tests.api.test_command import outcome, postgres_of, serve, wait_healthy
from tests.standins import own_port

pytestmark = pytest.mark.long
Json = dict[str, Any]


def writer(url: str, station: str, over: threading.Event, kept: list[str]) -> None:
    """A builder who sends each reading until it is acknowledged, always under its one key."""
    while not over.is_set():
        trial = {"key": str(uuid4()), "setting": "10", "feel": "loose"}
        while not over.is_set():
            try:
                answer = httpx.post(
                    f"{url}{station}/trials", json=trial, trust_env=False, timeout=9
                )
            except httpx.TransportError:
                time.sleep(0.05)
                continue
            if answer.status_code == 201:
                kept.append(trial["key"])
                break
            assert answer.status_code in (500, 503), answer.text
            time.sleep(0.05)


def test_thirty_kills_lose_nothing(scratch: Path) -> None:
    """Twenty times the application, ten times the database with all its processes."""
    port, data = own_port(), scratch / "d"
    url = f"http://127.0.0.1:{port}"

    def start() -> "subprocess.Popen[str]":
        process = serve("--data", str(data), "--port", str(port), "--no-demo", "--no-standins")
        wait_healthy(port)
        return process

    process, over, kept = start(), threading.Event(), list[str]()
    try:
        with httpx.Client(base_url=url, trust_env=False, timeout=30) as http:
            rod = {"id": str(uuid4()), "kind": "checking_rod", "name": "R", "closed_in": 6.8,
                   "pitch_in": 0.05, "most_turns": 20.0}  # fmt: skip
            http.post("/api/instruments", json=rod).raise_for_status()
            body = {"id": str(uuid4()), "name": "Killed", "instrument_id": rod["id"]}
            build = http.post("/api/builds", json=body).json()
        here = f"/api/builds/{build['id']}"
        stations = [f"{here}/valves/{valve['id']}" for valve in build["valves"][:4]]
        crowd = [threading.Thread(target=writer, args=(url, s, over, kept)) for s in stations]
        for one in crowd:
            one.start()
        for round_ in range(30):
            before = len(kept)
            while len(kept) < before + 10:
                time.sleep(0.02)
            if round_ % 3 == 2:
                for pid in postgres_of(data):
                    os.kill(pid, signal.SIGKILL)
                wait_healthy(port)
            else:
                process.kill()
                process.wait(timeout=30)
                process = start()
        over.set()
        for one in crowd:
            one.join(timeout=60)
        table = httpx.get(f"{url}{here}/readings.csv", trust_env=False, timeout=60).text
    finally:
        over.set()
        process.send_signal(signal.SIGTERM)
        process.wait(timeout=30)
    print(f"{len(kept)} readings acknowledged")
    assert len(kept) >= 300
    assert [key for key in kept if table.count(key) != 1] == []
    assert outcome("verify", data=data)[0] == 0
