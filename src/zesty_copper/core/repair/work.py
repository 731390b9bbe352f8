"""How the work goes: before any hand goes in, the repair itself, and what is proven after."""

from collections.abc import Iterator, Sequence

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part, Zone
from zesty_copper.core.repair.charge import discharge_steps
from zesty_copper.core.repair.lock_out import circuits_into
from zesty_copper.core.words import say

__all__ = ["before_work", "order_of_work", "to_prove"]


def before_work(circuit: Circuit, parts: Sequence[Part]) -> Iterator[str]:
    """Say what comes before any hand goes into the boxes of some parts."""
    feeding = circuits_into(circuit, parts)
    if len(feeding) > 1:
        yield say("repair.every_circuit_off", count=len(feeding), names=", ".join(feeding.values()))
    else:
        yield say("repair.look_for_second_supply")
    yield say("repair.other_sources")
    yield say("repair.off_lock_tag")
    yield say("repair.prove_dead_everywhere")
    yield from discharge_steps(circuit)
    yield say("repair.mark_leads_before_moving")


def order_of_work(circuit: Circuit, parts: Sequence[Part]) -> Iterator[str]:
    """Say the work in order; how it goes back on is in `back_on`."""
    if ahead := circuits_into(circuit, parts):
        yield say("repair.open_and_lock", names=", then ".join(ahead.values()))
    if any(part.zone is Zone.PANEL for part in parts):
        yield say("repair.panel_line_side_live")
    yield say("repair.do_the_repair")
    yield say("repair.torque_and_pull")
    yield say("repair.covers_and_support")


def to_prove(circuit: Circuit) -> Iterator[str]:
    """Say what must be proven with the equipment running, by what it is made of."""
    loads = [load for load in circuit.loads if not load.entry.elsewhere]
    turning = [load for load in loads if load.entry.turns]
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
    if any(load.entry.is_heat for load in loads):
        yield say("repair.prove_heat_steady")
    if any(part.entry.stages for part in circuit.parts):
        yield say("repair.prove_stages_in_time")
    yield say("repair.prove_joint_temperature")
    yield say("repair.prove_load_side_dead")
    yield say("repair.prove_covers_labels_settings")
