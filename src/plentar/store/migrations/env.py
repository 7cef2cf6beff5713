"""Alembic's entry: the URL comes from the caller, so that no file holds a password."""

from alembic import context
from sqlalchemy import create_engine, pool

from plentar.store.models import Base

engine = create_engine(context.config.attributes["url"], poolclass=pool.NullPool)
with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata)
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
