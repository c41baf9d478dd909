"""How the program does: a name for each request, a line for each answer, the owner's figures."""

import json
import os
import re
import signal
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from prometheus_client.parser import text_string_to_metric_families
from sqlalchemy import Engine

from tests.api.test_command import wait_healthy
from tests.builders import web
from tests.standins import own_port

ROOT = Path(__file__).parents[2]


def told(client: Any, url: str = "/api/metrics") -> dict[tuple[str, str], float]:
    """Answers by operation and status, as a reader of the usual format has them."""
    families = text_string_to_metric_families(client.get(url).text)
    return {
        (s.labels["operation"], s.labels["status"]): s.value
        for family in families
        for s in family.samples
        if s.name == "vivid_arm_answers_total"
    }


def test_answers_are_counted_by_operation(client: TestClient) -> None:
    before = told(client)
    client.get("/api/builds")
    client.get("/api/builds/6a7d7d0e-9a0b-4c55-8f0e-1c2d3e4f5a6b")
    client.get("/api/nothing")
    after = told(client)
    found = {k: v - before.get(k, 0) for k, v in after.items() if v != before.get(k, 0)}
    assert found.pop(("watch_read_metrics", "200")) == 1
    assert found == {
        ("board_read_board", "200"): 1, ("setup_read_build", "404"): 1, ("page", "404"): 1,
    }  # fmt: skip
    text = client.get("/api/metrics").text
    assert 'vivid_arm_answer_seconds_bucket{le="0.1",operation="board_read_board"}' in text


@pytest.mark.parametrize(
    ("given", "kept"),
    [
        ("from-the-proxy-17", True),
        ("short", False),
        ("x" * 65, False),
        ("a b: forged", False),
    ],
)
def test_a_request_has_a_name(client: TestClient, given: str, kept: bool) -> None:
    name = client.get("/api/health", headers={"x-request-id": given}).headers["x-request-id"]
    assert (name == given) == kept
    assert re.fullmatch(r"[0-9A-Za-z-]{8,64}", name)


@pytest.mark.slow
def test_each_answer_is_a_line_of_json(cluster_url: str, empty: Engine, scratch: Path) -> None:
    """Two processes: every line is whole, and the figures are those of both."""
    port = own_port()
    process = subprocess.Popen(
        [sys.executable, "-m", "vivid_arm", "serve", "--data", str(scratch), "--port", str(port),
         "--no-standins", "--no-demo", "--log-json", "--workers", "2"],
        cwd=ROOT, env=os.environ | {"DATABASE_URL": cluster_url}, text=True,
        stdout=subprocess.DEVNULL, stderr=subprocess.PIPE,
    )  # fmt: skip
    try:
        wait_healthy(port)
        here = f"http://127.0.0.1:{port}"
        for n in range(40):
            web.get(f"{here}/api/builds", headers={"x-request-id": f"asked-{n:04}"})
        counted = told(web, f"{here}/api/metrics")
        assert counted["board_read_board", "200"] == 40
    finally:
        process.send_signal(signal.SIGTERM)
        _, said = process.communicate(timeout=30)
    assert [x for x in said.splitlines() if not x.startswith("{")] == [], said[-3000:]
    lines = [json.loads(line) for line in said.splitlines()]
    asked = [x for x in lines if x.get("operation") == "board_read_board"]
    assert {x["request"] for x in asked} == {f"asked-{n:04}" for n in range(40)}
    assert {"at", "level", "of", "message", "status", "ms", "by"} <= asked[0].keys()
    assert (asked[0]["message"], asked[0]["status"]) == ("GET /api/builds", 200)


def test_the_container_has_what_the_start_command_installs() -> None:
    """No container can be built where the tests run; what it is made of is held to the rest."""
    made = (ROOT / "deploy" / "Containerfile").read_text()
    packages = re.search(r"RUN_PACKAGES=\((.*?)\)", (ROOT / "scripts" / "prepare.sh").read_text())
    assert packages
    assert [p for p in packages.group(1).split() if p not in made] == []
    last = made.rpartition("\nFROM ")[2]
    user = re.search(r"^USER (\d+)$", last, re.M)
    assert user
    assert int(user.group(1)) > 0
    assert last.index("\nUSER ") < last.index("\nENTRYPOINT ")
    for copied in re.findall(r"^COPY (?!--from)(.*) \S+$", made, re.M):
        assert all((ROOT / path).exists() for path in copied.split())
    options = re.findall(r'"(--[a-z-]+)"', last.partition("ENTRYPOINT")[2])
    helped = subprocess.run(
        [sys.executable, "-m", "vivid_arm", "serve", "--help"], capture_output=True, text=True,
        env=os.environ | {"COLUMNS": "200", "NO_COLOR": "1"}, cwd=ROOT, check=True,
    ).stdout  # fmt: skip
    assert options
    assert [o for o in options if o not in helped] == []
