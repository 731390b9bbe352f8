"""What to do about a suspect, and when going on at all is dangerous."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.catalogue import Role
from zesty_copper.core.circuit.model import NEUTRAL, Circuit, Zone
from zesty_copper.core.diagnosis.model import Stop
from zesty_copper.core.faults.catalogue import Fault
from zesty_copper.core.faults.kinds import FaultKind

__all__ = ["advice_on", "in_panel", "stop_for"]

WARNED = 0.5
"""Probability from which a danger is warned of: a warning does not wait for certainty."""
_TITLES = {
    FaultKind.PRIMARY_LOST: "Stop: a phase is lost",
    FaultKind.CROSSED: "Stop: line voltage on the controls",
    FaultKind.BRIDGED: "Stop: a second supply feeds this box",
    FaultKind.STALLED: "Stop: the motor stands and burns",
    FaultKind.REVERSED: "Stop: the motors turn backwards",
}


def stop_for(circuit: Circuit, faults: Sequence[Fault], by_fault: NDArray[np.float64]) -> Stop | None:
    """Return what to stop at once, where dangers together are likelier than not."""
    at = [f for f, fault in enumerate(faults) if _is_dangerous(circuit, fault)]
    if not at or by_fault[at].sum() < WARNED:
        return None
    chief = faults[max(at, key=lambda f: by_fault[f])]
    robbed = chief.kind in (FaultKind.OPEN, FaultKind.RESISTIVE, FaultKind.INTERMITTENT)
    neutral = robbed and chief.leg == NEUTRAL
    title = "Stop: the service neutral is failing" if neutral else _TITLES.get(chief.kind, "Stop: a leg is lost")
    words = _ON_A_LOST_LEG if robbed and not neutral else advice_on(circuit, chief)
    return Stop(suspect=chief.key, probability=float(by_fault[at].sum()), title=title, words=words)


_ON_A_LOST_LEG = (
    "A three-phase motor on a lost leg burns: off at once, and off it stays until the leg is found and mended. "
    "A compressor that ran so is checked for harm."
)


def _is_dangerous(circuit: Circuit, fault: Fault) -> bool:
    """Whether going on hurts people or burns equipment."""
    if fault.kind in _TITLES:
        return True
    if fault.part is None or fault.kind not in (FaultKind.OPEN, FaultKind.RESISTIVE, FaultKind.INTERMITTENT):
        return False
    part = circuit.part(fault.part)
    if fault.leg == NEUTRAL:
        return part.entry.role is Role.SOURCE
    motors = [motor for motor in circuit.three_phase_motors if part in circuit.path(motor)]
    return fault.kind is FaultKind.OPEN and any(fault.leg in circuit.lanes_of(motor) for motor in motors)


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
            return "Stop: kill it at the panel before anyone touches a control wire. Suspect the thermostat too."
        case FaultKind.BRIDGED:
            return "Two supplies feed this box: open and lock both, and prove every conductor dead before hands go in."
        case FaultKind.REVERSED:
            return "Stop the motors. Off, locked and proved dead, swap two legs where they were swapped; then prove it."
        case FaultKind.NOT_CLOSED:
            return "Prove the meter, then find out why it is not closed: one reset at most onto an unexplained trip."
        case FaultKind.SHORT | FaultKind.LOAD_GROUND:
            return "Do not reset it again: off, locked and proved dead, then find by ohms what touches, piece by piece."
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
