"""Photos keep their guess, builds can be put away, frozen orders stay, health can try a write.

Revision ID: 0007
Revises: 0006
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0007"
down_revision = "0006"

_REFUSE = """
CREATE OR REPLACE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION '% are append-only: add a line that refers to the old one', TG_TABLE_NAME;
END $$
"""
_FROZEN = """
CREATE FUNCTION refuse_thaw() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF OLD.state <> 'draft' AND (NEW.sheet, NEW.lines) IS DISTINCT FROM (OLD.sheet, OLD.lines) THEN
    RAISE EXCEPTION 'order % is frozen', OLD.id;
  END IF;
  RETURN NEW;
END $$
"""


def upgrade() -> None:
    """Nothing kept before changes."""
    op.add_column("photos", sa.Column("guess", postgresql.JSONB(none_as_null=True), nullable=True))
    op.add_column("builds", sa.Column("removed_at", sa.DateTime(timezone=True), nullable=True))
    op.create_table(
        "pulse",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("shop", sa.Uuid(), server_default=sa.text("gen_random_uuid()"), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_pulse")),
    )
    op.execute("INSERT INTO pulse VALUES (1, clock_timestamp())")
    op.execute(_REFUSE)
    op.execute(_FROZEN)
    op.execute(
        "CREATE TRIGGER orders_frozen BEFORE UPDATE ON orders "
        "FOR EACH ROW EXECUTE FUNCTION refuse_thaw()"
    )
    for table in ("findings", "signatures"):
        op.execute(
            f"CREATE TRIGGER {table}_append_only BEFORE UPDATE OR DELETE ON {table} "
            "FOR EACH ROW EXECUTE FUNCTION refuse_change()"
        )


def downgrade() -> None:
    """Builds put away come back."""
    for table in ("findings", "signatures"):
        op.execute(f"DROP TRIGGER {table}_append_only ON {table}")
    op.execute("DROP TRIGGER orders_frozen ON orders")
    op.execute("DROP FUNCTION refuse_thaw")
    op.drop_table("pulse")
    op.drop_column("builds", "removed_at")
    op.drop_column("photos", "guess")
