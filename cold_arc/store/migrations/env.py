"""Alembic's environment: runs on the connection it is handed."""

from alembic import context

from cold_arc.store.models import Model

context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=Model.metadata,
    render_as_batch=True,
)
with context.begin_transaction():
    context.run_migrations()
