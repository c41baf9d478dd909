"""Builds with their whole logs, as states."""

from collections import OrderedDict
from collections.abc import Callable, Collection
from functools import partial
from threading import Lock
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload, selectinload

from vivid_arm.records.fingerprint import fingerprints
from vivid_arm.records.rows.log import readings_of
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.tables import BoxRod, Build, Order, Signature


def build_states(session: Session, build_ids: Collection[UUID]) -> list[BuildState]:
    """Builds with their whole logs, in no order."""
    return [made() for _, made in unmade_states(session, build_ids)]


def state_of(session: Session, build: Build) -> BuildState:
    """A build that is loaded already, with its log as it is now."""
    logs = readings_of(session, [v.id for v in build.valves])
    return BuildState(build, logs, _Shop(session))


def unmade_states(
    session: Session, build_ids: Collection[UUID]
) -> list[tuple[Build, Callable[[], BuildState]]]:
    """Builds, each with what makes its state: one that cannot be computed raises there."""
    query = (
        select(Build)
        .where(Build.id.in_(build_ids))
        .options(joinedload(Build.instrument), selectinload(Build.valves))
        .execution_options(populate_existing=True)
    )
    builds = session.scalars(query).all()
    logs = readings_of(session, [v.id for b in builds for v in b.valves])
    shop = _Shop(session)
    return [(b, partial(BuildState, b, logs, shop)) for b in builds]


_MOST_REMEMBERED = 64
_keeping = Lock()
_remembered: "OrderedDict[UUID, tuple[str, BuildState]]" = OrderedDict()


def seen_state(session: Session, build_id: UUID) -> BuildState | None:
    """A build to look at: worked out once as long as nothing its figures depend on moves.

    It belongs to no session; nothing may be changed through it. None when there is none.
    """
    mark = fingerprints(session, [build_id]).get(build_id)
    if mark is None:
        return None
    kept = _remembered.get(build_id)
    if kept is not None and kept[0] == mark.whole:
        return kept[1]
    found = build_states(session, [build_id])
    if not found:
        return None
    _remember(session, mark.whole, found[0])
    return found[0]


def seen_after(session: Session, build: Build) -> BuildState:
    """A build as a write has left it, remembered for whoever looks at it next.

    It belongs to no session afterwards. A write that is undone leaves a mark that no build has.
    """
    session.flush()
    # The mark first: what moves in between makes the state newer than its mark, never older.
    mark = fingerprints(session, [build.id])[build.id].whole
    found = build_states(session, [build.id])[0]
    _remember(session, mark, found)
    return found


def _remember(session: Session, mark: str, found: BuildState) -> None:
    found.settle()
    session.expunge_all()
    with _keeping:
        _remembered[found.build.id] = (mark, found)
        _remembered.move_to_end(found.build.id)
        while len(_remembered) > _MOST_REMEMBERED:
            _remembered.popitem(last=False)


class _Shop:
    """The shop around the builds of one request, asked for only when it is needed."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._box: list[BoxRod] | None = None

    def box(self) -> list[BoxRod]:
        if self._box is None:
            query = select(BoxRod).order_by(BoxRod.length_in, BoxRod.id)
            self._box = list(self._session.scalars(query))
        return self._box

    def orders(self, build_id: UUID) -> list[Order]:
        query = select(Order).where(Order.build_id == build_id).order_by(Order.number.desc())
        return list(self._session.scalars(query))

    def signature(self, build_id: UUID) -> Signature | None:
        query = select(Signature).where(Signature.build_id == build_id)
        return self._session.scalar(query.order_by(Signature.id.desc()).limit(1))
