"""Who is where: the valve that each signed-in device shows."""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from typing import cast
from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from vivid_arm.core.engine.layout import ValveKind, valve_name
from vivid_arm.records.accounts import tell_people
from vivid_arm.records.tables import Account, Build, SignedIn, Valve

GONE_AFTER = timedelta(seconds=50)


@dataclass(frozen=True)
class Whereabouts:
    """What a page shows: its station, and where it has one, build, valve and the rod's turns."""

    station: str
    build_id: UUID | None = None
    valve_id: UUID | None = None
    turns: Decimal | None = None


@dataclass(frozen=True)
class DeviceSeen:
    """A device in use: whose it is, and where. Names are None for what is not there."""

    id: UUID
    name: str
    label: str
    at: Whereabouts
    build_name: str | None
    valve_name: str | None


def stand(session: Session, device: UUID, now: Whereabouts) -> None:
    """Keep where a device stands; the others are told when it has moved or come back."""
    entry = session.get_one(SignedIn, device, with_for_update=True)
    before = Whereabouts(entry.station or "", entry.build_id, entry.valve_id, entry.turns)
    moved = before != now or not _here(entry.there_at)
    entry.station, entry.build_id, entry.valve_id = now.station, now.build_id, now.valve_id
    entry.turns, entry.there_at = now.turns, datetime.now(UTC)
    session.flush()
    if moved:
        tell_people(session)


def _here(at: datetime | None) -> bool:
    return at is not None and datetime.now(UTC) - at < GONE_AFTER


def who_is_where(session: Session) -> list[DeviceSeen]:
    """Every device that said of late where it stands, by the name of its account."""
    rows = session.execute(
        select(SignedIn, Account.name, Build.name, Valve.cylinder, Valve.kind)
        .join(Account, Account.id == SignedIn.account_id)
        .outerjoin(Build, Build.id == SignedIn.build_id)
        .outerjoin(Valve, (Valve.id == SignedIn.valve_id) & (Valve.build_id == Build.id))
        .where(SignedIn.ended_at.is_(None), SignedIn.there_at > datetime.now(UTC) - GONE_AFTER)
        .order_by(func.lower(Account.name), SignedIn.made_at)
    )
    return [
        DeviceSeen(
            entry.id, name, entry.label,
            Whereabouts(entry.station or "", entry.build_id, entry.valve_id, entry.turns),
            build, None if cylinder is None else valve_name(cylinder, cast(ValveKind, kind)),
        )
        for entry, name, build, cylinder, kind in rows
    ]  # fmt: skip
