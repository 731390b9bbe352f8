"""The connection and its migrations."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine, make_url

__all__ = ["NewerSchema", "connect", "is_behind", "migrate"]

POOL, POOL_SECONDS = 20, 10
"""Connections kept, ten more when it is busy, and how long a request waits for one [s]."""


def connect(url: str) -> Engine:
    """Make an engine for a `postgresql://` address, by psycopg 3 whatever driver it names."""
    address = make_url(url).set(drivername="postgresql+psycopg")
    # What was sent stays out of error messages, and so out of the logs.
    return create_engine(address, pool_pre_ping=True, pool_size=POOL, pool_timeout=POOL_SECONDS, hide_parameters=True)


class NewerSchema(Exception):
    """The tables were made by a newer version of the program."""


def is_behind(engine: Engine) -> bool:
    """Whether tables are there that a migration would change.

    Raises
    ------
    NewerSchema
        If they come from a newer version.
    """
    script = ScriptDirectory.from_config(_config())
    with engine.connect() as connection:
        current = MigrationContext.configure(connection).get_current_revision()
    if current is not None and current not in {revision.revision for revision in script.walk_revisions()}:
        raise NewerSchema
    return current is not None and current != script.get_current_head()


def migrate(engine: Engine) -> None:
    """Bring the tables up to date."""
    config = _config()
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def _config() -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    return config
