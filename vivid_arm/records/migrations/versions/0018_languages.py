"""What the board shows is kept for each language in which it is asked for

Revision ID: 0018
Revises: 0017
"""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"


def upgrade() -> None:
    op.add_column(
        "summaries", sa.Column("language", sa.String(8), nullable=False, server_default="en")
    )
    op.alter_column("summaries", "language", server_default=None)
    op.drop_constraint("pk_summaries", "summaries", type_="primary")
    op.create_primary_key("pk_summaries", "summaries", ["build_id", "language"])


def downgrade() -> None:
    op.execute("DELETE FROM summaries WHERE language <> 'en'")
    op.drop_constraint("pk_summaries", "summaries", type_="primary")
    op.create_primary_key("pk_summaries", "summaries", ["build_id"])
    op.drop_column("summaries", "language")
