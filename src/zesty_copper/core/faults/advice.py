"""What to do about a suspect."""

from zesty_copper.core.circuit.catalogue import Role
from zesty_copper.core.circuit.model import GROUND, NEUTRAL, Circuit, Zone
from zesty_copper.core.faults.catalogue import Fault
from zesty_copper.core.faults.kinds import FaultKind

__all__ = ["advice_on", "in_panel", "single_phases"]


def single_phases(circuit: Circuit, fault: Fault) -> bool:
    """Whether a fault leaves a three-phase motor on a lost or poor leg, or may do so again."""
    if fault.part is None:
        return False
    part = circuit.part(fault.part)
    if fault.kind is FaultKind.LOAD_OPEN:
        return part in circuit.three_phase_motors
    if fault.kind not in (FaultKind.OPEN, FaultKind.RESISTIVE, FaultKind.INTERMITTENT):
        return False
    return fault.leg != GROUND and any(
        part in circuit.path(motor) and fault.leg in circuit.lanes_of(motor) for motor in circuit.three_phase_motors
    )


def in_panel(circuit: Circuit, part_id: str | None) -> bool:
    """Whether a fault is reached in the panel, or before it; the branch wires begin there."""
    return part_id is None or circuit.part(part_id).zone is Zone.PANEL


def advice_on(circuit: Circuit, fault: Fault) -> str:  # noqa: PLR0911, PLR0912 - one for each kind
    """Say what to do about a fault."""
    part = circuit.part(fault.part) if fault.part else None
    at_source = part is not None and part.entry.role is Role.SOURCE
    match fault.kind:
        case FaultKind.TWO_AT_ONCE:
            return "No single fault explains it. Switch off, lock out, prove dead; mend one and measure again."
        case FaultKind.NOTHING_WRONG:
            return "The supply is good as far as it was measured under load: look beyond it."
        case FaultKind.SUPPLY_DEAD:
            return "Prove the meter on a known live source. Then leave it off and call an electrician or the utility."
        case FaultKind.OPEN | FaultKind.RESISTIVE | FaultKind.INTERMITTENT if at_source and fault.leg == NEUTRAL:
            return (
                "Stop: a failing service neutral burns what it feeds. Main off, and the utility or an electrician now."
            )
        case FaultKind.PRIMARY_LOST:
            return "Stop every three-phase motor at once: it is burning. Leave it off and call the utility."
        case FaultKind.SAME_LEG | FaultKind.SUPPLY_LOW | FaultKind.WRONG_SUPPLY | FaultKind.HIGH_LEG:
            return "This lies ahead of the branch: leave it off and call an electrician or the utility."
        case FaultKind.CROSSED:
            return (
                "Stop: kill it at the panel before anyone touches a control wire. Before it goes back on, check what "
                "it may have hurt: thermostat, control transformer, control board."
            )
        case FaultKind.BRIDGED:
            return "Two supplies feed this box: open and lock both, and prove every conductor dead before hands go in."
        case FaultKind.REVERSED:
            return "Stop the motors. Off, locked and proved dead, swap two legs where they were swapped; then prove it."
        case FaultKind.NOT_CLOSED:
            return "Prove the meter, then find out why it is not closed: one reset at most onto an unexplained trip."
        case FaultKind.SHORT | FaultKind.LOAD_GROUND:
            return (
                "Do not reset it: off, locked and proved dead, find by ohms what touches, piece by piece, and clear "
                "it. Then OL leg to leg and to ground, every load off, one reset, and the loads back one at a time."
            )
        case FaultKind.STALLED:
            return "Stop it at once: a motor that stands burns. Then find out what holds it or keeps it from starting."
        case _ if in_panel(circuit, fault.part):
            return "Inside the panel: an electrician's work unless you are licensed for it. Leave it off."
        case _:
            first = part.entry.advice if part and fault.kind in (FaultKind.OPEN, FaultKind.LOAD_OPEN) else ""
            dead = (
                "Switch off, lock out, prove dead on every conductor, then open it up and confirm by eye and by ohms."
            )
            return f"{dead} {first}".rstrip()
