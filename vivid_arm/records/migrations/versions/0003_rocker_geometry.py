"""Rocker geometry: dimensions of the rockers, marks on the tip, photos of them

Builds gain their rockers' dimensions, readings the marks, and photos of tips get
a table of their own. Going back drops dimensions and photos and fails while the
log has marks: export the builds first.

Revision: 0003
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0003"
down_revision = "0002"

LENGTH = sa.Numeric(precision=10, scale=6)
OLD_KINDS = (
    "kind IN ('trial', 'count_back', 'void', 'extend', 'turns', 'indicator',"
    " 'gap_short', 'gap_bottomed')"
)
NEW_KINDS = OLD_KINDS[:-1] + ", 'mark')"


def _recheck(rule: str) -> None:
    op.drop_constraint(op.f("ck_readings_kind"), "readings", type_="check")
    op.create_check_constraint(op.f("ck_readings_kind"), "readings", rule)


def upgrade() -> None:
    op.add_column("builds", sa.Column("geometry", JSONB(), nullable=True))
    op.add_column("readings", sa.Column("shim_in", LENGTH, nullable=True))
    op.add_column("readings", sa.Column("seen", JSONB(), nullable=True))
    _recheck(NEW_KINDS)
    op.create_check_constraint(
        op.f("ck_readings_mark_complete"), "readings", "kind <> 'mark' OR seen IS NOT NULL"
    )
    op.create_table(
        "photos",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("build_id", sa.Uuid(), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("body", sa.LargeBinary(), nullable=False),
        sa.Column(
            "created_at",
            sa.DateTime(timezone=True),
            server_default=sa.text("clock_timestamp()"),
            nullable=False,
        ),
        sa.ForeignKeyConstraint(["build_id"], ["builds.id"], name=op.f("fk_photos_build_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_photos")),
    )
    op.create_index(op.f("ix_photos_build_id"), "photos", ["build_id"])


def downgrade() -> None:
    op.drop_table("photos")
    op.drop_constraint(op.f("ck_readings_mark_complete"), "readings", type_="check")
    _recheck(OLD_KINDS)
    op.drop_column("readings", "seen")
    op.drop_column("readings", "shim_in")
    op.drop_column("builds", "geometry")
