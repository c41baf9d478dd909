"""Builds with their whole logs, as states."""

import logging
from collections import OrderedDict
from collections.abc import Callable, Collection, Mapping, Sequence
from functools import partial
from threading import Lock
from uuid import UUID

from sqlalchemy import bindparam, select
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session, joinedload, selectinload
from sqlalchemy.orm.attributes import set_committed_value

from vivid_arm.core.words import language
from vivid_arm.records.fingerprint import Fingerprint, fingerprint
from vivid_arm.records.rows.line import KeptLine
from vivid_arm.records.rows.log import Added, readings_of, readings_since
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.heads import Shop
from vivid_arm.records.state.log import ValveLog
from vivid_arm.records.tables import BoxRod, Build, Order, Signature

_BUILDS = (
    select(Build)
    .where(Build.id.in_(bindparam("ids", expanding=True)))
    .options(joinedload(Build.instrument), selectinload(Build.valves))
    .execution_options(populate_existing=True)
)
_BOX = select(BoxRod).order_by(BoxRod.length_in, BoxRod.id)
_ORDERS = select(Order).where(Order.build_id == bindparam("of")).order_by(Order.number.desc())
_SIGNED = select(Signature).where(Signature.build_id == bindparam("of"))
_LAST_SIGNED = _SIGNED.order_by(Signature.id.desc()).limit(1)


def build_states(
    session: Session, build_ids: Collection[UUID], lacks: Collection[str] = ()
) -> list[BuildState]:
    """Builds with their whole logs, in no order; what they are known to lack is not asked for."""
    return [made() for _, made in unmade_states(session, build_ids, lacks)]


def state_of(session: Session, build: Build) -> BuildState:
    """A build that is loaded already, with its valves and its log as they are now."""
    session.flush()
    return build_states(session, [build.id])[0]


def _made(build: Build, rows: Mapping[UUID, Sequence[KeptLine]], shop: Shop) -> BuildState:
    for valve in build.valves:
        set_committed_value(valve, "build", build)
    logs = {v.id: ValveLog(build, v, rows.get(v.id, ())) for v in build.valves}
    return BuildState(build, logs, shop)


def unmade_states(
    session: Session, build_ids: Collection[UUID], lacks: Collection[str] = ()
) -> list[tuple[Build, Callable[[], BuildState]]]:
    """Builds, each with what makes its state: one that cannot be computed raises there."""
    builds = session.scalars(_BUILDS, {"ids": list(build_ids)}).all()
    rows = readings_of(session, [v.id for b in builds for v in b.valves])
    shop = _Shop(session, lacks)
    return [(b, partial(_made, b, rows, shop)) for b in builds]


_log = logging.getLogger(__name__)
_MOST_REMEMBERED = 64
_keeping = Lock()
_remembered: "OrderedDict[tuple[UUID, str], tuple[Fingerprint, BuildState]]" = OrderedDict()


def seen_state(session: Session, build_id: UUID) -> BuildState | None:
    """A build to look at: worked out once as long as nothing its figures depend on moves.

    It belongs to no session; nothing may be changed through it. None when there is none.
    """
    mark = fingerprint(session, build_id)
    return None if mark is None else _seen(session, build_id, mark)


def seen_after(
    session: Session, build: Build, added: Added | None = None, before: BuildState | None = None
) -> BuildState:
    """A build as a write has left it, remembered for whoever looks at it next.

    ``added`` is the line that was written, where it was one, and ``before`` the build as it was
    seen before. The state belongs to no session afterwards. A write that is undone leaves a mark
    that no build has.
    """
    session.flush()
    # The mark first: what moves in between makes the state newer than its mark, never older.
    mark = _mark_with(added, before) or fingerprint(session, build.id)
    assert mark is not None
    found = _seen(session, build.id, mark, added.line if added else None)
    assert found is not None
    return found


def _mark_with(added: Added | None, before: BuildState | None) -> Fingerprint | None:
    """A build's mark once a line was added; None where the database has to be asked for it."""
    mark = mark_of(before) if before is not None else None
    if added is None or before is None or mark is None:
        return None
    tool, usual = added.line.instrument_id, before.build.instrument_id
    if tool not in (None, usual) and tool not in before.named_tools:
        return None
    return mark.with_line(added.line.id, added.touched)


def look_ahead(session: Session, build: Build) -> None:
    """Work a build out as a write has left it, for whoever looks next; no fault stops the write."""
    try:
        _ = seen_after(session, build).suspicions
    except SQLAlchemyError:
        raise
    except Exception:
        _log.exception("Build %s cannot be computed", build.id)


def remembered(build_id: UUID, whole: str) -> BuildState | None:
    """A build whose state was worked out here under this mark; None where none was."""
    kept = _remembered.get((build_id, language.get().key))
    return kept[1] if kept is not None and kept[0].whole == whole else None


def mark_of(state: BuildState) -> Fingerprint | None:
    """The mark a state was worked out under; None for one that is not remembered."""
    kept = _remembered.get((state.build.id, language.get().key))
    return kept[0] if kept is not None and kept[1] is state else None


def _seen(
    session: Session, build_id: UUID, mark: Fingerprint, added: KeptLine | None = None
) -> BuildState | None:
    known = remembered(build_id, mark.whole)
    if known is not None:
        return known
    kept = _remembered.get((build_id, language.get().key))
    found = None if kept is None else _brought_up(session, *kept, mark, added)
    if found is None:
        found = next(iter(build_states(session, [build_id], mark.lacks)), None)
    if found is not None:
        _remember(session, mark, found)
    return found


def _brought_up(
    session: Session,
    before: Fingerprint,
    state: BuildState,
    now: Fingerprint,
    added: KeptLine | None,
) -> BuildState | None:
    """What is remembered with the lines that were added since.

    None where more than that has moved: a sum of ids tells lines that were undone, or kept
    out of their order.
    """
    if not before.lines or not now.but_for_the_log(before):
        return None
    count, last, total = before.counted

    def with_these(ids: Sequence[int]) -> str:
        return f"{count + len(ids)}:{max(ids, default=0)}:{total + sum(ids)}"

    if added is not None and with_these([added.id]) == now.lines:
        rows = {added.valve_id: [added]}
    else:
        rows = readings_since(session, [v.id for v in state.build.valves], last)
        if with_these([r.id for own in rows.values() for r in own]) != now.lines:
            return None
    for name, value in zip(("updated_at", "log_count"), now.touched, strict=True):
        set_committed_value(state.build, name, value)
    return state.with_lines(rows)


def _remember(session: Session, mark: Fingerprint, found: BuildState) -> None:
    found.settle()
    session.expunge_all()
    with _keeping:
        place = (found.build.id, mark.language)
        _remembered[place] = (mark, found)
        _remembered.move_to_end(place)
        while len(_remembered) > _MOST_REMEMBERED:
            _remembered.popitem(last=False)


class _Shop:
    """The shop around the builds of one request, asked for only when it is needed."""

    def __init__(self, session: Session, lacks: Collection[str]) -> None:
        self._session = session
        self._lacks = lacks
        self._box: list[BoxRod] | None = [] if "box" in lacks else None

    def box(self) -> list[BoxRod]:
        if self._box is None:
            self._box = list(self._session.scalars(_BOX))
        return self._box

    def orders(self, build_id: UUID) -> list[Order]:
        if "orders" in self._lacks:
            return []
        return list(self._session.scalars(_ORDERS, {"of": build_id}))

    def signature(self, build_id: UUID) -> Signature | None:
        if "signatures" in self._lacks:
            return None
        return self._session.scalar(_LAST_SIGNED, {"of": build_id})
