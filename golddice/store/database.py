"""Connections to PostgreSQL, and one place where its errors become ours."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Connection, Engine, create_engine, text
from sqlalchemy.exc import DataError, InterfaceError, OperationalError
from sqlmodel import Session

from golddice.store.errors import Unavailable, Uncertain, Unstorable

_NOTIFY = text("select pg_notify(:channel, :text)")
_MIGRATIONS = Path(__file__).parent / "migrations"


class Database:
    """A pool of connections to one database."""

    def __init__(self, url: str, connections: int = 10) -> None:
        self.url = url
        self.engine: Engine = create_engine(
            url,
            pool_pre_ping=True,
            pool_size=connections,
            max_overflow=connections,
            connect_args={"connect_timeout": 5},
        )

        self._reading = self.engine.execution_options(isolation_level="AUTOCOMMIT")
        self._snapshots = self.engine.execution_options(isolation_level="REPEATABLE READ")

    def migrate(self) -> None:
        """Bring the schema up to date."""
        config = Config()
        config.set_main_option("script_location", str(_MIGRATIONS))
        with self.engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")

    @contextmanager
    def reading(self) -> Iterator[Connection]:
        """A connection for one question: without a transaction around it, which would go to and fro
        twice more. Raises as `transaction` does."""
        with _told_as_ours(), self._reading.connect() as connection:
            yield connection

    def notify(self, channel: str, text: str) -> None:
        """Tell everybody who listens on the channel. Raises as `transaction` does."""
        with self.reading() as connection:
            connection.execute(_NOTIFY, {"channel": channel, "text": text})

    @contextmanager
    def snapshot(self) -> Iterator[Session]:
        """A session for several questions that are all answered as of one moment."""
        with _told_as_ours(), self._snapshots.connect() as connection, Session(connection) as session:
            yield session

    @contextmanager
    def transaction(self) -> Iterator[Session]:
        """A session that commits at the end, or leaves nothing behind.

        Raises Unavailable where the database is down or goes away meanwhile, Uncertain where it does so
        at the very end, Unstorable where a text cannot be put in it.
        """
        with _told_as_ours(unchanged=True), Session(self.engine, expire_on_commit=False) as session:
            yield session  # closed by an error on the way, it takes back what it wrote
            session.flush()
            try:
                session.commit()
            except (OperationalError, InterfaceError) as error:
                raise Uncertain from error

    def close(self) -> None:
        self.engine.dispose()


@contextmanager
def _told_as_ours(unchanged: bool = False) -> Iterator[None]:
    try:
        yield
    except (OperationalError, InterfaceError) as error:
        raise Unavailable(unchanged) from error
    except (DataError, UnicodeEncodeError) as error:
        raise Unstorable from error
