"""Alembic's entry point: run the migrations on the connection that is handed in."""

from alembic import context

from jaskel.store.models import Base

# All versions are gone through in one transaction: an update that fails on the way leaves the tables as they were.
context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=Base.metadata,
    render_as_batch=True,
    transactional_ddl=True,
)
with context.begin_transaction():
    context.run_migrations()
