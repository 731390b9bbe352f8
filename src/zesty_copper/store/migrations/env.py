"""Alembic's entry: the connection is handed in by `zesty_copper.store.database.migrate`."""

from alembic import context

from zesty_copper.store.tables import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
