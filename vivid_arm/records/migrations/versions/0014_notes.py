"""Notes on build, valve and reading, bound into the chain; builds can lie in the bin.

Revision ID: 0014
Revises: 0013
"""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"

LINKED = """
CREATE FUNCTION note_digest(n notes) RETURNS text LANGUAGE sql STABLE AS
$$ SELECT digest_of(to_jsonb(n)) $$;
CREATE FUNCTION link_note() RETURNS trigger LANGUAGE plpgsql
SECURITY DEFINER SET search_path = public, pg_temp SET timezone = 'UTC'
SET enable_seqscan = off AS $$
BEGIN
  PERFORM link(NEW.build_id, 'note', NEW.id::text, note_digest(NEW));
  RETURN NULL;
END $$;
CREATE TRIGGER notes_linked AFTER INSERT ON notes
  FOR EACH ROW EXECUTE FUNCTION link_note();
CREATE TRIGGER notes_append_only BEFORE UPDATE OR DELETE ON notes
  FOR EACH ROW EXECUTE FUNCTION refuse_change()
"""


def upgrade() -> None:
    op.add_column("builds", sa.Column("binned_at", sa.DateTime(timezone=True), nullable=True))
    op.create_table(
        "notes",
        sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("key", sa.Uuid(), nullable=False),
        sa.Column("build_id", sa.Uuid(), nullable=False),
        sa.Column("valve_id", sa.Uuid(), nullable=True),
        sa.Column("reading_id", sa.Integer(), nullable=True),
        sa.Column("photo_id", sa.Uuid(), nullable=True),
        sa.Column("replaces_id", sa.Integer(), nullable=True),
        sa.Column("body", sa.String(2000), nullable=False),
        sa.Column("by", sa.String(200), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False,
                  server_default=sa.func.clock_timestamp()),
        sa.ForeignKeyConstraint(["build_id"], ["builds.id"], name=op.f("fk_notes_build_id")),
        sa.ForeignKeyConstraint(["valve_id"], ["valves.id"], name=op.f("fk_notes_valve_id")),
        sa.ForeignKeyConstraint(["reading_id"], ["readings.id"], name=op.f("fk_notes_reading_id")),
        sa.ForeignKeyConstraint(["photo_id"], ["photos.id"], name=op.f("fk_notes_photo_id")),
        sa.ForeignKeyConstraint(["replaces_id"], ["notes.id"], name=op.f("fk_notes_replaces_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_notes")),
        sa.UniqueConstraint("key", name=op.f("uq_notes_key")),
        sa.UniqueConstraint("replaces_id", name=op.f("uq_notes_replaces_id")),
    )  # fmt: skip
    op.create_index(op.f("ix_notes_build_id"), "notes", ["build_id"])
    op.execute(LINKED)


def downgrade() -> None:
    """Notes go; their links stay in the chains."""
    op.execute("DROP FUNCTION note_digest(notes)")
    op.drop_table("notes")
    op.execute("DROP FUNCTION link_note")
    op.drop_column("builds", "binned_at")
