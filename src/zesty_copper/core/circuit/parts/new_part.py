"""A new part of some kind as it would usually stand behind another: its conductors, plate and switch, to be changed."""

import re
from collections.abc import Collection

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part, Switch, Zone
from zesty_copper.core.circuit.parts.catalogue import PartEntry, PartRole, ShuntModel, entry
from zesty_copper.core.circuit.parts.conductor import Conductor
from zesty_copper.core.circuit.parts.loads import LoadData, Winding
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.circuit.systems import supplies

__all__ = ["free_id", "new_part", "new_supply"]

LONGEST_ID = 40
BRANCH_AWG, CONTROL_AWG = 10, 18
FIRST_LENGTH_M = 3.0
CONTROL_VOLTS, CONTROL_VA = 24.0, 40.0
COIL_AMPS = 0.4
START = "S"
"""What the conductor from a run capacitor to a start winding is called."""


def new_part(circuit: Circuit, behind: Part, kind: str) -> tuple[Part, Switch | None]:
    """Return a part of a kind, with usual data to begin with, and its own switch where it is one.

    Raises
    ------
    BadInput
        If the catalogue has no such kind.
    """
    kind_entry = entry(kind)
    used_ids = {part.id for part in circuit.parts} | {switch.id for switch in circuit.switches}
    part_id = kind if kind not in used_ids else free_id(kind, used_ids)
    root = _root_behind(circuit, behind)
    control = root.entry.role is PartRole.TRANSFORMER
    volts = root.winding.secondary_volts if root.winding else circuit.root_volts(root)
    data: dict[str, object] = {"lanes": _usual_lanes(circuit, behind, kind_entry)}
    match kind_entry.role:
        case PartRole.SHUNT if kind_entry.capacitive:
            data["capacitance_uf"] = 1.0
        case PartRole.SHUNT:
            data["load"] = LoadData(rated_volts=volts, rated_amps=COIL_AMPS if control else 1.0)
        case PartRole.TRANSFORMER:
            data |= {
                "makes": ("R", "C"),
                "winding": Winding(
                    primary_volts=volts,
                    secondary_volts=CONTROL_VOLTS,
                    volt_amps=CONTROL_VA,
                ),
            }
        case _ if kind_entry.capacitive:
            data |= {"capacitance_uf": 40.0, "makes": (START,)}
        case _ if kind_entry.resistance_mohm is None:
            data["conductor"] = Conductor(size_awg=CONTROL_AWG if control else BRANCH_AWG, length_m=FIRST_LENGTH_M)
        case _ if kind_entry.stands_in and control:
            data["makes"] = ("Y",)
    switch = _switch(circuit, part_id, kind_entry) if kind_entry.is_switch else None
    part = Part.model_validate(
        {
            "id": part_id,
            "kind": kind,
            "name": _name(kind_entry.label, {each_part.name for each_part in circuit.parts}),
            "device": "" if kind_entry.stands_in else behind.device,
            "zone": Zone(kind_entry.stands_in) if kind_entry.stands_in else behind.zone,
            "switch": switch.id if switch else None,
            **data,
        }
    )
    return part, switch


def new_supply(circuit: Circuit, system: str) -> Part:
    """Return a further source of a system, with the neutral where that has one."""
    supply = supplies()[system]
    used_ids = {part.id for part in circuit.parts} | {switch.id for switch in circuit.switches}
    return Part(
        id=free_id("supply", used_ids),
        kind="source",
        name=_name("further supply", {part.name for part in circuit.parts}),
        device=circuit.parts[0].device,
        zone=Zone.PANEL,
        lanes=(*supply.legs, *((NEUTRAL,) if supply.neutral else ())),
        system=system,
    )


def free_id(old: str, taken: Collection[str]) -> str:
    """Return the next id like an old one.

    >>> free_id("element_1", {"element_1", "element_2"})
    'element_3'
    """
    stem = re.sub(r"_\d+$", "", old)[: LONGEST_ID - 4]
    return next(name for n in range(2, len(taken) + 3) if (name := f"{stem}_{n}") not in taken)


def _name(label: str, taken: Collection[str]) -> str:
    name = label[0].lower() + label[1:]
    return name if name not in taken else next(s for n in range(2, len(taken) + 3) if (s := f"{name} {n}") not in taken)


def _root_behind(circuit: Circuit, behind: Part) -> Part:
    """Return the source or transformer that feeds what hangs on a part."""
    return behind if behind.entry.role is PartRole.TRANSFORMER else circuit.root(behind)


def _usual_lanes(circuit: Circuit, behind: Part, known: PartEntry) -> tuple[str, ...] | None:
    """Return the conductors such a part is usually on there; none where those of its supply will do."""
    root = _root_behind(circuit, behind)
    lanes_behind = [lane for lane in circuit.lanes_of(behind) if lane not in (GROUND, NEUTRAL)]
    if root.entry.role is PartRole.TRANSFORMER:
        common = root.makes[1]
        called = next((lane for lane in lanes_behind if lane != common), root.makes[0])
        return (called,) if known.role is PartRole.SERIES else (called, common)
    if known.role is PartRole.SERIES:
        return (lanes_behind[-1],) if known.capacitive else (lanes_behind[0],) if known.one_pole else None
    return _joined([lane for lane in circuit.lanes_of(root) if lane not in (GROUND, NEUTRAL)], known)


def _joined(hot: list[str], known: PartEntry) -> tuple[str, ...] | None:
    """Return the conductors that a load or a transformer usually joins on a supply of such legs."""
    if known.model is ShuntModel.SPLIT_PHASE:
        return (*hot[:2], START)
    if len(hot) == 1:
        return (hot[0], NEUTRAL)
    if known.role is PartRole.TRANSFORMER or (known.model is ShuntModel.ELEMENT and known.idle):
        return tuple(hot[:2])
    return None


def _switch(circuit: Circuit, part_id: str, known: PartEntry) -> Switch:
    """Return the part's own switch; a coil that moves nothing yet moves it, where a coil moves such a part."""
    moving = {switch.coil for switch in circuit.switches}
    idle = [part.id for part in circuit.parts if part.entry.moves_contacts and part.id not in moving]
    return Switch(
        id=part_id,
        name=_name(known.label, {switch.name.lower() for switch in circuit.switches}).capitalize(),
        closed=known.closed,
        open=known.opened,
        coil=idle[0] if idle and known.by_coil else None,
    )
