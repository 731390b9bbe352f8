"""Changing a circuit part by part: what hangs on a part follows it, and every change is checked as a whole."""

import re
from collections.abc import Collection, Iterator, Mapping
from typing import Annotated, Literal

from pydantic import Field, ValidationError

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Identifier, Part, Switch
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.parts.new_part import free_id, new_part, new_supply
from zesty_copper.core.circuit.systems import SystemName
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.words import say

__all__ = ["Add", "AddSupply", "Change", "ChangeSwitch", "Copy", "Edit", "Insert", "Move", "Remove", "edited"]

LONGEST_NAME = 60
_COUNT = re.compile(r"\b\d{1,2}\b(?! ?(?:V|VA|kW|A|AWG|to)\b)")
"""A number in a name that counts, and is no size."""


class Insert(Frozen):
    """Put a part in behind another.

    What hung on that one then hangs on the new part, if it carries current on; not if it begins a branch beside it.
    """

    do: Literal["insert"] = "insert"
    behind: Identifier
    part: Part
    switch: Switch | None = Field(default=None, description="the new part's own switch, where it brings one")
    beside: bool = Field(default=False, description="it begins a branch: what hung there stays where it was")


class Add(Frozen):
    """Put a new part of a kind in, as it would usually stand there."""

    do: Literal["add"] = "add"
    behind: Identifier
    kind: str = Field(max_length=40)
    beside: bool = Field(default=False, description="it begins a branch: what hung there stays where it was")


class AddSupply(Frozen):
    """Let a further supply feed the equipment."""

    do: Literal["add_supply"] = "add_supply"
    system: SystemName


class Remove(Frozen):
    """Take a part out; what hung on it hangs on the part ahead of it, or goes with it."""

    do: Literal["remove"] = "remove"
    part: Identifier
    whole: bool = Field(default=False, description="with everything that hangs on it")


class Move(Frozen):
    """Hang a part, and with it all that hangs on it or not, on another."""

    do: Literal["move"] = "move"
    part: Identifier
    behind: Identifier
    whole: bool = Field(default=True, description="with everything that hangs on it, as a branch of its own")


class Copy(Frozen):
    """Put a second part like one behind another, with a second of all that hangs on it or without."""

    do: Literal["copy"] = "copy"
    part: Identifier
    behind: Identifier
    whole: bool = Field(default=True, description="with everything that hangs on it, as a branch of its own")


class Change(Frozen):
    """Give a part other data; its id stays."""

    do: Literal["change"] = "change"
    part: Part
    switch: Switch | None = Field(default=None, description="a new switch that opens it from now on")


class ChangeSwitch(Frozen):
    """Give a switch another name, other words, or another coil that moves it; its id stays."""

    do: Literal["change_switch"] = "change_switch"
    switch: Switch


Edit = Annotated[
    Insert | Add | AddSupply | Remove | Move | Copy | Change | ChangeSwitch,
    Field(discriminator="do"),
]


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
            _behind(circuit, edit.behind)
            parts = _put_in(parts, edit.behind, edit.part, in_line=not edit.beside)
            switches += [edit.switch] if edit.switch else []
        case Add():
            part, switch = new_part(circuit, _behind(circuit, edit.behind), edit.kind)
            parts = _put_in(parts, edit.behind, part, in_line=not edit.beside)
            switches += [switch] if switch else []
        case AddSupply():
            parts.append(new_supply(circuit, edit.system))
        case Remove():
            parts = _without(circuit, parts, circuit.part(edit.part), whole=edit.whole)
        case Move():
            parts = _moved_to(circuit, parts, edit)
        case Copy():
            parts, more = _with_copy(circuit, parts, edit)
            switches += more
        case Change():
            old = circuit.part(edit.part.id)
            new = _explicit(circuit, old).model_copy(update=edit.part.model_dump(exclude={"after"}))
            parts = [new if part.id == old.id else part for part in parts]
            switches += [edit.switch] if edit.switch else []
        case ChangeSwitch():
            if edit.switch.id not in {switch.id for switch in switches}:
                raise BadInput(say("circuit.circuit_has_no_switch", switch=edit.switch.id), "edit.switch")
            switches = [edit.switch if switch.id == edit.switch.id else switch for switch in switches]
    try:
        return circuit.model_copy(
            update={"parts": tuple(_in_order(parts)), "switches": tuple(_still_used(switches, parts))}
        )
    except ValidationError as error:
        raise BadInput(error.errors()[0]["msg"].removeprefix("Value error, "), "edit.part") from None


def _explicit(circuit: Circuit, part: Part) -> Part:
    """Return a part that says what it hangs on, so that it stays there whatever is put in before it."""
    if part.entry.role is PartRole.SOURCE:
        return part
    return part.model_copy(update={"after": circuit.feed(part).id})


def _behind(circuit: Circuit, part_id: str) -> Part:
    """Return a part on which another can hang."""
    part = circuit.part(part_id)
    if not part.has_points:
        raise BadInput(say("circuit.nothing_hangs_on_load", name=part.name), "edit.behind")
    return part


def _put_in(parts: list[Part], behind: str, part: Part, *, in_line: bool) -> list[Part]:
    """Return the parts with a new one; in line, a part that carries current on takes over what hung there."""
    if in_line and part.entry.role is PartRole.SERIES:
        parts = [_rehung(each_part, behind, part.id) for each_part in parts]
        at = next(i for i, one in enumerate(parts) if one.id == behind) + 1
    else:
        at = len(parts)
    return [*parts[:at], part.model_copy(update={"after": behind}), *parts[at:]]


def _rehung(part: Part, from_part: str, to_part: str) -> Part:
    return part.model_copy(update={"after": to_part}) if part.after == from_part else part


def _with_all_behind(circuit: Circuit, part: Part) -> tuple[Part, ...]:
    """Return a part and everything that hangs on it, what its transformers feed too."""
    return tuple(each_part for each_part in circuit.parts if part in circuit.path(each_part))


def _without(circuit: Circuit, parts: list[Part], gone: Part, *, whole: bool) -> list[Part]:
    if gone is circuit.parts[0] or (gone.entry.role is PartRole.SOURCE and not whole):
        raise BadInput(say("circuit.supply_cannot_taken_out"), "edit.part")
    if whole:
        out = {each_part.id for each_part in _with_all_behind(circuit, gone)}
        return [part for part in parts if part.id not in out]
    ahead = circuit.feed(gone).id
    return [_rehung(part, gone.id, ahead) for part in parts if part.id != gone.id]


def _moved_to(circuit: Circuit, parts: list[Part], edit: Move) -> list[Part]:
    part, behind = circuit.part(edit.part), _behind(circuit, edit.behind)
    if part.entry.role is PartRole.SOURCE:
        raise BadInput(say("circuit.supply_cannot_move"), "edit.part")
    if part in circuit.path(behind) and (edit.whole or part == behind):
        raise BadInput(say("circuit.cannot_hang_on_itself", name=part.name), "edit.behind")
    if edit.whole:
        mine = {each_part.id for each_part in _with_all_behind(circuit, part)}
        moved = [
            each_part.model_copy(update={"after": behind.id}) if each_part.id == part.id else each_part
            for each_part in parts
        ]
        return [
            *(each_part for each_part in moved if each_part.id not in mine),
            *(each_part for each_part in moved if each_part.id in mine),
        ]
    remaining = _without(circuit, parts, part, whole=False)
    return _put_in(remaining, behind.id, part, in_line=True)


def _with_copy(circuit: Circuit, parts: list[Part], edit: Copy) -> tuple[list[Part], list[Switch]]:
    """Return the parts with copies of some, and the copies' own switches."""
    part, behind = circuit.part(edit.part), _behind(circuit, edit.behind)
    if part.entry.role is PartRole.SOURCE:
        raise BadInput(say("circuit.supply_cannot_move"), "edit.part")
    chosen = _with_all_behind(circuit, part) if edit.whole else (part,)
    used_ids = {each_part.id for each_part in circuit.parts} | {each_switch.id for each_switch in circuit.switches}
    ids: dict[str, str] = {}
    for old in (
        *(each_part.id for each_part in chosen),
        *(each_part.switch for each_part in chosen if each_part.switch),
    ):
        ids.setdefault(old, free_id(old, used_ids | set(ids.values())))
    switches = [
        switch.model_copy(
            update={
                "id": ids[switch.id],
                "name": _counted(switch.name, {each_switch.name for each_switch in circuit.switches}),
                "coil": ids.get(switch.coil or "", switch.coil),
            }
        )
        for switch in circuit.switches
        if switch.id in {each_part.switch for each_part in chosen}
    ]
    names = {each_part.name for each_part in circuit.parts}
    by_id = {each_part.id: each_part for each_part in parts}
    copies = [_copied(by_id[each_part.id], ids, names) for each_part in chosen]
    if edit.whole:
        return [*parts, copies[0].model_copy(update={"after": behind.id}), *copies[1:]], switches
    return _put_in(parts, behind.id, copies[0], in_line=True), switches


def _copied(part: Part, ids: Mapping[str, str], names: Collection[str]) -> Part:
    update: dict[str, object] = {"id": ids[part.id], "name": _counted(part.name, names)}
    update["after"] = ids.get(part.after or "", part.after)
    update["switch"] = ids.get(part.switch or "", part.switch)
    return part.model_copy(update=update)


def _counted(old: str, taken: Collection[str]) -> str:
    """Return the next name like an old one.

    >>> _counted("sequencer 2 heater", {"sequencer 2 heater"}), _counted("5 kW bank", {"5 kW bank"})
    ('sequencer 3 heater', '5 kW bank 2')
    """
    counts = list(_COUNT.finditer(old))
    before, after = (
        (old[: counts[-1].start()], old[counts[-1].end() :]) if counts else (f"{old[: LONGEST_NAME - 4]} ", "")
    )
    return next(name for n in range(2, len(taken) + 3) if (name := f"{before}{n}{after}") not in taken)


def _in_order(parts: list[Part]) -> Iterator[Part]:
    """Put each part behind the one it hangs on, otherwise in the order in which they are told."""
    waiting, placed = parts, set[str]()
    while waiting:
        waiting_still = []
        for part in waiting:
            if part.after is None or part.after in placed:
                placed.add(part.id)
                yield part
            else:
                waiting_still.append(part)
        if len(waiting_still) == len(waiting):
            # What hangs on nothing that is there is named by the circuit's own check.
            yield from waiting_still
            return
        waiting = waiting_still


def _still_used(switches: list[Switch], parts: list[Part]) -> Iterator[Switch]:
    """Leave out switches that open nothing any more; one whose coil is gone is moved by hand."""
    opened, part_ids = {part.switch for part in parts}, {part.id for part in parts}
    for switch in switches:
        if switch.id in opened:
            yield switch if switch.coil is None or switch.coil in part_ids else switch.model_copy(update={"coil": None})
