"""Alembic's entry: runs migrations on the connection that `database.migrate` hands over."""

from alembic import context
from sqlmodel import SQLModel

from golddice.store import rows  # noqa: F401 - registers the tables

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=SQLModel.metadata)
with context.begin_transaction():
    context.run_migrations()
