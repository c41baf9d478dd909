"""Alembic's entry: migrate on the connection handed over by ``database.migrate``."""

from alembic import context

from vivid_arm.records.tables import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
