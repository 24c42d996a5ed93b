"""Alembic's entry: runs on the connection that `Database.migrate` hands over."""

from alembic import context

from nod.store.tables import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
context.run_migrations()
