"""The seat height of the lifter the readings are taken on.

Revision ID: 0009
Revises: 0008
"""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"

LENGTH = sa.Numeric(precision=10, scale=6)


def upgrade() -> None:
    """Unknown for every build kept so far."""
    op.add_column("builds", sa.Column("checking_seat_in", LENGTH, nullable=True))


def downgrade() -> None:
    op.drop_column("builds", "checking_seat_in")
