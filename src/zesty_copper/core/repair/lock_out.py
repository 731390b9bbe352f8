"""What is opened and locked before a hand goes into a box, in the words on its doors; and so what is closed again."""

from collections.abc import Iterator, Sequence

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part, Zone

__all__ = ["circuits_into", "opened_for"]


def circuits_into(circuit: Circuit, parts: Sequence[Part]) -> dict[str, str]:
    """Return the switches that make every circuit dead which comes into a box that is worked in: id to name.

    Of each circuit the nearest switch that a hand moves and that sits in another box: a box's own switch leaves its
    line side live. All circuits count that anything in the box hangs on, whether it is worked on or not.
    """
    boxes = {part.zone for part in parts if part.zone not in (Zone.PANEL, Zone.THERMOSTAT)}
    parts_in_boxes = [
        each_part for each_part in circuit.parts if each_part.zone in boxes and not each_part.entry.elsewhere
    ]
    names = {switch.id: switch.name for switch in circuit.switches}
    circuits: dict[str, str] = {}
    for cabinet_part in dict.fromkeys([*(part for part in parts if part.zone is Zone.THERMOSTAT), *parts_in_boxes]):
        ahead = [part for part in _by_hand(circuit, cabinet_part) if part.zone is not cabinet_part.zone]
        if ahead and (switch := ahead[-1].switch) is not None:
            circuits.setdefault(switch, names[switch])
    # A switch behind another that is opened anyway adds nothing; where it is behind one, both are not needed.
    return {switch: name for switch, name in circuits.items() if not _is_behind(circuit, switch, circuits)}


def opened_for(circuit: Circuit, parts: Sequence[Part]) -> frozenset[str]:
    """Return every switch that the work opens: what is locked, and what is worked on or sits on its way in its box."""
    own = {
        each_part.switch
        for part in parts
        for each_part in circuit.series
        if each_part.switch is not None
        and each_part.entry.moved_by == "hand"
        and each_part.zone is part.zone
        and (each_part in circuit.path(part) or part in circuit.path(each_part))
    }
    return frozenset(circuits_into(circuit, parts)) | own


def _by_hand(circuit: Circuit, part: Part) -> Iterator[Part]:
    return (
        each_part
        for each_part in circuit.path(part)
        if each_part.switch is not None and each_part.entry.moved_by == "hand"
    )


def _is_behind(circuit: Circuit, switch: str, others: dict[str, str]) -> bool:
    """Whether every part that a switch opens lies behind another switch of these."""
    opened = [part for part in circuit.series if part.switch == switch]
    return all(
        any(each_part.switch in others and each_part.switch != switch for each_part in circuit.path(part))
        for part in opened
    )
