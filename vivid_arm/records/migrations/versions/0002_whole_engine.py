"""The whole engine: firing order, cam card, lifter, mount, measurements, board summaries

Builds gain engine, cam card, measured lobes, what changed, lifter and rocker
figures; readings gain the methods beside the bracket; instruments the indicator.
Going back drops what these columns hold and fails while the log has
measurements or the shop an indicator: export the builds first.

Revision: 0002
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0002"
down_revision = "0001"

LENGTH = sa.Numeric(precision=10, scale=6)
NEW_KINDS = (
    "kind IN ('trial', 'count_back', 'void', 'extend', 'turns', 'indicator',"
    " 'gap_short', 'gap_bottomed')"
)
COMPLETE = {
    "turns_complete": "kind <> 'turns' OR (turns IS NOT NULL AND pitch_in IS NOT NULL)",
    "extend_complete": "kind <> 'extend' OR repeats IS NOT NULL",
    "indicator_complete": "kind <> 'indicator' OR push_in IS NOT NULL",
    "gap_complete": "kind NOT IN ('gap_short', 'gap_bottomed') OR gap_in IS NOT NULL",
    "gap_short_complete": "kind <> 'gap_short' OR rod_in IS NOT NULL",
}
OF_BUILD = {
    "lifter_kind": "lifter_kind IN ('hydraulic', 'solid')",
    "lifter_foot": "lifter_foot IN ('flat', 'roller')",
    "mount": "mount IN ('stud', 'pedestal', 'shaft', 'shaft_adjustable', 'stands')",
}
FILLED = (
    ("guard_deg", LENGTH, "15"),
    ("lifter_kind", sa.String(200), "hydraulic"),
    ("lifter_foot", sa.String(200), "flat"),
    ("mount", sa.String(200), "pedestal"),
    ("fastener_pitch_in", LENGTH, "0.055556"),
    ("log_count", sa.Integer(), "0"),
)
OPTIONAL = ("seat_height_in", "lash_intake_in", "lash_exhaust_in")


def _recheck(table: str, name: str, rule: str) -> None:
    op.drop_constraint(op.f(f"ck_{table}_{name}"), table, type_="check")
    op.create_check_constraint(op.f(f"ck_{table}_{name}"), table, rule)


def upgrade() -> None:
    for name in ("engine", "cam", "lobe_tables", "prior"):
        op.add_column("builds", sa.Column(name, JSONB(), nullable=True))
    for name in OPTIONAL:
        op.add_column("builds", sa.Column(name, LENGTH, nullable=True))
    for name, kind, value in FILLED:
        op.add_column("builds", sa.Column(name, kind, nullable=False, server_default=value))
        op.alter_column("builds", name, server_default=None)
    for name, rule in OF_BUILD.items():
        op.create_check_constraint(op.f(f"ck_builds_{name}"), "builds", rule)
    op.create_index(op.f("ix_builds_updated_at"), "builds", ["updated_at"])

    op.add_column("instruments", sa.Column("resolution_in", LENGTH, nullable=True))
    _recheck("instruments", "kind", "kind IN ('checking_rod', 'caliper', 'indicator')")

    for name in ("rod_in", "pitch_in", "push_in"):
        op.add_column("readings", sa.Column(name, LENGTH, nullable=True))
    op.add_column("readings", sa.Column("rod_convention", sa.String(200), nullable=True))
    op.add_column("readings", sa.Column("repeats", JSONB(), nullable=True))
    op.add_column(
        "readings", sa.Column("raw_rod", sa.String(200), nullable=False, server_default="")
    )
    op.alter_column("readings", "raw_rod", server_default=None)
    _recheck("readings", "kind", NEW_KINDS)
    for name, rule in COMPLETE.items():
        op.create_check_constraint(op.f(f"ck_readings_{name}"), "readings", rule)

    op.create_table(
        "summaries",
        sa.Column("build_id", sa.Uuid(), nullable=False),
        sa.Column("stamp", sa.String(200), nullable=False),
        sa.Column("body", JSONB(), nullable=False),
        sa.ForeignKeyConstraint(["build_id"], ["builds.id"], name=op.f("fk_summaries_build_id")),
        sa.PrimaryKeyConstraint("build_id", name=op.f("pk_summaries")),
    )


def downgrade() -> None:
    op.drop_table("summaries")
    for name in COMPLETE:
        op.drop_constraint(op.f(f"ck_readings_{name}"), "readings", type_="check")
    _recheck("readings", "kind", "kind IN ('trial', 'count_back', 'void')")
    for name in ("raw_rod", "repeats", "rod_convention", "push_in", "pitch_in", "rod_in"):
        op.drop_column("readings", name)
    _recheck("instruments", "kind", "kind IN ('checking_rod', 'caliper')")
    op.drop_column("instruments", "resolution_in")
    op.drop_index(op.f("ix_builds_updated_at"), "builds")
    for name in OF_BUILD:
        op.drop_constraint(op.f(f"ck_builds_{name}"), "builds", type_="check")
    for name in (*OPTIONAL, *(f for f, _, _ in FILLED), "engine", "cam", "lobe_tables", "prior"):
        op.drop_column("builds", name)
