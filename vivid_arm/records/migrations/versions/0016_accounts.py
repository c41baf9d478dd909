"""Accounts, the codes that open them, sign-ins, and tries that failed.

Revision ID: 0016
Revises: 0015
"""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"


def _now(name: str) -> sa.Column[object]:
    return sa.Column(
        name,
        sa.DateTime(timezone=True),
        nullable=False,
        server_default=sa.func.clock_timestamp(),
    )


def upgrade() -> None:
    op.create_table(
        "accounts",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("role", sa.String(20), nullable=False),
        sa.Column("active", sa.Boolean(), nullable=False),
        sa.Column("password", sa.String(200), nullable=True),
        _now("made_at"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_accounts")),
        sa.CheckConstraint(
            "role IN ('owner', 'builder', 'apprentice', 'viewer')",
            name=op.f("ck_accounts_known_role"),
        ),
    )
    op.create_index("uq_accounts_name", "accounts", [sa.text("lower(name)")], unique=True)
    op.create_table(
        "invitations",
        sa.Column("code_digest", sa.String(64), nullable=False),
        sa.Column("account_id", sa.Uuid(), nullable=True),
        sa.Column("until", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["account_id"], ["accounts.id"], name=op.f("fk_invitations_account_id")
        ),
        sa.PrimaryKeyConstraint("code_digest", name=op.f("pk_invitations")),
    )
    op.create_table(
        "sign_ins",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("token_digest", sa.String(64), nullable=False),
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("device", sa.String(120), nullable=False),
        sa.Column("address", sa.String(60), nullable=False),
        _now("made_at"),
        _now("seen_at"),
        sa.Column("ended_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["account_id"], ["accounts.id"], name=op.f("fk_sign_ins_account_id")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sign_ins")),
        sa.UniqueConstraint("token_digest", name=op.f("uq_sign_ins_token_digest")),
    )
    op.create_index(op.f("ix_sign_ins_account_id"), "sign_ins", ["account_id"])
    op.create_table(
        "sign_in_tries",
        sa.Column("key", sa.String(120), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        _now("at"),
        sa.PrimaryKeyConstraint("key", name=op.f("pk_sign_in_tries")),
    )


def downgrade() -> None:
    for table in ("sign_in_tries", "sign_ins", "invitations", "accounts"):
        op.drop_table(table)
