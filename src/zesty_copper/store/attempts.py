"""How often something was tried, counted in the database: for every process alike, and over a restart."""

from datetime import timedelta

from limits.storage import Storage
from sqlalchemy import Engine, case, delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from zesty_copper.store.tables import AttemptsRow

__all__ = ["Attempts"]


class Attempts(Storage):
    """Where the library that limits tries keeps its counts."""

    STORAGE_SCHEME = None

    def __init__(self, engine: Engine) -> None:
        super().__init__()
        self._engine = engine

    @property
    def base_exceptions(self) -> type[Exception]:
        """What the database may raise."""
        return SQLAlchemyError

    def incr(self, key: str, expiry: int, amount: int = 1) -> int:
        """Count a try; the count begins anew when its time [s] is over."""
        over = AttemptsRow.expires_at <= func.now()
        ends = func.now() + timedelta(seconds=expiry)
        tried = insert(AttemptsRow).values(key=key, count=amount, expires_at=ends)
        again = {
            "count": case((over, amount), else_=AttemptsRow.count + amount),
            "expires_at": case((over, ends), else_=AttemptsRow.expires_at),
        }
        with Session(self._engine) as session, session.begin():
            session.execute(delete(AttemptsRow).where(AttemptsRow.expires_at < func.now() - timedelta(days=1)))
            counted = tried.on_conflict_do_update(index_elements=["key"], set_=again).returning(AttemptsRow.count)
            return session.scalars(counted).one()

    def get(self, key: str) -> int:
        """How often it was tried in the time that runs."""
        count = select(AttemptsRow.count).where(AttemptsRow.key == key, AttemptsRow.expires_at > func.now())
        with Session(self._engine) as session:
            return session.scalar(count) or 0

    def get_expiry(self, key: str) -> float:
        """When the time that runs is over [s since the epoch]; 0 where none runs."""
        with Session(self._engine) as session:
            ends = session.scalar(select(AttemptsRow.expires_at).where(AttemptsRow.key == key))
        return 0.0 if ends is None else ends.timestamp()

    def check(self) -> bool:
        """Whether counts can be kept."""
        return True

    def clear(self, key: str) -> None:
        """Forget what was tried."""
        with Session(self._engine) as session, session.begin():
            session.execute(delete(AttemptsRow).where(AttemptsRow.key == key))

    def reset(self) -> int:
        """Forget everything."""
        with Session(self._engine) as session, session.begin():
            return len(session.scalars(delete(AttemptsRow).returning(AttemptsRow.key)).all())
