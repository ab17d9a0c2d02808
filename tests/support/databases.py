"""Databases for tests: one migrated template for all processes of a run, a quick copy for every test class."""

import os
import secrets
import unittest
from functools import cache
from typing import ClassVar

from sqlalchemy import Engine, text, update
from sqlalchemy.orm import Session

from tests.run import RUN
from velvet_moth.core.base.program import program
from velvet_moth.demo.heron_lock import load_demo
from velvet_moth.store.database import make_engine, migrate
from velvet_moth.store.models import GraphRow, PaintedRow

TEMPLATE = f"template_{os.environ.get(RUN, os.getpid())}"


def server() -> str:
    address = os.environ.get("MOTH_TEST_SERVER")
    if not address:
        raise unittest.SkipTest("./moth test starts the database these tests need")
    return address


@cache
def _template() -> str:
    """The demo, loaded once and copied; whichever process asks first makes it, others wait."""
    admin = make_engine(f"{server()}/postgres")
    with admin.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(text("select pg_advisory_lock(1)"))
        known = text("select 1 from pg_database where datname = :name")
        try:
            if not connection.execute(known, {"name": TEMPLATE}).first():
                _make(f"{server()}/{TEMPLATE}_unfinished")
                connection.execute(text(f'alter database "{TEMPLATE}_unfinished" rename to "{TEMPLATE}"'))
        finally:
            # Others wait for it, whatever went wrong here.
            connection.execute(text("select pg_advisory_unlock(1)"))
    admin.dispose()
    return TEMPLATE


def _make(address: str) -> None:
    migrate(address)
    engine = make_engine(address)
    load_demo(engine)
    with Session(engine) as session:
        # The pictures that came with the program are as good as painted: nothing is painted beside a test.
        session.execute(update(PaintedRow).values(program=program()))
        session.commit()
    engine.dispose()


def fresh_database() -> str:
    """The address of a new database with the demo in it."""
    template = _template()
    # A number of a process comes again; a database of a run that was stopped stays.
    name = f"t{secrets.token_hex(6)}"
    admin = make_engine(f"{server()}/postgres")
    with admin.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(text(f'create database "{name}" template "{template}"'))
    admin.dispose()
    return f"{server()}/{name}"


def drop_database(address: str) -> None:
    """Removes a database, whoever still looks at it."""
    admin = make_engine(f"{server()}/postgres")
    with admin.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(text(f'drop database if exists "{address.rsplit("/", 1)[1]}" with (force)'))
    admin.dispose()


class StoreCase(unittest.TestCase):
    """One database for the class; each test works in a transaction that is rolled back."""

    engine: ClassVar[Engine]
    address: ClassVar[str]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.address = fresh_database()
        cls.addClassCleanup(drop_database, cls.address)
        cls.engine = make_engine(cls.address)
        cls.addClassCleanup(cls.engine.dispose)

    def setUp(self) -> None:
        super().setUp()
        self.session = Session(self.engine, expire_on_commit=False)
        self.addCleanup(self.session.close)


def graph_id(engine: Engine, title: str) -> int:
    with Session(engine) as session:
        found: int = session.query(GraphRow.id).filter(GraphRow.title == title).scalar()
        return found
