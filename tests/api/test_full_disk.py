"""A disk that is really full: said, what is there is shown, and it goes on when there is room."""

import signal
import subprocess
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import pytest

from tests.api.test_command import outcome, serve, wait_healthy
from tests.builders import wait_for
from tests.standins import own_port

pytestmark = pytest.mark.long
Json = dict[str, Any]


@pytest.fixture
def small_disk() -> Iterator[Path]:
    """A file system of its own in memory, which only root can mount."""
    with tempfile.TemporaryDirectory(prefix="vivid-arm-test-", dir="/var/tmp") as name:
        Path(name).chmod(0o755)
        size = ["mount", "-t", "tmpfs", "-o", "size=180m,mode=755", "tmpfs", name]
        subprocess.run(size, check=True)
        try:
            yield Path(name)
        finally:
            subprocess.run(["umount", "-l", name], check=True)


def fill(disk: Path) -> Path:
    """Take all the room there is."""
    stuffing = disk / "stuffing"
    with stuffing.open("wb", buffering=0) as taken:
        try:
            while True:
                taken.write(b"\0" * 65536)
        except OSError:
            pass
    return stuffing


def test_a_full_disk_is_said_and_loses_nothing(small_disk: Path) -> None:
    port, data = own_port(), small_disk / "d"
    process = serve("--data", str(data), "--port", str(port), "--no-demo", "--no-standins")
    kept, answers = list[str](), list[httpx.Response]()
    try:
        wait_healthy(port)
        with httpx.Client(base_url=f"http://127.0.0.1:{port}", trust_env=False, timeout=30) as http:
            rod = {"id": str(uuid4()), "kind": "checking_rod", "name": "R", "closed_in": 6.8,
                   "pitch_in": 0.05, "most_turns": 20.0}  # fmt: skip
            http.post("/api/instruments", json=rod).raise_for_status()
            body = {"id": str(uuid4()), "name": "Full", "instrument_id": rod["id"]}
            build = http.post("/api/builds", json=body).json()
            here = f"/api/builds/{build['id']}"

            def send() -> bool:
                valve = build["valves"][len(kept) % 16]["id"]
                trial = {"key": str(uuid4()), "setting": "10", "feel": "loose", "by": "x" * 60}
                answers.append(http.post(f"{here}/valves/{valve}/trials", json=trial))
                if answers[-1].status_code == 201:
                    kept.append(trial["key"])
                return answers[-1].status_code == 201

            assert send()
            stuffing = fill(small_disk)
            for _ in range(2000):
                if not send():
                    break
            refused = answers[-1]
            assert refused.status_code in (503, 507), refused.text
            said: list[Json] = []

            def health_says_why() -> bool:
                said.append(http.get("/api/health").json())
                return said[-1]["status"] != "ok"

            wait_for(health_says_why)
            assert said[-1]["why"]
            stuffing.unlink()
            wait_healthy(port)
            wait_for(send)
            table = http.get(f"{here}/readings.csv").text
        print(f"{len(kept)} kept; refused with “{refused.json()['detail']}”; health {said[-1]}")
        assert [key for key in kept if table.count(key) != 1] == []
    finally:
        process.send_signal(signal.SIGTERM)
        process.wait(timeout=30)
    assert outcome("verify", data=data)[0] == 0
