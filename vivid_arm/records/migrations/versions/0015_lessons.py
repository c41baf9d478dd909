"""What each build tells the shop, and what a build starts from.

Revision ID: 0015
Revises: 0014
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    op.add_column("builds", sa.Column("starting", postgresql.JSONB(), nullable=True))
    op.add_column("summaries", sa.Column("lesson", postgresql.JSONB(), nullable=True))
    # Made anew when it is next looked at, with what it tells.
    op.execute("UPDATE summaries SET stamp = ''")


def downgrade() -> None:
    op.drop_column("summaries", "lesson")
    op.drop_column("builds", "starting")
