"""Alembic's entry: migrations run on the engine that the store hands over."""

from alembic import context

from ulvet.store.columns import Base

with context.config.attributes["engine"].connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
    with context.begin_transaction():
        context.run_migrations()
