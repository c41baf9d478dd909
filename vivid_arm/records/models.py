"""Tables. Lengths are exact decimals of an inch; readings are never changed or deleted."""

from datetime import datetime
from decimal import Decimal
from typing import Any, ClassVar
from uuid import UUID, uuid4

from sqlalchemy import (
    CheckConstraint,
    DateTime,
    ForeignKey,
    MetaData,
    Numeric,
    String,
    UniqueConstraint,
    func,
)
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

LENGTH = Numeric(10, 6)


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
    }


class Instrument(Base):
    """A checking rod (closed length, pitch, turns) or a caliper (range)."""

    __tablename__ = "instruments"
    __table_args__ = (
        CheckConstraint("kind IN ('checking_rod', 'caliper')", name="kind"),
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
    created_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())

    __mapper_args__ = {"version_id_col": version}  # noqa: RUF012


class Build(Base):
    """One engine being measured, with its lifter, rods and what was picked."""

    __tablename__ = "builds"
    __table_args__ = (
        CheckConstraint("layout IN ('single', 'inline', 'v', 'flat')", name="layout"),
        CheckConstraint("cylinders BETWEEN 1 AND 16", name="cylinders"),
        CheckConstraint("bias IN ('longer', 'shorter')", name="bias"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1)
    name: Mapped[str]
    layout: Mapped[str]
    cylinders: Mapped[int]
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
    created_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    updated_at: Mapped[datetime] = mapped_column(
        server_default=func.clock_timestamp(), onupdate=func.clock_timestamp()
    )

    instrument: Mapped[Instrument | None] = relationship(lazy="raise")
    valves: Mapped[list["Valve"]] = relationship(
        lazy="raise",
        order_by="[Valve.cylinder, Valve.kind.desc()]",
        back_populates="build",
    )

    __mapper_args__ = {"version_id_col": version}  # noqa: RUF012


class Valve(Base):
    """One valve of a build; ``expected_in`` is the length it is thought to need."""

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

    build: Mapped[Build] = relationship(lazy="raise", back_populates="valves")

    __mapper_args__ = {"version_id_col": version}  # noqa: RUF012


class Reading(Base):
    """One line of the log. A later line with ``replaces_id`` strikes an earlier one out.

    ``raw`` is what was typed, ``length_in`` and ``gap_in`` what it was read as
    then, ``build_version`` the state of the build it was taken on. Trials are numbered
    from 1 on each valve.
    """

    __tablename__ = "readings"
    __table_args__ = (
        UniqueConstraint("valve_id", "number"),
        CheckConstraint("kind IN ('trial', 'count_back', 'void')", name="kind"),
        CheckConstraint("kind <> 'void' OR replaces_id IS NOT NULL", name="void_refers"),
        CheckConstraint(
            "kind <> 'trial' OR (feel IN ('loose', 'zero', 'tight') AND length_in IS NOT NULL)",
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
    replaces_id: Mapped[int | None] = mapped_column(ForeignKey("readings.id"), unique=True)
    reason: Mapped[str]
    taken_by: Mapped[str]
    build_version: Mapped[int]
    taken_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())

    instrument: Mapped[Instrument | None] = relationship(lazy="raise")
