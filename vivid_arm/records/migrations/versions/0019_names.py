"""Builds of one name are found without reading every name

Revision ID: 0019
Revises: 0018
"""

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"


def upgrade() -> None:
    op.create_index("ix_builds_name_lower", "builds", [sa.text("lower(name)")])


def downgrade() -> None:
    op.drop_index("ix_builds_name_lower", "builds")
