"""The connection and its migrations."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, make_url

__all__ = ["connect", "migrate"]


def connect(url: str) -> Engine:
    """Make an engine for a `postgresql://` address, by psycopg 3 whatever driver it names."""
    return create_engine(make_url(url).set(drivername="postgresql+psycopg"), pool_pre_ping=True)


def migrate(engine: Engine) -> None:
    """Bring the tables up to date."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
