"""Practice engines: exercises with what was done at their bench; builds and rods that are theirs.

Revision ID: 0013
Revises: 0012
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    """No build that is kept already is a practice one."""
    op.add_column("builds", sa.Column("exercise_id", sa.Uuid(), nullable=True))
    op.create_index(op.f("ix_builds_exercise_id"), "builds", ["exercise_id"])
    op.add_column(
        "instruments", sa.Column("practice", sa.Boolean(), server_default="false", nullable=False)
    )
    op.create_table(
        "exercises",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("build_id", sa.Uuid(), sa.ForeignKey("builds.id"), nullable=False, unique=True),
        sa.Column("scenario", sa.String(), nullable=False),
        sa.Column("seed", sa.BigInteger(), nullable=False),
        sa.Column("sealed", sa.Boolean(), nullable=False),
        sa.Column("person", sa.String(), nullable=False),
        sa.Column("bench", JSONB(), nullable=False),
        sa.Column("named", JSONB(), nullable=False),
        sa.Column("hints", sa.Integer(), nullable=False),
        sa.Column("rods_bought", sa.Integer(), nullable=False),
        sa.Column("ending", JSONB(), nullable=True),
        sa.Column("thrown_away", sa.Boolean(), nullable=False),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=False,
                  server_default=sa.func.clock_timestamp()),
        sa.Column("ended_at", sa.DateTime(timezone=True), nullable=True),
    )  # fmt: skip
    op.create_table(
        "deeds",
        sa.Column("id", sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column("key", sa.Uuid(), nullable=False, unique=True),
        sa.Column("exercise_id", sa.Uuid(), sa.ForeignKey("exercises.id"), nullable=False,
                  index=True),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("how", JSONB(), nullable=False),
        sa.Column("got", JSONB(), nullable=False),
        sa.Column("done_at", sa.DateTime(timezone=True), server_default=sa.func.clock_timestamp(),
                  nullable=False),
        sa.UniqueConstraint("exercise_id", "number", name=op.f("uq_deeds_exercise_id_number")),
    )  # fmt: skip


def downgrade() -> None:
    op.drop_table("deeds")
    op.drop_table("exercises")
    op.drop_column("instruments", "practice")
    op.drop_index(op.f("ix_builds_exercise_id"), "builds")
    op.drop_column("builds", "exercise_id")
