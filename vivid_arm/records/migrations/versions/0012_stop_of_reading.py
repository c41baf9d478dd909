"""The stop of the plan that the crank stood at while a reading was taken.

Revision ID: 0012
Revises: 0011
"""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    """Not known for what is kept already."""
    op.add_column("readings", sa.Column("crank_deg", sa.Numeric(10, 6), nullable=True))


def downgrade() -> None:
    op.drop_column("readings", "crank_deg")
