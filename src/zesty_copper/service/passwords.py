"""Passwords: what is kept of one, and which are too easy."""

from functools import cache

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from zxcvbn import zxcvbn

from zesty_copper.core.errors import BadInput

__all__ = ["LEAST", "MOST", "check_password", "hashed", "is_right"]

LEAST, MOST = 12, 128
"""Characters of a password (OWASP ASVS 4.0.3, 2.1.1 and 2.1.2: 12 at least, 128 at most; from memory)."""
JUDGED = 72
"""Characters that are judged: the time it takes grows with their square."""
HARD_ENOUGH = 3
"""Of 4: more than 10^8 guesses, by zxcvbn's own scale."""

_hasher = PasswordHasher()
"""Argon2id with the library's settings, those of RFC 9106 for little memory: 64 MiB, 3 passes, 4 lanes."""


def hashed(password: str) -> str:
    """Return what is kept of a password: its Argon2id hash, settings and salt in it."""
    return _hasher.hash(password)


def is_right(kept: str | None, password: str) -> bool:
    """Whether this is the password; where none is kept it takes as long to say no."""
    try:
        return _hasher.verify(kept or _nobodys(), password) and kept is not None
    except (VerificationError, InvalidHashError):
        return False


@cache
def _nobodys() -> str:
    return _hasher.hash("a password that nobody has")


def check_password(password: str, *known: str) -> None:
    """Check that a new password cannot be guessed from common ones, nor from what is known of its owner.

    Raises
    ------
    BadInput
        If it is too short, too long or too easy.
    """
    if len(password) < LEAST:
        raise BadInput(
            f"A password has at least {LEAST} characters: a few words that only you would put together.", "password"
        )
    if len(password) > MOST:
        raise BadInput(f"A password has at most {MOST} characters: take a shorter one.", "password")
    words = [word for text in known for word in (text, *text.split())]
    judged = zxcvbn(password[:JUDGED], user_inputs=[*words, "zesty", "copper"])
    if judged["score"] < HARD_ENOUGH:
        why = judged["feedback"]["warning"] or "It is easy to guess"
        raise BadInput(f"{why.removesuffix('.')}: take a few words that only you would put together.", "password")
