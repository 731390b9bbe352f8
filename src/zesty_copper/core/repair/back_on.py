"""Back on in order: what is closed when, what each step should read, and when to stop."""

import itertools
from collections.abc import Collection, Iterator, Sequence

from pydantic import Field

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.systems import Grounding
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.repair.control_volts import controls_of
from zesty_copper.core.words import say

__all__ = ["BackOnStep", "back_on"]

SERVICE_SHARE = 0.05
"""By how much a supply may be off its nominal volts (ANSI C84.1, range A at the service; from memory)."""


class BackOnStep(Frozen):
    """One step of putting it back on."""

    does: str
    reads: str = Field(description="what the meter should show then; empty where nothing is read")
    stop: str = Field(description="when to stop and open it again")


def back_on(circuit: Circuit, opened: Collection[str]) -> Iterator[BackOnStep]:
    """Say how the equipment goes back on: dead first, then from the source down, then its loads one by one.

    Parameters
    ----------
    opened
        Ids of the switches that the work opened: nothing else is closed.
    """
    loads = [load for load in circuit.loads if load.load is not None and not load.entry.elsewhere]
    electronic = [load.name for load in loads if load.entry.electronic]
    yield _ohms(circuit, opened)
    if electronic:
        yield BackOnStep(does=say("repair.back_no_insulation_test", names=", ".join(electronic)), reads="", stop="")
    else:
        yield BackOnStep(
            does=say("repair.back_insulation"),
            reads=say("repair.back_insulation_read"),
            stop=say("repair.back_insulation_stop"),
        )
    yield BackOnStep(does=say("repair.loads_off_before_closing"), reads="", stop="")
    ways = [circuit.path(load) for load in loads if circuit.root(load).entry.role is PartRole.SOURCE]
    sources = [
        part for part in circuit.series if part.entry.role is PartRole.SOURCE and any(part in parts for parts in ways)
    ]
    for source in sources:
        yield from _closed_in_order(circuit, source, [parts for parts in ways if source in parts], opened)
    for controls in controls_of(circuit):
        yield BackOnStep(
            does=say("repair.back_controls", hot=controls.hot, letters=controls.words),
            reads=say(
                "repair.back_controls_read",
                hot=controls.hot,
                least=controls.least_volts,
                most=controls.most_volts,
                letters=controls.words,
            ),
            stop=say("repair.back_controls_stop", most=controls.most_volts),
        )
    running = [load for load in loads if circuit.root(load).entry.role is PartRole.SOURCE]
    for load in running:
        yield _load_on(load, alone=len(running) == 1)
    if any(part.entry.moved_by == "call" and part.switch for parts in ways for part in parts):
        yield BackOnStep(does=say("repair.back_end_call"), reads=say("repair.back_end_call_read"), stop="")


def _ohms(circuit: Circuit, opened: Collection[str]) -> BackOnStep:
    """Ohms behind what was opened: what stays connected across the legs when nothing calls is no short."""
    across = [_with_ohms(part) for part in circuit.parts if _lies_across(circuit, part, opened)]
    if not across:
        return BackOnStep(
            does=say("repair.back_ohms"), reads=say("repair.back_ohms_read"), stop=say("repair.back_ohms_stop")
        )
    return BackOnStep(
        does=say("repair.back_ohms"),
        reads=say("repair.back_ohms_read_across", names=", ".join(across)),
        stop=say("repair.back_ohms_stop_across"),
    )


def _lies_across(circuit: Circuit, part: Part, opened: Collection[str]) -> bool:
    """Whether a part joins conductors behind what was opened, with no contact ahead of it that is open at rest."""
    joins = part.entry.role in (PartRole.SHUNT, PartRole.TRANSFORMER)
    if not joins or part.entry.elsewhere or circuit.root(part).entry.role is not PartRole.SOURCE:
        return False
    coiled = {switch.id for switch in circuit.switches if switch.coil is not None}
    parts = [each_part for each_part in circuit.path(part) if each_part != part and each_part.switch is not None]
    at_rest = [each_part for each_part in parts if each_part.entry.moved_by == "call" or each_part.switch in coiled]
    return any(each_part.switch in opened for each_part in parts) and all(
        each_part.normally_closed for each_part in at_rest
    )


def _with_ohms(part: Part) -> str:
    """Its name, and where it is a plain resistance, about how many ohms it reads."""
    if part.load is None or not part.entry.heats:
        return part.name
    return say("repair.about_ohms", name=part.name, ohm=part.load.rated_volts / part.load.rated_amps)


def _closed_in_order(
    circuit: Circuit, source: Part, ways: Sequence[Sequence[Part]], opened: Collection[str]
) -> Iterator[BackOnStep]:
    """Each switch that was opened, from the source down, once."""
    reads = _volts(circuit, source)
    closed: dict[str, Part] = {}
    for part in itertools.chain(*ways):
        if part.switch in opened and part.entry.moved_by == "hand":
            closed.setdefault(str(part.switch), part)
    names = {switch.id: f"{switch.name[0].lower()}{switch.name[1:]}" for switch in circuit.switches}
    for switch, part in closed.items():
        if part.entry.overcurrent:
            does = say("repair.back_reset_once", name=names[switch])
            yield BackOnStep(does=does, reads=reads, stop=say("repair.back_reset_stop"))
        else:
            does = say("repair.back_close", name=names[switch])
            yield BackOnStep(does=does, reads=reads, stop=say("repair.back_close_stop"))


def _volts(circuit: Circuit, source: Part) -> str:
    """Volts behind each closed switch, between the legs and to ground."""
    supply = circuit.supply_of(source)
    lanes = [lane for lane in circuit.lanes_of(source) if lane in supply.legs]
    phasor = supply.phasors
    pairs = [(f"{a} to {b}", abs(phasor[a] - phasor[b])) for a, b in itertools.combinations(lanes, 2)]
    if supply.grounding is not Grounding.NONE:
        pairs += [(f"{lane} to ground", abs(phasor[lane])) for lane in lanes]
    expected: dict[tuple[str, str], list[str]] = {}
    for pair, volts in pairs:
        range_ = (f"{(1 - SERVICE_SHARE) * volts:.0f}", f"{(1 + SERVICE_SHARE) * volts:.0f}")
        expected.setdefault(range_, []).append(pair)
    # Pairs that should read alike are said once.
    return "; ".join(
        say("repair.back_volts", pairs=", ".join(alike), least=least, most=most)
        for (least, most), alike in expected.items()
    )


def _load_on(load: Part, *, alone: bool) -> BackOnStep:
    """Turn one load on, with the amps that it should draw."""
    assert load.load is not None  # the caller leaves out what draws nothing
    does = say("repair.back_call_for", name=load.name) if alone else say("repair.back_next_load", name=load.name)
    reads = say("repair.back_amps", amps=load.load.rated_amps)
    stop = say("repair.back_heat_stop") if load.entry.is_heat else say("repair.back_motor_stop")
    return BackOnStep(does=does, reads=reads, stop=stop)
