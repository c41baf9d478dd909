"""Every line of log, findings, signatures and frozen orders in a chain; who changed what.

The digest of a line is SHA-256 over its columns that hold something, as JSON, so that a
column added later changes no digest; times are in UTC, whoever asks. A link's digest covers
the one before it.

Revision ID: 0008
Revises: 0007
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0008"
down_revision = "0007"

CONTENT = """
CREATE FUNCTION order_content(o orders) RETURNS jsonb LANGUAGE sql STABLE AS $$
  SELECT jsonb_build_object('id', o.id, 'build_id', o.build_id, 'number', o.number,
    'purpose', o.purpose, 'supplier', o.supplier, 'sheet', o.sheet, 'lines', o.lines)
$$;
CREATE FUNCTION digest_of(content jsonb) RETURNS text LANGUAGE sql STABLE AS $$
  SELECT encode(sha256(convert_to(jsonb_strip_nulls(content)::text, 'UTF8')), 'hex')
$$;
CREATE FUNCTION reading_digest(r readings) RETURNS text LANGUAGE sql STABLE AS
$$ SELECT digest_of(to_jsonb(r)) $$;
CREATE FUNCTION finding_digest(f findings) RETURNS text LANGUAGE sql STABLE AS
$$ SELECT digest_of(to_jsonb(f)) $$;
CREATE FUNCTION signature_digest(s signatures) RETURNS text LANGUAGE sql STABLE AS
$$ SELECT digest_of(to_jsonb(s)) $$;
CREATE FUNCTION order_digest(o orders) RETURNS text LANGUAGE sql STABLE AS
$$ SELECT digest_of(order_content(o)) $$
"""
LINK = """
CREATE FUNCTION link(build uuid, of_kind text, of_row text, content text) RETURNS void
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE last evidence;
BEGIN
  PERFORM pg_advisory_xact_lock(hashtext('evidence'), hashtext(build::text));
  SELECT * INTO last FROM evidence WHERE build_id = build ORDER BY number DESC LIMIT 1;
  INSERT INTO evidence (build_id, number, kind, row_id, content_digest, digest)
  VALUES (build, coalesce(last.number, 0) + 1, of_kind, of_row, content,
    encode(sha256(convert_to(coalesce(last.digest, '') || content, 'UTF8')), 'hex'));
END $$
"""
TRIGGERS = """
CREATE FUNCTION link_reading() RETURNS trigger LANGUAGE plpgsql
SECURITY DEFINER SET search_path = public, pg_temp SET timezone = 'UTC'
SET enable_seqscan = off AS $$
BEGIN
  PERFORM link((SELECT build_id FROM valves WHERE id = NEW.valve_id), 'reading', NEW.id::text,
    reading_digest(NEW));
  RETURN NULL;
END $$;
CREATE FUNCTION link_finding() RETURNS trigger LANGUAGE plpgsql
SECURITY DEFINER SET search_path = public, pg_temp SET timezone = 'UTC'
SET enable_seqscan = off AS $$
BEGIN
  PERFORM link(NEW.build_id, 'finding', NEW.id::text, finding_digest(NEW));
  RETURN NULL;
END $$;
CREATE FUNCTION link_signature() RETURNS trigger LANGUAGE plpgsql
SECURITY DEFINER SET search_path = public, pg_temp SET timezone = 'UTC'
SET enable_seqscan = off AS $$
BEGIN
  PERFORM link(NEW.build_id, 'signature', NEW.id::text, signature_digest(NEW));
  RETURN NULL;
END $$;
CREATE FUNCTION link_order() RETURNS trigger LANGUAGE plpgsql
SECURITY DEFINER SET search_path = public, pg_temp SET timezone = 'UTC'
SET enable_seqscan = off AS $$
BEGIN
  IF NEW.state NOT IN ('draft', 'withdrawn')
     AND (TG_OP = 'INSERT' OR OLD.state = 'draft') THEN
    PERFORM link(NEW.build_id, 'order', NEW.id::text, order_digest(NEW));
  END IF;
  RETURN NULL;
END $$;
CREATE TRIGGER readings_linked AFTER INSERT ON readings
  FOR EACH ROW EXECUTE FUNCTION link_reading();
CREATE TRIGGER findings_linked AFTER INSERT ON findings
  FOR EACH ROW EXECUTE FUNCTION link_finding();
CREATE TRIGGER signatures_linked AFTER INSERT ON signatures
  FOR EACH ROW EXECUTE FUNCTION link_signature();
CREATE TRIGGER orders_linked AFTER INSERT OR UPDATE OF state ON orders
  FOR EACH ROW EXECUTE FUNCTION link_order();
CREATE TRIGGER evidence_append_only BEFORE UPDATE OR DELETE ON evidence
  FOR EACH ROW EXECUTE FUNCTION refuse_change()
"""
KEPT = """
SET LOCAL timezone = 'UTC';
DO $$
DECLARE r readings; f findings; s signatures; o orders;
BEGIN
  FOR r IN SELECT * FROM readings ORDER BY id LOOP
    PERFORM link((SELECT build_id FROM valves WHERE id = r.valve_id), 'reading', r.id::text,
      reading_digest(r));
  END LOOP;
  FOR f IN SELECT * FROM findings ORDER BY id LOOP
    PERFORM link(f.build_id, 'finding', f.id::text, finding_digest(f));
  END LOOP;
  FOR o IN SELECT * FROM orders WHERE state NOT IN ('draft', 'withdrawn') ORDER BY made_at LOOP
    PERFORM link(o.build_id, 'order', o.id::text, order_digest(o));
  END LOOP;
  FOR s IN SELECT * FROM signatures ORDER BY id LOOP
    PERFORM link(s.build_id, 'signature', s.id::text, signature_digest(s));
  END LOOP;
END $$
"""
HISTORY = """
CREATE FUNCTION keep_change() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER
SET search_path = public, pg_temp AS $$
DECLARE
  before jsonb := to_jsonb(OLD) - '{version,log_count,updated_at}'::text[];
  after_ jsonb := to_jsonb(NEW) - '{version,log_count,updated_at}'::text[];
  moved text[] := ARRAY(
    SELECT key FROM jsonb_each(after_) WHERE value IS DISTINCT FROM before->key
  );
BEGIN
  IF cardinality(moved) > 0 THEN
    INSERT INTO changes (of_table, row_id, by, old, new)
    SELECT TG_TABLE_NAME, NEW.id::text, coalesce(current_setting('vivid_arm.by', true), ''),
      jsonb_object_agg(k, before->k), jsonb_object_agg(k, after_->k) FROM unnest(moved) AS k;
  END IF;
  RETURN NULL;
END $$
"""
WITH_HISTORY = ("builds", "instruments", "box_rods", "orders", "valves")


def upgrade() -> None:
    """What is kept already is linked in the order it came in."""
    op.create_table(
        "evidence",
        sa.Column("id", sa.BigInteger(), autoincrement=True, nullable=False),
        sa.Column("build_id", sa.Uuid(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("row_id", sa.String(40), nullable=False),
        sa.Column("content_digest", sa.String(64), nullable=False),
        sa.Column("digest", sa.String(64), nullable=False),
        sa.ForeignKeyConstraint(["build_id"], ["builds.id"], name=op.f("fk_evidence_build_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_evidence")),
        sa.UniqueConstraint("build_id", "number", name=op.f("uq_evidence_build_id_number")),
    )
    op.create_table(
        "changes",
        sa.Column("id", sa.BigInteger(), autoincrement=True, nullable=False),
        sa.Column("of_table", sa.String(40), nullable=False),
        sa.Column("row_id", sa.String(40), nullable=False),
        sa.Column("by", sa.String(200), nullable=False),
        sa.Column("old", postgresql.JSONB(), nullable=False),
        sa.Column("new", postgresql.JSONB(), nullable=False),
        sa.Column(
            "at",
            sa.DateTime(timezone=True),
            server_default=sa.text("clock_timestamp()"),
            nullable=False,
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_changes")),
    )
    op.create_index(op.f("ix_changes_row_id"), "changes", ["row_id"])
    for statement in (CONTENT, LINK, KEPT, TRIGGERS, HISTORY):
        op.execute(statement)
    op.execute(
        "CREATE TRIGGER changes_append_only BEFORE UPDATE OR DELETE ON changes "
        "FOR EACH ROW EXECUTE FUNCTION refuse_change()"
    )
    for table in WITH_HISTORY:
        op.execute(
            f"CREATE TRIGGER {table}_history AFTER UPDATE ON {table} "
            "FOR EACH ROW EXECUTE FUNCTION keep_change()"
        )


def downgrade() -> None:
    """The lines stay; their chain and the history go."""
    for table in WITH_HISTORY:
        op.execute(f"DROP TRIGGER {table}_history ON {table}")
    for table in ("readings", "findings", "signatures", "orders"):
        op.execute(f"DROP TRIGGER {table}_linked ON {table}")
    op.drop_table("changes")
    op.drop_table("evidence")
    for name in ("keep_change", "link_reading", "link_finding", "link_signature", "link_order",
                 "link", "reading_digest", "finding_digest", "signature_digest", "order_digest",
                 "digest_of", "order_content"):  # fmt: skip
        op.execute(f"DROP FUNCTION {name}")
