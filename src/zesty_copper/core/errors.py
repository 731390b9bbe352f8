"""The family of errors, each with a sentence a technician could act on.

ZestyError
├── BadInput        something that was entered cannot be used; names the field
├── NotFound        what was asked for does not exist
├── Conflict        something else is stored under this name or id
├── Unreadable      what is stored is no longer allowed
├── NotAllowed      it is not for this person to do
├── NumericalError  the network could not be solved; names the part
├── Busy            more is asked for at once than can be answered in reasonable time
└── Gone            nobody waits for the answer any more
"""

__all__ = [
    "BadInput",
    "Busy",
    "Conflict",
    "Gone",
    "NotAllowed",
    "NotFound",
    "NumericalError",
    "Unreadable",
    "ZestyError",
]


class ZestyError(Exception):
    """Root of the family.

    Parameters
    ----------
    message
        One clear sentence that says what is wrong and what to do.
    field
        The input it concerns, as a dotted path; empty when none.
    details
        Further facts, JSON-ready.
    """

    code = "error"

    def __init__(self, message: str, field: str = "", **details: object) -> None:
        super().__init__(message)
        self.message = message
        self.field = field
        self.details = details


class BadInput(ZestyError):
    """Something that was entered cannot be used."""

    code = "bad_input"


class NotFound(ZestyError):
    """What was asked for does not exist."""

    code = "not_found"


class Conflict(ZestyError):
    """Something else is stored under this name or id."""

    code = "conflict"


class Unreadable(ZestyError):
    """What is stored was allowed when it was stored, and is no longer."""

    code = "unreadable"


class NotAllowed(ZestyError):
    """It is not for this person to do; the sentence says who can."""

    code = "not_allowed"


class NumericalError(ZestyError):
    """The network could not be solved."""

    code = "numerical"


class Busy(ZestyError):
    """More is asked for at once than can be answered in reasonable time."""

    code = "busy"


class Gone(ZestyError):
    """Nobody waits for the answer any more."""

    code = "gone"
