"""Findings keep the figure that was read, so that preload can be worked out again.

A finding kept before holds the preload alone; it stands as it was found.

Revision ID: 0005
Revises: 0004
"""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    """A figure beside the value, empty for what was found before."""
    op.add_column("findings", sa.Column("read", sa.Numeric(10, 6), nullable=True))


def downgrade() -> None:
    """The values stay."""
    op.drop_column("findings", "read")
