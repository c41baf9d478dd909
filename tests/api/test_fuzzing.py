"""Whatever a caller sends, on a build that has everything: never a 5xx, always as documented."""

import json
import os
import re
import subprocess
import sys
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit
from uuid import uuid4

import cv2
import httpx
import pytest
from sqlalchemy import Engine, func, select
from sqlalchemy.orm import Session

from tests.builders import demo_builds, web
from vivid_arm.demo.tip_photos import Scene, take
from vivid_arm.records.tables import BoxRod, Change

SCHEMATHESIS = Path(sys.executable).parent / "schemathesis"
CHECKS = ",".join((
    "not_a_server_error", "status_code_conformance", "content_type_conformance",
    "response_schema_conformance",
))  # fmt: skip


def seeded(live: str, engine: Engine) -> dict[str, str]:
    """Where the fuzzing finds things: a demo build with an order, rods and a photo."""
    build = next(b for b in demo_builds(live, engine) if b["name"] == "Dockside loader V8")
    here = f"{live}/api/builds/{build['id']}"
    order, photo = str(uuid4()), str(uuid4())
    picture = cv2.imencode(".png", take(Scene(-0.02, 0.03)))[1].tobytes()
    with httpx.Client(trust_env=False, timeout=30) as http, Session(engine) as session:
        kept = [
            http.post(f"{here}/orders", json={"id": order, "purpose": "set"}),
            http.post(f"{here}/photos", data={"id": photo}, files={"file": ("a.png", picture)}),
        ]
        exercise = {"id": str(uuid4()), "scenario": "pump", "seed": 1}
        kept.append(http.post(f"{live}/api/practice", json=exercise))
        assert [answer.status_code for answer in kept] == [201, 201, 201]
        rods = session.scalars(select(BoxRod.id)).first()
        version = http.get(here).json()["version"]
        http.patch(here, json={"version": version, "guard_deg": 11.0}).raise_for_status()
        change = session.scalars(select(func.max(Change.id))).one()
    return {
        "build_id": build["id"], "valve_id": build["valves"][0]["id"], "photo_id": photo,
        "instrument_id": build["instrument"]["id"], "order_id": order, "kind": "intake",
        "box_id": str(rods), "change_id": str(change),
        "exercise_id": exercise["id"], "valve": "1I",
    }  # fmt: skip


def stolen_s() -> float:
    """Seconds in which the processors here worked for another machine (proc(5), steal)."""
    return int(Path("/proc/stat").read_text().split()[8]) / os.sysconf("SC_CLK_TCK")


def fuzzed(
    live: str, engine: Engine, folder: Path, examples: int, *more: str
) -> list[dict[str, Any]]:
    """Schemathesis on the served OpenAPI document, its paths filled with what is there.

    Fails for an answer that a check refuses; gives every request and its answer. The pages' live
    stream, which has no end, has tests of its own.
    """
    config, report = folder / "schemathesis.toml", folder / "calls.har"
    filled = [f'"path.{name}" = "{value}"' for name, value in seeded(live, engine).items()]
    config.write_text("\n".join(["[parameters]", *filled, ""]))
    command = [
        SCHEMATHESIS, f"--config-file={config}", "run", f"{live}/api/openapi.json",
        f"--checks={CHECKS}", "--phases=examples,coverage,fuzzing", f"--max-examples={examples}",
        "--exclude-path=/api/live", "--generation-deterministic",
        "--suppress-health-check=all", "--workers=2",
        f"--report-har-path={report}", *more,
    ]  # fmt: skip
    before = stolen_s()
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    away = stolen_s() - before
    calls = list(json.loads(report.read_text())["log"]["entries"])
    failed = [
        (c["response"]["status"], round(c["time"]), c["request"]["method"], c["request"]["url"])
        for c in calls
        if c["response"]["status"] >= 500 or c["time"] > 2000
    ]
    print(f"{len(calls)} requests; {len(failed)} late or failed; machine away for {away:.0f} s")
    print(*failed[:40], sep="\n")
    assert done.returncode == 0, done.stdout[-4000:]
    return calls


def succeeded(calls: list[dict[str, Any]], paths: list[str]) -> set[str]:
    """Operations, ``GET /api/…``, that were answered by what they are for."""
    known = {re.compile(re.sub(r"{\w+}", "[^/]+", path)): path for path in paths}
    found = set()
    for entry in calls:
        called = urlsplit(entry["request"]["url"]).path
        path = next((p for pattern, p in known.items() if pattern.fullmatch(called)), None)
        if path and 200 <= entry["response"]["status"] < 300:
            found.add(f"{entry['request']['method']} {path}")
    return found


@pytest.mark.slow
def test_nothing_a_caller_sends_is_a_server_error(live: str, empty: Engine, tmp_path: Path) -> None:
    """In the usual run: at least 2,000 requests."""
    calls = fuzzed(live, empty, tmp_path, 5)
    assert len(calls) > 2000
    document = web.get(f"{live}/api/openapi.json").json()
    reached = succeeded(calls, list(document["paths"]))
    # A shop without accounts has no people to ask about, and its stream has no end.
    wanted = {
        f"{method.upper()} {path}"
        for path, ways in document["paths"].items()
        for method, operation in ways.items()
        if operation["tags"][0] not in ("accounts", "live")
    }
    every = {f"{m.upper()} {p}" for p, way in document["paths"].items() for m in way}
    assert reached <= every
    assert len(reached & wanted) > 0.7 * len(wanted), "\n".join(sorted(wanted - reached))


@pytest.mark.long
def test_fifty_thousand_requests(live: str, empty: Engine, tmp_path: Path) -> None:
    """None of them a server error, outside its schema, or slower than two seconds."""
    calls = fuzzed(live, empty, tmp_path, 750, "--max-response-time=2", "--continue-on-failure")
    print(f"{len(calls)} requests")
    assert len(calls) >= 50_000
