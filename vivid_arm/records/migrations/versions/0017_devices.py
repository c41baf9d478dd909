"""What happens is told to whoever listens; paired devices, where each stands; builders' nods.

The database says on the channel ``vivid_arm`` what a write has moved, and from which page it
came, as soon as the write is kept: every process of the shop hears it.

Revision ID: 0017
Revises: 0016
"""

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"

TELL = """
CREATE FUNCTION tell(what text) RETURNS void LANGUAGE sql AS $$
  SELECT pg_notify('vivid_arm',
    what || ' ' || coalesce(current_setting('vivid_arm.page', true), ''))
$$;
CREATE FUNCTION tell_build() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM tell('build ' || NEW.id);
  RETURN NULL;
END $$;
CREATE FUNCTION tell_build_of() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM tell('build ' || NEW.build_id);
  RETURN NULL;
END $$;
CREATE FUNCTION tell_shop() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM tell('shop -');
  RETURN NULL;
END $$;
CREATE TRIGGER builds_told AFTER INSERT OR UPDATE ON builds
  FOR EACH ROW EXECUTE FUNCTION tell_build()
"""
OF_BUILD = ("valves", "orders", "findings", "notes", "signatures")
OF_SHOP = ("instruments", "box_rods")


def upgrade() -> None:
    op.execute(TELL)
    for table in OF_BUILD:
        op.execute(
            f"CREATE TRIGGER {table}_told AFTER INSERT OR UPDATE ON {table} "
            "FOR EACH ROW EXECUTE FUNCTION tell_build_of()"
        )
    for table in OF_SHOP:
        op.execute(
            f"CREATE TRIGGER {table}_told AFTER INSERT OR UPDATE ON {table} "
            "FOR EACH STATEMENT EXECUTE FUNCTION tell_shop()"
        )
    op.add_column(
        "invitations",
        sa.Column("pairs", sa.Boolean(), nullable=False, server_default=sa.text("false")),
    )
    for column in (
        sa.Column("label", sa.String(40), nullable=False, server_default=""),
        sa.Column("station", sa.String(20), nullable=True),
        sa.Column("build_id", sa.Uuid(), nullable=True),
        sa.Column("valve_id", sa.Uuid(), nullable=True),
        sa.Column("turns", sa.Numeric(6, 3), nullable=True),
        sa.Column("there_at", sa.DateTime(timezone=True), nullable=True),
    ):
        op.add_column("sign_ins", column)
    op.add_column(
        "pulse", sa.Column("nods", sa.Boolean(), nullable=False, server_default=sa.text("false"))
    )
    op.create_table(
        "nods",
        sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("key", sa.Uuid(), nullable=False),
        sa.Column("valve_id", sa.Uuid(), nullable=False),
        sa.Column("reading_id", sa.Integer(), nullable=False),
        sa.Column("by", sa.String(60), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False,
                  server_default=sa.func.clock_timestamp()),
        sa.ForeignKeyConstraint(["valve_id"], ["valves.id"], name=op.f("fk_nods_valve_id")),
        sa.ForeignKeyConstraint(["reading_id"], ["readings.id"], name=op.f("fk_nods_reading_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_nods")),
        sa.UniqueConstraint("key", name=op.f("uq_nods_key")),
    )  # fmt: skip
    op.create_index(op.f("ix_nods_valve_id"), "nods", ["valve_id"])
    op.execute(
        "CREATE TRIGGER nods_append_only BEFORE UPDATE OR DELETE ON nods "
        "FOR EACH ROW EXECUTE FUNCTION refuse_change()"
    )


def downgrade() -> None:
    op.drop_table("nods")
    op.drop_column("pulse", "nods")
    for column in ("there_at", "turns", "valve_id", "build_id", "station", "label"):
        op.drop_column("sign_ins", column)
    op.drop_column("invitations", "pairs")
    for table in ("builds", *OF_BUILD, *OF_SHOP):
        op.execute(f"DROP TRIGGER {table}_told ON {table}")
    for name in ("tell_shop", "tell_build_of", "tell_build", "tell"):
        op.execute(f"DROP FUNCTION {name}")
