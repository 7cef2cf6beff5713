"""Alembic's entry: the URL comes from the caller, so that no file holds a password."""

from alembic import context
from sqlalchemy import create_engine, pool, text

from plentar.store.models import Base

engine = create_engine(context.config.attributes["url"], poolclass=pool.NullPool)
with engine.connect() as connection:
    # One migrates at a time, whichever machine it is on: the others wait, and find it done.
    connection.execute(text("select pg_advisory_lock(hashtextextended('plentar migrations', 0))"))
    connection.commit()
    context.configure(connection=connection, target_metadata=Base.metadata)
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
