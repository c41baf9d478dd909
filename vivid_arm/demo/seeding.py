"""Many invented builds at once, to see how the board and the head map bear up."""

from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from random import Random
from typing import Any, cast
from uuid import UUID

from sqlalchemy import Table, insert
from sqlalchemy.orm import Session

from vivid_arm.core.engine.layout import valves_of
from vivid_arm.core.entry.instruments import CheckingRod
from vivid_arm.core.entry.lengths import format_turns
from vivid_arm.records.settings import BuildSettings
from vivid_arm.records.tables import Reading, Valve
from vivid_arm.records.writes import setup

ROD = CheckingRod(7.15, 0.041667, 20)
RATIO = 1.6
READINGS_EACH = 10
_BATCH = 50
_PLACES = ("Mill", "Quarry", "Harbour", "Orchard", "Ferry", "Sawmill", "Depot", "Foundry")
_KINDS = ("loader", "pump", "tractor", "generator", "crusher", "winch", "compressor", "barge")
_START = datetime(2026, 1, 5, 8, tzinfo=UTC)
_EMPTY: dict[str, Any] = {
    "instrument_id": None, "number": None, "raw": "", "raw_gap": "", "raw_rod": "", "turns": None,
    "length_in": None, "feel": None, "gap_in": None, "replaces_id": None, "reason": "",
    "taken_by": "Tess", "build_version": 1,
}  # fmt: skip

Sessions = Callable[[], Any]


def seed(sessions: Sessions, builds: int, seed: int = 20261125) -> None:
    """Make V8 builds of 16 valves with 10 readings each."""
    rng = Random(seed)
    with sessions() as session, session.begin():
        rod = setup.new_instrument(session, {
            "id": _uuid(rng), "kind": "checking_rod", "name": "Checking rod, seeded",
            "convention": "theoretical", "closed_in": ROD.closed_in, "pitch_in": ROD.pitch_in,
            "most_turns": ROD.most_turns, "accuracy_in": 0.001,
        }).id  # fmt: skip
    for first in range(0, builds, _BATCH):
        with sessions() as session, session.begin():
            for number in range(first, min(first + _BATCH, builds)):
                _build(session, rng, rod, number)


def _uuid(rng: Random) -> UUID:
    return UUID(int=rng.getrandbits(128), version=4)


def _build(session: Session, rng: Random, rod: UUID, number: int) -> None:
    name = f"{rng.choice(_PLACES)} {rng.choice(_KINDS)} {number + 1}"
    build = setup.new_build(session, {
        "id": _uuid(rng), **BuildSettings(name=name).model_dump(), "instrument_id": rod,
    })  # fmt: skip
    build.log_count = len(valves_of("v", 8)) * READINGS_EACH
    base = {"intake": rng.uniform(7.45, 7.75)}
    base["exhaust"] = base["intake"] + rng.uniform(0, 0.04)
    lines = [
        line
        for valve in build.valves
        for line in _valve_lines(rng, valve, rod, base[valve.kind] + rng.gauss(0, 0.003))
    ]
    session.execute(insert(cast(Table, Reading.__table__)), lines)


def _valve_lines(
    rng: Random, valve: Valve, rod: UUID, zero_lash: float
) -> Iterator[dict[str, Any]]:
    """Nine trials of which one is felt zero, and the turns counted back."""
    at = ROD.turns_for(zero_lash - 0.0005)
    steps = (-2, 1, -1, 0.5, -0.75, 0.375, -0.5, -0.25, 0)
    for number, step in enumerate(steps, 1):
        turns = at + step
        length = ROD.length_in(turns)
        lash = zero_lash - length
        feel = "zero" if abs(lash) < 0.002 else "loose" if lash > 0 else "tight"
        gap = round(RATIO * lash, 3) if feel == "loose" and lash > 0.004 else None
        yield _EMPTY | {
            "key": _uuid(rng), "valve_id": valve.id, "instrument_id": rod, "kind": "trial",
            "number": number, "raw": format_turns(turns), "turns": turns, "length_in": length,
            "feel": feel, "gap_in": gap, "raw_gap": "" if gap is None else f"{gap}",
            "taken_at": _START + timedelta(minutes=rng.randrange(400_000)),
        }  # fmt: skip
    yield _EMPTY | {
        "key": _uuid(rng), "valve_id": valve.id, "instrument_id": rod, "kind": "count_back",
        "raw": format_turns(at), "turns": at, "taken_at": _START,
    }  # fmt: skip
