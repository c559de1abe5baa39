"""Alembic's entry: run the migrations on the connection that the ledger hands over."""

from alembic import context

from wise_ledger.store.statetables import metadata

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=metadata)
with context.begin_transaction():
    context.run_migrations()
