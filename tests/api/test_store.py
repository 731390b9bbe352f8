"""The tables as the migrations make them."""

from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import make_url, text

from zesty_copper.store.database import connect, migrate
from zesty_copper.store.tables import Base


def test_migrations_end_at_the_tables_and_may_be_run_again(database_url: str) -> None:
    server = connect(database_url)
    with server.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(text("create database migrated"))
    server.dispose()
    engine = connect(make_url(database_url).set(database="migrated").render_as_string(hide_password=False))
    migrate(engine)
    migrate(engine)
    with engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []
    engine.dispose()
