"""The start command for real: side by side, refusals, and nothing left running."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import httpx
import pytest

from vivid_arm.records.cluster import free_port

ROOT = Path(__file__).parents[2]


def serve(*options: str) -> subprocess.Popen[str]:
    env = {k: v for k, v in os.environ.items() if k != "DATABASE_URL"}
    return subprocess.Popen(
        [sys.executable, "-m", "vivid_arm", "serve", *options],
        cwd=ROOT, env=env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
    )  # fmt: skip


def wait_healthy(port: int) -> None:
    for _ in range(150):
        try:
            if httpx.get(f"http://127.0.0.1:{port}/api/health", trust_env=False).status_code == 200:
                return
        except httpx.TransportError:
            time.sleep(0.2)
    raise AssertionError("never healthy")


def holders(folder: Path) -> list[str]:
    """Command lines of processes that name a folder."""
    found = []
    for entry in Path("/proc").glob("[0-9]*/cmdline"):
        try:
            line = entry.read_text().replace("\0", " ")
        except OSError:
            continue
        if str(folder) in line and str(os.getpid()) != entry.parent.name:
            found.append(line)
    return found


@pytest.mark.parametrize("stop", [signal.SIGINT, signal.SIGTERM, signal.SIGHUP])
def test_two_copies_side_by_side_and_a_clean_stop(scratch: Path, stop: signal.Signals) -> None:
    ports = [free_port(), free_port()]
    running = [
        serve("--data", str(scratch / str(n)), "--port", str(port), *extra)
        for n, (port, extra) in enumerate(zip(ports, ([], ["--no-demo"]), strict=True))
    ]
    try:
        for port in ports:
            wait_healthy(port)
        counts = [
            len(httpx.get(f"http://127.0.0.1:{p}/api/builds", trust_env=False).json())
            for p in ports
        ]
        assert counts == [5, 0]
    finally:
        for process in running:
            process.send_signal(stop)
        for process in running:
            process.wait(timeout=20)
    assert holders(scratch) == []


@pytest.mark.parametrize("host", ["0.0.0.0", "192.168.1.5", "::", "bench.example"])
def test_open_addresses_are_refused(scratch: Path, host: str) -> None:
    out, _ = (process := serve("--data", str(scratch), "--host", host)).communicate(timeout=30)
    assert process.returncode == 2
    assert "not a loopback address" in out
    assert "accounts come later" in out


def test_taken_port_is_said(live: str, scratch: Path) -> None:
    port = live.rsplit(":", 1)[1]
    out, _ = (process := serve("--data", str(scratch), "--port", port)).communicate(timeout=30)
    assert process.returncode == 1
    assert f"Port {port} is taken" in out
    assert holders(scratch) == []


def test_start_names_the_one_line_a_normal_user_must_run(scratch: Path) -> None:
    """With dpkg knowing no package and no sudo, the script stops with the line to run."""
    fake = scratch / "bin"
    fake.mkdir()
    for name in ("dpkg-query", "sudo"):
        (fake / name).write_text("#!/bin/sh\nexit 1\n")
        (fake / name).chmod(0o755)
    (fake / "id").write_text("#!/bin/sh\necho 1000\n")
    (fake / "id").chmod(0o755)
    env = os.environ | {"PATH": f"{fake}:{os.environ['PATH']}"}
    done = subprocess.run(
        ["./start"], cwd=ROOT, env=env, capture_output=True, text=True, check=False
    )
    assert done.returncode == 1
    assert "sudo apt-get update && sudo apt-get install" in done.stdout
    assert "postgresql" in done.stdout
