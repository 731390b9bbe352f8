"""Who may do what: people, their roles, and how far each may be sent."""

from enum import StrEnum
from typing import Annotated
from uuid import UUID

from pydantic import Field, StrictBool, StringConstraints

from zesty_copper.core.diagnosis.model.job import Scope
from zesty_copper.core.errors import NotAllowed
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.words import say

__all__ = ["Line", "Name", "Person", "Role", "check_scope", "narrowed"]

UNSEEN = r"\u0000-\u001f\u007f-\u009f\u00ad\u061c\u200b-\u200f\u2028-\u202e\u2060-\u206f\ufeff"
"""Characters that nobody sees, or that turn the text after them around."""
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80, pattern=rf"^[^{UNSEEN}]+$")]
"""A name on one line."""
Line = Annotated[str, StringConstraints(pattern=rf"^[^{UNSEEN}]*$")]
"""Text on one line, or none."""


class Role(StrEnum):
    """What somebody is to the firm."""

    TECHNICIAN = "technician"
    LEAD = "lead"
    ELECTRICIAN = "electrician"
    READ_ONLY = "read_only"

    @property
    def sees_all_calls(self) -> bool:
        """Whether every call is theirs to see; the others see their own and those shared with them."""
        return self in (Role.LEAD, Role.READ_ONLY)

    @property
    def sees_all_sites(self) -> bool:
        """Whether every site is theirs to see; an electrician sees those of the calls that were handed over."""
        return self is not Role.ELECTRICIAN

    @property
    def changes_calls(self) -> bool:
        """Whether they may change the calls that they see."""
        return self is not Role.READ_ONLY

    @property
    def opens_calls(self) -> bool:
        """Whether they may open calls, and put sites and equipment on file."""
        return self in (Role.LEAD, Role.TECHNICIAN)


class Person(Frozen):
    """Someone who works for the firm, or with it."""

    id: UUID
    name: Name
    role: Role = Role.TECHNICIAN
    may_open_panels: StrictBool = Field(
        default=False, description="granted by a lead: licensed for it, or working under someone who is"
    )
    is_active: StrictBool = Field(default=True, description="whether they may sign in")


def check_scope(person: Person, before: Scope | None, after: Scope) -> None:
    """Check that somebody may set this scope in place of that one (none for a new call).

    Raises
    ------
    NotAllowed
        If it opens the panel further, and no lead has granted them panel work.
    """
    if person.role is Role.LEAD or person.may_open_panels:
        return
    before = before or Scope()
    goes_further = (after.panel_may_be_opened and not before.panel_may_be_opened) or (
        after.panel_volts_only and not (before.panel_volts_only or before.panel_may_be_opened)
    )
    if goes_further:
        raise NotAllowed(say("people.panel_work_granted_lead"), "panel_may_be_opened")


def narrowed(scope: Scope, person: Person) -> Scope:
    """Return how far somebody is sent on a call of this scope: into no panel that is not theirs to open.

    A lead, and whoever only reads, see the call as it stands for those who work on it.
    """
    if person.may_open_panels or person.role.sees_all_calls:
        return scope
    return scope.model_copy(update={"panel_may_be_opened": False, "panel_volts_only": False})
