"""Runs migrations on the connection that the store hands over."""

from alembic import context

from keen_kettle.store.tables import metadata

context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=metadata,
    render_as_batch=True,
)
with context.begin_transaction():
    context.run_migrations()
