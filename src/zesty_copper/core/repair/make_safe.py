"""Safe enough to look: what comes before any cover is opened, by what this equipment is fed from and made of."""

from collections.abc import Iterator

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.systems import Grounding
from zesty_copper.core.diagnosis.model.job import Scope
from zesty_copper.core.repair.charge import may_hold_charge
from zesty_copper.core.repair.lock_out import circuits_into
from zesty_copper.core.words import say

__all__ = ["make_safe"]


def make_safe(circuit: Circuit, scope: Scope) -> Iterator[str]:
    """Say what is to be seen to before the first look, each a line to tick."""
    yield say("repair.safe_protection")
    yield say("repair.safe_meter", volts=circuit.highest_volts)
    feeding = circuits_into(circuit, circuit.loads)
    if len(feeding) > 1:
        yield say("repair.safe_supplies", count=len(feeding), names=", ".join(feeding.values()))
    else:
        yield say("repair.safe_second_supply")
    yield say("repair.other_sources")
    supply = circuit.supply
    if supply.high_leg is not None:
        volts = abs(supply.phasors[supply.high_leg])
        yield say("repair.safe_high_leg", leg=supply.high_leg, volts=volts)
    if any(abs(volts) < 1.0 for volts in supply.phasors.values()):
        yield say("repair.safe_grounded_leg")
    if supply.grounding is Grounding.NONE:
        yield say("repair.safe_ungrounded")
    if circuit.three_phase_motors:
        yield say("repair.safe_three_phase")
    if may_hold_charge(circuit):
        yield say("repair.safe_charge")
    if scope.panel_may_be_opened:
        yield say("repair.safe_panel_licensed")
    elif scope.panel_volts_only:
        yield say("repair.safe_panel_volts")
    else:
        yield say("repair.safe_panel_shut")
    yield say("repair.safe_look_first")
