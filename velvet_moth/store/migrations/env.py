"""Alembic's entry: runs migrations on the address that database.migrate passes in."""

from alembic import context

from velvet_moth.store.database import make_engine
from velvet_moth.store.models import Base

engine = make_engine(context.config.attributes["address"])
with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata)
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
