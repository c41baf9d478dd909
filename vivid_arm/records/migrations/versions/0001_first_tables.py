"""Instruments, builds, valves and the reading log

The first tables. Readings are append-only: a trigger refuses to change or delete
a row, so that a correction can only refer to what it replaces. Going back drops
everything; export the builds first.

Revision: 0001
"""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None

REFUSE_CHANGE = """
CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'readings are append-only: add a line that refers to the old one';
END $$
"""


def upgrade() -> None:
    op.create_table(
        "instruments",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(length=200), nullable=False),
        sa.Column("name", sa.String(length=200), nullable=False),
        sa.Column("convention", sa.String(length=200), nullable=False),
        sa.Column("closed_in", sa.Numeric(precision=10, scale=6), nullable=True),
        sa.Column("pitch_in", sa.Numeric(precision=10, scale=6), nullable=True),
        sa.Column("most_turns", sa.Numeric(precision=10, scale=6), nullable=True),
        sa.Column("low_in", sa.Numeric(precision=10, scale=6), nullable=True),
        sa.Column("high_in", sa.Numeric(precision=10, scale=6), nullable=True),
        sa.Column("accuracy_in", sa.Numeric(precision=10, scale=6), nullable=True),
        sa.Column(
            "created_at",
            sa.DateTime(timezone=True),
            server_default=sa.text("clock_timestamp()"),
            nullable=False,
        ),
        sa.CheckConstraint(
            "kind <> 'caliper' OR (low_in IS NOT NULL AND high_in IS NOT NULL)",
            name=op.f("ck_instruments_caliper_complete"),
        ),
        sa.CheckConstraint(
            "kind <> 'checking_rod' OR (closed_in IS NOT NULL AND pitch_in IS NOT NULL"
            " AND most_turns IS NOT NULL)",
            name=op.f("ck_instruments_checking_rod_complete"),
        ),
        sa.CheckConstraint("kind IN ('checking_rod', 'caliper')", name=op.f("ck_instruments_kind")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_instruments")),
    )
    op.create_table(
        "builds",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=200), nullable=False),
        sa.Column("layout", sa.String(length=200), nullable=False),
        sa.Column("cylinders", sa.Integer(), nullable=False),
        sa.Column("ratio_intake", sa.Numeric(precision=10, scale=6), nullable=False),
        sa.Column("ratio_exhaust", sa.Numeric(precision=10, scale=6), nullable=False),
        sa.Column("preload_low_in", sa.Numeric(precision=10, scale=6), nullable=False),
        sa.Column("preload_high_in", sa.Numeric(precision=10, scale=6), nullable=False),
        sa.Column("preload_target_in", sa.Numeric(precision=10, scale=6), nullable=False),
        sa.Column("travel_in", sa.Numeric(precision=10, scale=6), nullable=False),
        sa.Column("instrument_id", sa.Uuid(), nullable=True),
        sa.Column("gaps", sa.Boolean(), nullable=False),
        sa.Column("lifter_end", sa.String(length=200), nullable=False),
        sa.Column("lifter_ball_in", sa.Numeric(precision=10, scale=6), nullable=False),
        sa.Column("lifter_hole_in", sa.Numeric(precision=10, scale=6), nullable=False),
        sa.Column("rocker_end", sa.String(length=200), nullable=False),
        sa.Column("rocker_ball_in", sa.Numeric(precision=10, scale=6), nullable=False),
        sa.Column("rocker_hole_in", sa.Numeric(precision=10, scale=6), nullable=False),
        sa.Column("gauge_circle_in", sa.Numeric(precision=10, scale=6), nullable=False),
        sa.Column("order_convention", sa.String(length=200), nullable=False),
        sa.Column("stock_step_in", sa.Numeric(precision=10, scale=6), nullable=False),
        sa.Column("bias", sa.String(length=200), nullable=False),
        sa.Column("picked_intake_in", sa.Numeric(precision=10, scale=6), nullable=True),
        sa.Column("picked_exhaust_in", sa.Numeric(precision=10, scale=6), nullable=True),
        sa.Column(
            "created_at",
            sa.DateTime(timezone=True),
            server_default=sa.text("clock_timestamp()"),
            nullable=False,
        ),
        sa.Column(
            "updated_at",
            sa.DateTime(timezone=True),
            server_default=sa.text("clock_timestamp()"),
            nullable=False,
        ),
        sa.CheckConstraint("bias IN ('longer', 'shorter')", name=op.f("ck_builds_bias")),
        sa.CheckConstraint(
            "layout IN ('single', 'inline', 'v', 'flat')", name=op.f("ck_builds_layout")
        ),
        sa.CheckConstraint("cylinders BETWEEN 1 AND 16", name=op.f("ck_builds_cylinders")),
        sa.ForeignKeyConstraint(
            ["instrument_id"], ["instruments.id"], name=op.f("fk_builds_instrument_id")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_builds")),
    )
    op.create_table(
        "valves",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("build_id", sa.Uuid(), nullable=False),
        sa.Column("cylinder", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(length=200), nullable=False),
        sa.Column("expected_in", sa.Numeric(precision=10, scale=6), nullable=True),
        sa.CheckConstraint("kind IN ('intake', 'exhaust')", name=op.f("ck_valves_kind")),
        sa.ForeignKeyConstraint(["build_id"], ["builds.id"], name=op.f("fk_valves_build_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_valves")),
        sa.UniqueConstraint(
            "build_id",
            "cylinder",
            "kind",
            name=op.f("uq_valves_build_id_cylinder_kind"),
        ),
    )
    op.create_table(
        "readings",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("key", sa.Uuid(), nullable=False),
        sa.Column("valve_id", sa.Uuid(), nullable=False),
        sa.Column("instrument_id", sa.Uuid(), nullable=True),
        sa.Column("kind", sa.String(length=200), nullable=False),
        sa.Column("number", sa.Integer(), nullable=True),
        sa.Column("raw", sa.String(length=200), nullable=False),
        sa.Column("raw_gap", sa.String(length=200), nullable=False),
        sa.Column("turns", sa.Numeric(precision=10, scale=6), nullable=True),
        sa.Column("length_in", sa.Numeric(precision=10, scale=6), nullable=True),
        sa.Column("feel", sa.String(length=200), nullable=True),
        sa.Column("gap_in", sa.Numeric(precision=10, scale=6), nullable=True),
        sa.Column("replaces_id", sa.Integer(), nullable=True),
        sa.Column("reason", sa.String(length=200), nullable=False),
        sa.Column("taken_by", sa.String(length=200), nullable=False),
        sa.Column("build_version", sa.Integer(), nullable=False),
        sa.Column(
            "taken_at",
            sa.DateTime(timezone=True),
            server_default=sa.text("clock_timestamp()"),
            nullable=False,
        ),
        sa.CheckConstraint(
            "kind <> 'trial' OR (feel IN ('loose', 'zero', 'tight') AND length_in IS NOT NULL)",
            name=op.f("ck_readings_trial_complete"),
        ),
        sa.CheckConstraint(
            "kind <> 'void' OR replaces_id IS NOT NULL",
            name=op.f("ck_readings_void_refers"),
        ),
        sa.CheckConstraint(
            "kind IN ('trial', 'count_back', 'void')", name=op.f("ck_readings_kind")
        ),
        sa.ForeignKeyConstraint(
            ["instrument_id"],
            ["instruments.id"],
            name=op.f("fk_readings_instrument_id"),
        ),
        sa.ForeignKeyConstraint(
            ["replaces_id"], ["readings.id"], name=op.f("fk_readings_replaces_id")
        ),
        sa.ForeignKeyConstraint(["valve_id"], ["valves.id"], name=op.f("fk_readings_valve_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_readings")),
        sa.UniqueConstraint("key", name=op.f("uq_readings_key")),
        sa.UniqueConstraint("replaces_id", name=op.f("uq_readings_replaces_id")),
        sa.UniqueConstraint("valve_id", "number", name=op.f("uq_readings_valve_id_number")),
    )
    op.create_index(op.f("ix_readings_valve_id"), "readings", ["valve_id"], unique=False)
    op.execute(REFUSE_CHANGE)
    op.execute(
        "CREATE TRIGGER readings_append_only BEFORE UPDATE OR DELETE ON readings "
        "FOR EACH ROW EXECUTE FUNCTION refuse_change()"
    )


def downgrade() -> None:
    op.drop_index(op.f("ix_readings_valve_id"), table_name="readings")
    op.drop_table("readings")
    op.execute("DROP FUNCTION refuse_change")
    op.drop_table("valves")
    op.drop_table("builds")
    op.drop_table("instruments")
