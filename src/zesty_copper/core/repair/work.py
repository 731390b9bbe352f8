"""How the work goes: before any hand goes in, the repair itself, and what is proven after."""

from collections.abc import Iterator, Sequence

from zesty_copper.core.circuit.model import Circuit, Part, Zone
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.words import say

__all__ = ["before_work", "order_of_work", "to_prove"]

CHARGED = ("capacitor", "drive", "filter")
"""Kinds of part that hold a charge after the power is off."""
TURNING = ("compressor", "motor", "three_phase_motor", "drive")


def before_work(circuit: Circuit) -> Iterator[str]:
    """Say what comes before any hand goes in."""
    sources = [part for part in circuit.series if part.entry.role is PartRole.SOURCE]
    if len(sources) > 1:
        yield say("repair.every_supply_off", count=len(sources), names=", ".join(part.name for part in sources))
    else:
        yield say("repair.look_for_second_supply")
    yield say("repair.off_lock_tag")
    yield say("repair.prove_dead_everywhere")
    if any(part.kind in CHARGED for part in circuit.parts):
        yield say("repair.discharge_what_holds_charge")
    yield say("repair.mark_leads_before_moving")


def order_of_work(circuit: Circuit, parts: Sequence[Part]) -> Iterator[str]:
    """Say the work in order; how it goes back on is in `back_on`."""
    ahead = _opened_first(circuit, parts)
    if ahead:
        yield say("repair.open_and_lock", names=", then ".join(ahead))
    if any(part.zone is Zone.PANEL for part in parts):
        yield say("repair.panel_line_side_live")
    yield say("repair.do_the_repair")
    yield say("repair.torque_and_pull")
    yield say("repair.covers_and_support")


def to_prove(circuit: Circuit) -> Iterator[str]:
    """Say what must be proven with the equipment running, by what it is made of."""
    loads = [load for load in circuit.loads if not load.entry.elsewhere]
    turning = [load for load in loads if load.kind in TURNING]
    yield say("repair.prove_volts_rest_and_load")
    yield say("repair.prove_drop_at_repair")
    for load in loads:
        if load.load is not None:
            yield say("repair.prove_amps_of", name=load.name, amps=load.load.rated_amps)
    if turning:
        yield say("repair.prove_start_settles")
    if circuit.three_phase_motors:
        yield say("repair.prove_legs_balance")
        yield say("repair.prove_rotation")
    if any(load.kind == "heater" for load in loads):
        yield say("repair.prove_heat_steady")
    if any(part.kind == "sequencer" for part in circuit.parts):
        yield say("repair.prove_stages_in_time")
    yield say("repair.prove_joint_temperature")
    yield say("repair.prove_load_side_dead")
    yield say("repair.prove_covers_labels_settings")


def _opened_first(circuit: Circuit, parts: Sequence[Part]) -> list[str]:
    """Names of the switch that makes each place dead, each once: the nearest by hand that is in another box.

    A box's own switch leaves its line side live: who works in the disconnect kills it at the panel.
    """
    names: dict[str, None] = {}
    for part in parts:
        ahead = [
            one
            for one in circuit.path(part)
            if one.zone is not part.zone and one.switch is not None and one.entry.moved_by == "hand"
        ]
        if ahead:
            names.setdefault(ahead[-1].name)
    return list(names)
