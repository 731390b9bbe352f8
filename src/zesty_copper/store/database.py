"""The connection and its migrations."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, make_url

__all__ = ["connect", "migrate"]

POOL, POOL_SECONDS = 20, 10
"""Connections kept, ten more when it is busy, and how long a request waits for one [s]."""


def connect(url: str) -> Engine:
    """Make an engine for a `postgresql://` address, by psycopg 3 whatever driver it names."""
    address = make_url(url).set(drivername="postgresql+psycopg")
    # What was sent stays out of error messages, and so out of the logs.
    return create_engine(address, pool_pre_ping=True, pool_size=POOL, pool_timeout=POOL_SECONDS, hide_parameters=True)


def migrate(engine: Engine) -> None:
    """Bring the tables up to date."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
