"""What to do about a suspect."""

from typing import assert_never

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Zone
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.faults.catalogue import Fault
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.words import say

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
    at_source = part is not None and part.entry.role is PartRole.SOURCE
    match fault.kind:
        case FaultKind.TWO_AT_ONCE:
            return say("faults.no_single_fault_explains")
        case FaultKind.NOTHING_WRONG:
            return say("faults.supply_good_far_was")
        case FaultKind.SUPPLY_DEAD:
            return say("faults.prove_meter_known_live")
        case FaultKind.OPEN | FaultKind.RESISTIVE | FaultKind.INTERMITTENT if at_source and fault.leg == NEUTRAL:
            return say("faults.stop_failing_service_neutral")
        case FaultKind.PRIMARY_LOST:
            return say("faults.stop_every_three_phase")
        case FaultKind.SAME_LEG | FaultKind.SUPPLY_LOW | FaultKind.WRONG_SUPPLY | FaultKind.HIGH_LEG:
            return say("faults.lies_ahead_branch_leave")
        case FaultKind.CROSSED:
            return say("faults.stop_kill_panel_before")
        case FaultKind.BRIDGED:
            return say("faults.two_supplies_feed_box")
        case FaultKind.REVERSED:
            return say("faults.stop_motors_off_locked")
        case FaultKind.NOT_CLOSED:
            return say("faults.prove_meter_then_find")
        case FaultKind.SHORT | FaultKind.LOAD_GROUND:
            return say("faults.do_not_reset_off")
        case FaultKind.STALLED:
            return say("faults.stop_once_motor_stands")
        case (
            FaultKind.OPEN
            | FaultKind.RESISTIVE
            | FaultKind.INTERMITTENT
            | FaultKind.LOAD_OPEN
            | FaultKind.WELDED
            | FaultKind.COIL_SHORT
            | FaultKind.LEAK
            | FaultKind.UNDERSIZED
            | FaultKind.WRONG_TAP
            | FaultKind.NONE_OF_THESE
        ):
            if in_panel(circuit, fault.part):
                return say("faults.inside_panel_electricians_work")
            first = part.entry.advice if part and fault.kind in (FaultKind.OPEN, FaultKind.LOAD_OPEN) else ""
            dead = say("faults.switch_off_lock_out")
            return f"{dead} {first}".rstrip()
        case _:
            assert_never(fault.kind)
