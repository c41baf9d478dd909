"""What the final engine has otherwise than it was measured with.

Revision ID: 0011
Revises: 0010
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    """Nothing differs on the builds kept so far."""
    op.add_column("builds", sa.Column("final", JSONB(), nullable=True))


def downgrade() -> None:
    op.drop_column("builds", "final")
