"""Orders, the shop's rod box, checks after fitting, signatures

Builds gain how their rods are decided, the rod itself, limits and torque figures.
Going back drops orders, box, checks and signatures: export the reports first.

Revision: 0004
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0004"
down_revision = "0003"

LENGTH = sa.Numeric(precision=10, scale=6)
TEXT = sa.String(200)
BUILD_COLUMNS = ("plan", "rod", "limits", "torque")


def _when(name: str, *, now: bool = False) -> sa.Column:  # type: ignore[type-arg]
    default = sa.text("clock_timestamp()") if now else None
    return sa.Column(name, sa.DateTime(timezone=True), nullable=not now, server_default=default)


def _of_build(table: str) -> tuple[sa.Column, sa.ForeignKeyConstraint]:  # type: ignore[type-arg]
    column = sa.Column("build_id", sa.Uuid(), nullable=False)
    return column, sa.ForeignKeyConstraint(
        ["build_id"], ["builds.id"], name=op.f(f"fk_{table}_build_id")
    )


def upgrade() -> None:
    for name in BUILD_COLUMNS:
        op.add_column("builds", sa.Column(name, JSONB(), nullable=True))
    op.add_column("builds", sa.Column("preload_school", TEXT, nullable=True))
    op.create_table(
        "box_rods",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("length_in", LENGTH, nullable=False),
        sa.Column("convention", TEXT, nullable=False),
        sa.Column("diameter_in", LENGTH, nullable=False),
        sa.Column("lifter_end", TEXT, nullable=False),
        sa.Column("rocker_end", TEXT, nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("note", TEXT, nullable=False),
        _when("created_at", now=True),
        sa.CheckConstraint("count >= 0", name=op.f("ck_box_rods_count")),
        sa.CheckConstraint("lifter_end IN ('ball', 'cup')", name=op.f("ck_box_rods_lifter_end")),
        sa.CheckConstraint("rocker_end IN ('ball', 'cup')", name=op.f("ck_box_rods_rocker_end")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_box_rods")),
    )
    op.create_table(
        "orders",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        *_of_build("orders"),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("purpose", TEXT, nullable=False),
        sa.Column("state", TEXT, nullable=False),
        sa.Column("supplier", TEXT, nullable=False),
        sa.Column("sheet", JSONB(), nullable=False),
        sa.Column("lines", JSONB(), nullable=False),
        sa.Column("answer", JSONB(), nullable=True),
        sa.Column("rods", JSONB(), nullable=True),
        sa.Column("reason", TEXT, nullable=False),
        sa.Column("made_by", TEXT, nullable=False),
        _when("made_at", now=True),
        _when("asked_at"),
        _when("placed_at"),
        _when("closed_at"),
        sa.CheckConstraint("purpose IN ('trial', 'set')", name=op.f("ck_orders_purpose")),
        sa.CheckConstraint(
            "state IN ('draft', 'placed', 'received', 'trial', 'fitted', 'withdrawn')",
            name=op.f("ck_orders_state"),
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_orders")),
        sa.UniqueConstraint("build_id", "number", name=op.f("uq_orders_build_id_number")),
    )
    op.create_table(
        "findings",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("key", sa.Uuid(), nullable=False),
        *_of_build("findings"),
        sa.Column("valve_id", sa.Uuid(), nullable=False),
        sa.Column("name", TEXT, nullable=False),
        sa.Column("way", TEXT, nullable=False),
        sa.Column("raw", TEXT, nullable=False),
        sa.Column("value_in", LENGTH, nullable=True),
        sa.Column("yes", sa.Boolean(), nullable=True),
        sa.Column("crank_deg", LENGTH, nullable=True),
        sa.Column("found_by", TEXT, nullable=False),
        _when("found_at", now=True),
        sa.CheckConstraint(
            "(value_in IS NULL) <> (yes IS NULL)", name=op.f("ck_findings_one_answer")
        ),
        sa.ForeignKeyConstraint(["valve_id"], ["valves.id"], name=op.f("fk_findings_valve_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_findings")),
        sa.UniqueConstraint("key", name=op.f("uq_findings_key")),
    )
    op.create_index(op.f("ix_findings_build_id"), "findings", ["build_id"])
    op.create_table(
        "signatures",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("key", sa.Uuid(), nullable=False),
        *_of_build("signatures"),
        sa.Column("signed_by", TEXT, nullable=False),
        sa.Column("reason", sa.String(2000), nullable=False),
        sa.Column("open_points", JSONB(), nullable=False),
        sa.Column("stamp", TEXT, nullable=False),
        _when("signed_at", now=True),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_signatures")),
        sa.UniqueConstraint("key", name=op.f("uq_signatures_key")),
    )
    op.create_index(op.f("ix_signatures_build_id"), "signatures", ["build_id"])


def downgrade() -> None:
    for table in ("signatures", "findings", "orders", "box_rods"):
        op.drop_table(table)
    for name in (*BUILD_COLUMNS, "preload_school"):
        op.drop_column("builds", name)
