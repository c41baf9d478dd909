"""The stop of the plan a reading was taken at; a preload window held in turns; a tip's height;
a ratio near closed that was measured.

Revision ID: 0012
Revises: 0011
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    """None is known for what is kept already."""
    for kind in ("intake", "exhaust"):
        op.add_column("builds", sa.Column(f"r0_{kind}", sa.Numeric(10, 6), nullable=True))
    op.add_column("valves", sa.Column("stem_in", sa.Numeric(10, 6), nullable=True))
    op.add_column("builds", sa.Column("preload_turns", JSONB(), nullable=True))
    op.add_column("readings", sa.Column("crank_deg", sa.Numeric(10, 6), nullable=True))


def downgrade() -> None:
    op.drop_column("readings", "crank_deg")
    op.drop_column("builds", "preload_turns")
    op.drop_column("valves", "stem_in")
    for kind in ("intake", "exhaust"):
        op.drop_column("builds", f"r0_{kind}")
