"""Tables. Lengths are exact decimals of an inch; readings are never changed or deleted."""

from datetime import datetime
from decimal import Decimal
from typing import Any, ClassVar
from uuid import UUID, uuid4

from pydantic import TypeAdapter, ValidationError
from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    DateTime,
    Dialect,
    ForeignKey,
    Index,
    LargeBinary,
    MetaData,
    Numeric,
    String,
    TypeDecorator,
    UniqueConstraint,
    func,
    text,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

from vivid_arm.core.practice.faults import FaultKind
from vivid_arm.core.practice.tools import Bench
from vivid_arm.records.fields import fault_of
from vivid_arm.records.shapes import (
    CamFigures,
    EngineFigures,
    FinalFigures,
    Limits,
    LobeTables,
    MeasuredRod,
    OrderedLine,
    PhotoGuess,
    PriorFigures,
    Repeats,
    RockerGeometry,
    RodFigures,
    RodPlanFigures,
    SeenFigures,
    StartingFigures,
    TorqueFigures,
    TurnsFigures,
)

LENGTH = Numeric(10, 6)
Json = dict[str, Any]


class UnreadableShape(ValueError):
    """A kept figure that no check would let in today; the words say which, and why."""


class Unreadable:
    """Stands in for a kept shape that cannot be read: whoever uses it is told which and why.

    ``raw`` is what is kept, so that it can still be exported.
    """

    def __init__(self, words: str, raw: Any) -> None:
        self._words = words
        self.raw = raw

    def __getattr__(self, name: str) -> Any:
        raise UnreadableShape(self._words)

    def _refuse(self, *_: Any) -> Any:
        raise UnreadableShape(self._words)

    __getitem__ = __iter__ = __len__ = __contains__ = _refuse


class Shape(TypeDecorator[Any]):
    """A JSON column of a Pydantic shape, validated when it is written and when it is read."""

    impl = JSONB(none_as_null=True)
    cache_ok = True

    def __init__(self, kind: Any) -> None:
        super().__init__()
        self.kind = kind
        self._adapter: TypeAdapter[Any] = TypeAdapter(kind)

    def read(self, value: Any) -> Any:
        """The shape of plain JSON, or of a shape. Raises ValidationError."""
        return self._adapter.validate_python(value)

    def plain(self, value: Any) -> Any:
        """A shape as plain JSON."""
        return self._adapter.dump_python(value, mode="json", by_alias=True, exclude_none=True)

    def process_bind_param(self, value: Any, dialect: Dialect) -> Any:
        return None if value is None else self.plain(self.read(value))

    def process_result_value(self, value: Any, dialect: Dialect) -> Any:
        if value is None:
            return None
        try:
            return self.read(value)
        except ValidationError as error:
            return Unreadable(": ".join(fault_of(error.errors())), value)


class Base(DeclarativeBase):
    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_N_name)s",
            "uq": "uq_%(table_name)s_%(column_0_N_name)s",
            "ck": "ck_%(table_name)s_%(constraint_name)s",
            "fk": "fk_%(table_name)s_%(column_0_N_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map: ClassVar[dict[Any, Any]] = {
        Decimal: LENGTH,
        datetime: DateTime(timezone=True),
        str: String(200),
        Json: JSONB(none_as_null=True),
    }


class Instrument(Base):
    """A checking rod (closed length, pitch, turns), a caliper (range) or an indicator."""

    __tablename__ = "instruments"
    __table_args__ = (
        CheckConstraint("kind IN ('checking_rod', 'caliper', 'indicator')", name="kind"),
        CheckConstraint(
            "kind <> 'checking_rod' OR (closed_in IS NOT NULL AND pitch_in IS NOT NULL"
            " AND most_turns IS NOT NULL)",
            name="checking_rod_complete",
        ),
        CheckConstraint(
            "kind <> 'caliper' OR (low_in IS NOT NULL AND high_in IS NOT NULL)",
            name="caliper_complete",
        ),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1)
    kind: Mapped[str]
    name: Mapped[str]
    convention: Mapped[str]
    closed_in: Mapped[Decimal | None]
    pitch_in: Mapped[Decimal | None]
    most_turns: Mapped[Decimal | None]
    low_in: Mapped[Decimal | None]
    high_in: Mapped[Decimal | None]
    accuracy_in: Mapped[Decimal | None]
    resolution_in: Mapped[Decimal | None]
    practice: Mapped[bool] = mapped_column(server_default="false", default=False)
    created_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())

    __mapper_args__ = {"version_id_col": version}  # noqa: RUF012


class Build(Base):
    """One engine being measured, with its lifter, rods and what was picked.

    A build with ``removed_at`` is in the archive, one with ``binned_at`` in the bin: off the
    board, and nothing of it lost. One with an
    ``exercise_id`` is a practice engine: never on the board, and never ordered for.
    ``engine`` is None for the usual engine of its layout; ``prior`` holds the
    last known rods and what changed since. ``log_count`` grows with every
    reading, so that what was computed from the log can be told to be stale.
    """

    __tablename__ = "builds"
    __table_args__ = (
        CheckConstraint("layout IN ('single', 'inline', 'v', 'flat')", name="layout"),
        CheckConstraint("cylinders BETWEEN 1 AND 16", name="cylinders"),
        CheckConstraint("bias IN ('longer', 'shorter')", name="bias"),
        CheckConstraint("lifter_kind IN ('hydraulic', 'solid')", name="lifter_kind"),
        CheckConstraint("lifter_foot IN ('flat', 'roller')", name="lifter_foot"),
        CheckConstraint(
            "mount IN ('stud', 'pedestal', 'shaft', 'shaft_adjustable', 'stands')", name="mount"
        ),
        Index("ix_builds_updated_at", "updated_at"),
        Index("ix_builds_name_lower", text("lower(name)")),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1)
    name: Mapped[str]
    layout: Mapped[str]
    cylinders: Mapped[int]
    r0_intake: Mapped[Decimal | None]
    r0_exhaust: Mapped[Decimal | None]
    ratio_intake: Mapped[Decimal]
    ratio_exhaust: Mapped[Decimal]
    preload_low_in: Mapped[Decimal]
    preload_high_in: Mapped[Decimal]
    preload_target_in: Mapped[Decimal]
    travel_in: Mapped[Decimal]
    instrument_id: Mapped[UUID | None] = mapped_column(ForeignKey("instruments.id"))
    gaps: Mapped[bool]
    lifter_end: Mapped[str]
    lifter_ball_in: Mapped[Decimal]
    lifter_hole_in: Mapped[Decimal]
    rocker_end: Mapped[str]
    rocker_ball_in: Mapped[Decimal]
    rocker_hole_in: Mapped[Decimal]
    gauge_circle_in: Mapped[Decimal]
    order_convention: Mapped[str]
    stock_step_in: Mapped[Decimal]
    bias: Mapped[str]
    picked_intake_in: Mapped[Decimal | None]
    picked_exhaust_in: Mapped[Decimal | None]
    engine: Mapped[EngineFigures | None] = mapped_column(Shape(EngineFigures))
    cam: Mapped[CamFigures | None] = mapped_column(Shape(CamFigures))
    lobe_tables: Mapped[LobeTables | None] = mapped_column(Shape(LobeTables))
    prior: Mapped[PriorFigures | None] = mapped_column(Shape(PriorFigures))
    final: Mapped[FinalFigures | None] = mapped_column(Shape(FinalFigures))
    guard_deg: Mapped[Decimal]
    lifter_kind: Mapped[str]
    lifter_foot: Mapped[str]
    seat_height_in: Mapped[Decimal | None]
    checking_seat_in: Mapped[Decimal | None]
    lash_intake_in: Mapped[Decimal | None]
    lash_exhaust_in: Mapped[Decimal | None]
    mount: Mapped[str]
    fastener_pitch_in: Mapped[Decimal]
    geometry: Mapped[RockerGeometry | None] = mapped_column(Shape(RockerGeometry))
    preload_school: Mapped[str | None]
    preload_turns: Mapped[TurnsFigures | None] = mapped_column(Shape(TurnsFigures))
    plan: Mapped[RodPlanFigures | None] = mapped_column(Shape(RodPlanFigures))
    rod: Mapped[RodFigures | None] = mapped_column(Shape(RodFigures))
    limits: Mapped[Limits | None] = mapped_column(Shape(Limits))
    torque: Mapped[TorqueFigures | None] = mapped_column(Shape(TorqueFigures))
    starting: Mapped[StartingFigures | None] = mapped_column(Shape(StartingFigures))
    log_count: Mapped[int] = mapped_column(default=0)
    exercise_id: Mapped[UUID | None] = mapped_column(index=True)
    removed_at: Mapped[datetime | None]
    binned_at: Mapped[datetime | None]
    created_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    updated_at: Mapped[datetime] = mapped_column(
        server_default=func.clock_timestamp(), onupdate=func.clock_timestamp()
    )

    instrument: Mapped[Instrument | None] = relationship(lazy="raise_on_sql")
    valves: Mapped[list["Valve"]] = relationship(
        lazy="raise_on_sql",
        order_by="[Valve.cylinder, Valve.kind.desc()]",
        back_populates="build",
    )

    __mapper_args__ = {"version_id_col": version}  # noqa: RUF012


class Valve(Base):
    """One valve of a build; ``expected_in`` is the length it is thought to need.

    ``stem_in``: how much taller its stem's tip stands than the others', or lower below zero.
    """

    __tablename__ = "valves"
    __table_args__ = (
        UniqueConstraint("build_id", "cylinder", "kind"),
        CheckConstraint("kind IN ('intake', 'exhaust')", name="kind"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    version: Mapped[int] = mapped_column(default=1)
    build_id: Mapped[UUID] = mapped_column(ForeignKey("builds.id"))
    cylinder: Mapped[int]
    kind: Mapped[str]
    expected_in: Mapped[Decimal | None]
    stem_in: Mapped[Decimal | None]

    build: Mapped[Build] = relationship(lazy="raise_on_sql", back_populates="valves")

    __mapper_args__ = {"version_id_col": version}  # noqa: RUF012


class Reading(Base):
    """One line of the log. A later line with ``replaces_id`` strikes an earlier one out.

    ``raw`` is what was typed, ``length_in`` and ``gap_in`` what it was read as
    then, ``build_version`` the state of the build it was taken on. Trials and
    measurements are numbered from 1 on each valve. ``rod_in`` is the known rod of
    a measurement or a mark, in ``rod_convention``; ``repeats`` are repeated readings.
    ``seen`` is what was seen of a mark, ``shim_in`` the shim under the stand then,
    ``crank_deg`` the stop of the plan that the crank stood at.
    """

    __tablename__ = "readings"
    __table_args__ = (
        UniqueConstraint("valve_id", "number"),
        CheckConstraint(
            "kind IN ('trial', 'count_back', 'void', 'extend', 'turns', 'indicator',"
            " 'gap_short', 'gap_bottomed', 'mark')",
            name="kind",
        ),
        CheckConstraint("kind <> 'mark' OR seen IS NOT NULL", name="mark_complete"),
        CheckConstraint(
            "kind <> 'turns' OR (turns IS NOT NULL AND pitch_in IS NOT NULL)", name="turns_complete"
        ),
        CheckConstraint("kind <> 'extend' OR repeats IS NOT NULL", name="extend_complete"),
        CheckConstraint("kind <> 'indicator' OR push_in IS NOT NULL", name="indicator_complete"),
        CheckConstraint(
            "kind NOT IN ('gap_short', 'gap_bottomed') OR gap_in IS NOT NULL", name="gap_complete"
        ),
        CheckConstraint("kind <> 'gap_short' OR rod_in IS NOT NULL", name="gap_short_complete"),
        CheckConstraint("kind <> 'void' OR replaces_id IS NOT NULL", name="void_refers"),
        CheckConstraint(
            "kind <> 'trial' OR (feel IN ('loose', 'zero', 'tight', 'no_lash', 'barely', 'quite') "
            "AND length_in IS NOT NULL)",
            name="trial_complete",
        ),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[UUID] = mapped_column(unique=True)
    valve_id: Mapped[UUID] = mapped_column(ForeignKey("valves.id"), index=True)
    instrument_id: Mapped[UUID | None] = mapped_column(ForeignKey("instruments.id"))
    kind: Mapped[str]
    number: Mapped[int | None]
    raw: Mapped[str]
    raw_gap: Mapped[str]
    turns: Mapped[Decimal | None]
    length_in: Mapped[Decimal | None]
    feel: Mapped[str | None]
    gap_in: Mapped[Decimal | None]
    raw_rod: Mapped[str]
    rod_in: Mapped[Decimal | None]
    rod_convention: Mapped[str | None]
    pitch_in: Mapped[Decimal | None]
    push_in: Mapped[Decimal | None]
    crank_deg: Mapped[Decimal | None]
    repeats: Mapped[Repeats | None] = mapped_column(Shape(Repeats))
    shim_in: Mapped[Decimal | None]
    seen: Mapped[SeenFigures | None] = mapped_column(Shape(SeenFigures))
    replaces_id: Mapped[int | None] = mapped_column(ForeignKey("readings.id"), unique=True)
    reason: Mapped[str]
    taken_by: Mapped[str]
    build_version: Mapped[int]
    taken_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())

    instrument: Mapped[Instrument | None] = relationship(lazy="raise_on_sql")


class Photo(Base):
    """A photo of a valve tip, made anew as JPEG without what the camera wrote beside it."""

    __tablename__ = "photos"

    id: Mapped[UUID] = mapped_column(primary_key=True)
    build_id: Mapped[UUID] = mapped_column(ForeignKey("builds.id"), index=True)
    width: Mapped[int]
    height: Mapped[int]
    body: Mapped[bytes] = mapped_column(LargeBinary)
    guess: Mapped[PhotoGuess | None] = mapped_column(Shape(PhotoGuess))
    created_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())


class Note(Base):
    """A note on a build, a valve of it or a reading, maybe with a photo.

    A later one with ``replaces_id`` stands in its place; without words it takes it away.
    """

    __tablename__ = "notes"

    id: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[UUID] = mapped_column(unique=True)
    build_id: Mapped[UUID] = mapped_column(ForeignKey("builds.id"), index=True)
    valve_id: Mapped[UUID | None] = mapped_column(ForeignKey("valves.id"))
    reading_id: Mapped[int | None] = mapped_column(ForeignKey("readings.id"))
    photo_id: Mapped[UUID | None] = mapped_column(ForeignKey("photos.id"))
    replaces_id: Mapped[int | None] = mapped_column(ForeignKey("notes.id"), unique=True)
    body: Mapped[str] = mapped_column(String(2000))
    by: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())


class BoxRod(Base):
    """Rods of one length on the shop's own shelf; ``count`` are there now."""

    __tablename__ = "box_rods"
    __table_args__ = (
        CheckConstraint("count >= 0", name="count"),
        CheckConstraint("lifter_end IN ('ball', 'cup')", name="lifter_end"),
        CheckConstraint("rocker_end IN ('ball', 'cup')", name="rocker_end"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1)
    length_in: Mapped[Decimal]
    convention: Mapped[str]
    diameter_in: Mapped[Decimal]
    lifter_end: Mapped[str]
    rocker_end: Mapped[str]
    count: Mapped[int]
    note: Mapped[str]
    created_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())

    __mapper_args__ = {"version_id_col": version}  # noqa: RUF012


class Order(Base):
    """Rods ordered for a build. ``id`` is also the key a supplier knows the order by.

    ``sheet`` is the order sheet with the data behind it and ``lines`` what is bought
    or taken from the box; both are frozen once ``asked_at`` is set, before the supplier
    is called for the first time. ``answer`` is the supplier's last word, ``rods`` the
    received rods as measured.
    """

    __tablename__ = "orders"
    __table_args__ = (
        UniqueConstraint("build_id", "number"),
        CheckConstraint("purpose IN ('trial', 'set')", name="purpose"),
        CheckConstraint(
            "state IN ('draft', 'asked', 'unknown', 'placed', 'received', 'trial', 'fitted',"
            " 'withdrawn')",
            name="state",
        ),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1)
    build_id: Mapped[UUID] = mapped_column(ForeignKey("builds.id"))
    number: Mapped[int]
    purpose: Mapped[str]
    state: Mapped[str]
    supplier: Mapped[str]
    sheet: Mapped[Json]
    lines: Mapped[list[OrderedLine]] = mapped_column(Shape(list[OrderedLine]))
    answer: Mapped[Json | None]
    rods: Mapped[list[MeasuredRod] | None] = mapped_column(Shape(list[MeasuredRod]))
    reason: Mapped[str]
    made_by: Mapped[str]
    made_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    asked_at: Mapped[datetime | None]
    placed_at: Mapped[datetime | None]
    closed_at: Mapped[datetime | None]

    __mapper_args__ = {"version_id_col": version}  # noqa: RUF012


class Finding(Base):
    """One check after fitting, as found. The latest of a valve and check counts; none is lost.

    ``read`` is the figure that was read where the value follows from it: turns of the
    fastener, the rod's push or a gap in inches. The value is worked out again from it.
    """

    __tablename__ = "findings"
    __table_args__ = (
        Index("ix_findings_build_id", "build_id"),
        CheckConstraint("(value_in IS NULL) <> (yes IS NULL)", name="one_answer"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[UUID] = mapped_column(unique=True)
    build_id: Mapped[UUID] = mapped_column(ForeignKey("builds.id"))
    valve_id: Mapped[UUID] = mapped_column(ForeignKey("valves.id"))
    name: Mapped[str]
    way: Mapped[str]
    raw: Mapped[str]
    read: Mapped[Decimal | None]
    value_in: Mapped[Decimal | None]
    yes: Mapped[bool | None]
    crank_deg: Mapped[Decimal | None]
    found_by: Mapped[str]
    found_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())


class Signature(Base):
    """A build signed off: by whom, what was still open, the written reason for that.

    ``stamp`` marks everything it was signed on (see ``fingerprint``); a build that has
    moved on since is said to be signed before that.
    """

    __tablename__ = "signatures"
    __table_args__ = (Index("ix_signatures_build_id", "build_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[UUID] = mapped_column(unique=True)
    build_id: Mapped[UUID] = mapped_column(ForeignKey("builds.id"))
    signed_by: Mapped[str]
    reason: Mapped[str] = mapped_column(String(2000))
    open_points: Mapped[list[str]] = mapped_column(Shape(list[str]))
    stamp: Mapped[str]
    signed_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())


class Exercise(Base):
    """A practice engine by its scenario and seed, how its bench stands, and how it ended.

    ``named``: the faults that the builder named; ``hints`` he took; ``ending`` once it has run.
    """

    __tablename__ = "exercises"

    id: Mapped[UUID] = mapped_column(primary_key=True)
    build_id: Mapped[UUID] = mapped_column(ForeignKey("builds.id"), unique=True)
    scenario: Mapped[str]
    seed: Mapped[int] = mapped_column(BigInteger)
    sealed: Mapped[bool]
    person: Mapped[str]
    bench: Mapped[Bench] = mapped_column(Shape(Bench))
    named: Mapped[list[FaultKind]] = mapped_column(Shape(list[FaultKind]))
    hints: Mapped[int] = mapped_column(default=0)
    rods_bought: Mapped[int] = mapped_column(default=0)
    ending: Mapped[Json | None]
    thrown_away: Mapped[bool] = mapped_column(default=False)
    started_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    ended_at: Mapped[datetime | None]


class DoneDeed(Base):
    """One deed at a practice bench: what was done, how, and what it gave. The same key is one."""

    __tablename__ = "deeds"
    __table_args__ = (UniqueConstraint("exercise_id", "number"),)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    key: Mapped[UUID] = mapped_column(unique=True)
    exercise_id: Mapped[UUID] = mapped_column(ForeignKey("exercises.id"), index=True)
    number: Mapped[int]
    name: Mapped[str]
    how: Mapped[Json] = mapped_column(JSONB)
    got: Mapped[Json] = mapped_column(JSONB)
    done_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())


class Summary(Base):
    """What the board shows of a build, as computed at ``stamp``; made anew when that is stale.

    ``language``: the key of the language and unit it is said in. ``lesson`` is what it tells
    the shop; None where it cannot be computed.
    """

    __tablename__ = "summaries"

    build_id: Mapped[UUID] = mapped_column(ForeignKey("builds.id"), primary_key=True)
    language: Mapped[str] = mapped_column(String(8), primary_key=True)
    stamp: Mapped[str]
    body: Mapped[Json]
    lesson: Mapped[Json | None]


class Link(Base):
    """A link of a build's chain: one line of log, findings, notes, signatures or a frozen order.

    Made by the database itself. ``digest`` is SHA-256 over the digest before it and
    ``content_digest``, so that a line changed, or taken out by whatever way, is found.
    """

    __tablename__ = "evidence"
    __table_args__ = (UniqueConstraint("build_id", "number"),)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    build_id: Mapped[UUID] = mapped_column(ForeignKey("builds.id"))
    number: Mapped[int]
    kind: Mapped[str] = mapped_column(String(20))
    row_id: Mapped[str] = mapped_column(String(40))
    content_digest: Mapped[str] = mapped_column(String(64))
    digest: Mapped[str] = mapped_column(String(64))


class Change(Base):
    """What was changed of a set-up, instrument, shelf or order: old and new, and by whom."""

    __tablename__ = "changes"
    __table_args__ = (Index("ix_changes_row_id", "row_id"),)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    of_table: Mapped[str] = mapped_column(String(40))
    row_id: Mapped[str] = mapped_column(String(40))
    by: Mapped[str]
    old: Mapped[Json] = mapped_column(JSONB)
    new: Mapped[Json] = mapped_column(JSONB)
    at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())


class Account(Base):
    """Someone of the shop, where it has accounts. ``password``: Argon2id; None until it is set."""

    __tablename__ = "accounts"
    __table_args__ = (
        CheckConstraint("role IN ('owner', 'builder', 'apprentice', 'viewer')", name="known_role"),
        Index("uq_accounts_name", text("lower(name)"), unique=True),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1)
    name: Mapped[str] = mapped_column(String(60))
    role: Mapped[str] = mapped_column(String(20))
    active: Mapped[bool]
    password: Mapped[str | None] = mapped_column(String(200))
    made_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())

    __mapper_args__ = {"version_id_col": version}  # noqa: RUF012


class Invitation(Base):
    """A code for one use: it makes the first owner, sets a password, or ``pairs`` a device."""

    __tablename__ = "invitations"

    code_digest: Mapped[str] = mapped_column(String(64), primary_key=True)
    account_id: Mapped[UUID | None] = mapped_column(ForeignKey("accounts.id"))
    until: Mapped[datetime]
    pairs: Mapped[bool] = mapped_column(default=False)


class SignedIn(Base):
    """A browser that is signed in, by the digest of its token, and where it stands.

    ``label`` is what a paired device is called; ``turns`` the setting its page shows.
    """

    __tablename__ = "sign_ins"

    id: Mapped[UUID] = mapped_column(primary_key=True)
    token_digest: Mapped[str] = mapped_column(String(64), unique=True)
    account_id: Mapped[UUID] = mapped_column(ForeignKey("accounts.id"), index=True)
    device: Mapped[str] = mapped_column(String(120))
    address: Mapped[str] = mapped_column(String(60))
    made_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    seen_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    ended_at: Mapped[datetime | None]
    label: Mapped[str] = mapped_column(String(40), default="")
    station: Mapped[str | None] = mapped_column(String(20))
    build_id: Mapped[UUID | None]
    valve_id: Mapped[UUID | None]
    turns: Mapped[Decimal | None] = mapped_column(Numeric(6, 3))
    there_at: Mapped[datetime | None]


class SignInTry(Base):
    """How often signing in failed of late, for a name or from an address."""

    __tablename__ = "sign_in_tries"

    key: Mapped[str] = mapped_column(String(120), primary_key=True)
    count: Mapped[int]
    at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())


class Nod(Base):
    """A builder has looked at a valve's log down to a line."""

    __tablename__ = "nods"

    id: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[UUID] = mapped_column(unique=True)
    valve_id: Mapped[UUID] = mapped_column(ForeignKey("valves.id"), index=True)
    reading_id: Mapped[int] = mapped_column(ForeignKey("readings.id"))
    by: Mapped[str] = mapped_column(String(60))
    at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())


class Pulse(Base):
    """The shop's one row: written to see whether anything can be; ``shop`` tells shops apart.

    ``nods``: whether an apprentice's valves wait for a builder's nod.
    """

    __tablename__ = "pulse"

    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    shop: Mapped[UUID] = mapped_column(server_default=func.gen_random_uuid())
    nods: Mapped[bool] = mapped_column(server_default="false", default=False)
