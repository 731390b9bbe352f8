"""Changing a circuit part by part: what hangs on a part follows it, and every change is checked as a whole."""

from typing import Annotated, Literal

from pydantic import Field, ValidationError

from zesty_copper.core.circuit.catalogue import Role
from zesty_copper.core.circuit.model import Circuit, Identifier, Part, Switch
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.words import say

__all__ = ["Change", "Edit", "Insert", "Remove", "edited"]


class Insert(Frozen):
    """Put a part in behind another; what hung on that one then hangs on the new part, if it carries current on."""

    do: Literal["insert"] = "insert"
    behind: Identifier
    part: Part
    switch: Switch | None = Field(default=None, description="the new part's own switch, where it brings one")


class Remove(Frozen):
    """Take a part out; what hung on it hangs on the part ahead of it."""

    do: Literal["remove"] = "remove"
    part: Identifier


class Change(Frozen):
    """Give a part other data; its id stays."""

    do: Literal["change"] = "change"
    part: Part


Edit = Annotated[Insert | Remove | Change, Field(discriminator="do")]


def edited(circuit: Circuit, edit: Edit) -> Circuit:
    """Return the changed circuit.

    Raises
    ------
    BadInput
        If there is no such part, or the result could not be a circuit; says which part and why.
    """
    parts, switches = [_explicit(circuit, part) for part in circuit.parts], list(circuit.switches)
    match edit:
        case Insert():
            at = parts.index(_explicit(circuit, circuit.part(edit.behind)))
            new = edit.part.model_copy(update={"after": edit.behind})
            if new.has_points:
                parts = [_moved(part, edit.behind, new.id) for part in parts]
            parts.insert(at + 1, new)
            switches += [edit.switch] if edit.switch else []
        case Remove():
            gone = circuit.part(edit.part)
            if gone.entry.role is Role.SOURCE:
                raise BadInput(say("circuit.supply_cannot_taken_out"), "edit.part")
            ahead = circuit.feed(gone).id
            parts = [_moved(part, gone.id, ahead) for part in parts if part.id != gone.id]
            used = {part.switch for part in parts}
            switches = [switch for switch in switches if switch.id in used]
        case Change():
            old = circuit.part(edit.part.id)
            new = _explicit(circuit, old).model_copy(update=edit.part.model_dump(exclude={"after"}))
            parts = [new if part.id == old.id else part for part in parts]
    try:
        return circuit.model_copy(update={"parts": tuple(parts), "switches": tuple(switches)})
    except ValidationError as error:
        raise BadInput(error.errors()[0]["msg"].removeprefix("Value error, "), "edit.part") from None


def _explicit(circuit: Circuit, part: Part) -> Part:
    """Return a part that says what it hangs on, so that it stays there whatever is put in before it."""
    if part.entry.role is Role.SOURCE:
        return part
    return part.model_copy(update={"after": circuit.feed(part).id})


def _moved(part: Part, from_part: str, to_part: str) -> Part:
    return part.model_copy(update={"after": to_part}) if part.after == from_part else part
