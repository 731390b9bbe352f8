"""How often a password may be tried, wrongly, before somebody has to wait."""

from uuid import UUID

from limits import RateLimitItem, parse
from limits.strategies import FixedWindowRateLimiter

from zesty_copper.api.problems import TooOften

__all__ = ["Tries", "at_own_password", "at_the_door"]

PER_PERSON_HERE, PER_PERSON, PER_PLACE = parse("8 per 15 minutes"), parse("50 per hour"), parse("60 per hour")
"""Wrong passwords for one name from one address, for one name, and from one address."""


class Tries:
    """Tries that count against each of several limits.

    Parameters
    ----------
    first
        The limit that begins anew once a password was right, and what it counts.
    others
        The limits that go on counting what was wrong before.
    """

    def __init__(
        self,
        limiter: FixedWindowRateLimiter,
        first: tuple[RateLimitItem, tuple[str, ...]],
        *others: tuple[RateLimitItem, tuple[str, ...]],
    ) -> None:
        self._limiter = limiter
        self._first = first
        self._others = others

    def count(self) -> None:
        """Count a try before it is checked, so that many at once are no more than one after the other.

        Raises
        ------
        TooOften
            If a limit is reached.
        """
        if not all(self._limiter.hit(limit, *key) for limit, key in (self._first, *self._others)):
            raise TooOften("Too many wrong passwords: wait a quarter of an hour, or ask a lead for a new link.")

    def was_right(self) -> None:
        """Take the try back: what was right is no wrong one."""
        limit, key = self._first
        self._limiter.clear(limit, *key)
        for limit, key in self._others:
            self._limiter.hit(limit, *key, cost=-1)


def at_the_door(limiter: FixedWindowRateLimiter, name: str, address: str) -> Tries:
    """Return the tries to sign in by a name from an address."""
    return Tries(limiter, (PER_PERSON_HERE, (name, address)), (PER_PERSON, (name,)), (PER_PLACE, ("from", address)))


def at_own_password(limiter: FixedWindowRateLimiter, person_id: UUID) -> Tries:
    """Return the tries of somebody who is signed in to name their password."""
    return Tries(limiter, (PER_PERSON_HERE, ("password", str(person_id))))
