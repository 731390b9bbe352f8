"""The tables as the migrations make them."""

from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from tests.conftest import Databases

from zesty_copper.store.database import connect, is_behind, migrate
from zesty_copper.store.tables import Base


def test_migrations_end_at_the_tables_and_may_be_run_again(databases: Databases) -> None:
    engine = connect(databases.bare())
    migrate(engine)
    migrate(engine)
    assert not is_behind(engine)
    with engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []
    engine.dispose()
