"""What a circuit lets expect of a load test: its channels, plates' amps, and the ohms of wire and joints as new."""

import math
from collections.abc import Sequence

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.parts.ohms import way_ohm
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.load_test.report import LoadReport, analysed
from zesty_copper.core.load_test.trace import Channel, Trace

__all__ = ["analysed_for", "expected_ohm", "plated", "usual_channels"]


def _loads(circuit: Circuit) -> list[Part]:
    """What the equipment's first supply is there for."""
    loads = [load for load in circuit.loads if load.load is not None and not load.entry.elsewhere]
    roots = [circuit.root(part) for part in loads if circuit.root(part).entry.role is PartRole.SOURCE]
    return [part for part in loads if roots and circuit.root(part) is roots[0]]


def _lanes(circuit: Circuit, load: Part) -> tuple[str, ...]:
    return tuple(lane for lane in circuit.lanes_of(circuit.root(load)) if lane in circuit.lanes_of(load))


def usual_channels(circuit: Circuit) -> tuple[Channel, ...]:
    """Volts between the legs of the equipment, or to its neutral, and amps of each leg."""
    loads = _loads(circuit)
    used = [lane for lane in circuit.lanes if any(lane in _lanes(circuit, load) for load in loads) and lane != GROUND]
    hot = [lane for lane in used if lane in circuit.supply_of(circuit.root(loads[0])).legs] if loads else []
    ends = hot if len(hot) > 1 else used
    pairs = [(a, b) for i, a in enumerate(ends) for b in ends[i + 1 :]]
    volts = [Channel(kind="volts", lanes=pair) for pair in pairs]
    return (*volts, *(plated(circuit, Channel(kind="amps", lanes=(lane,))) for lane in hot))


def plated(circuit: Circuit, channel: Channel) -> Channel:
    """Say of a channel of amps what its conductor carries by the plates, and whether that is heat alone."""
    parts = [load for load in _loads(circuit) if channel.lanes[0] in _lanes(circuit, load)]
    if channel.kind == "volts" or not parts:
        return channel
    amps = sum(part.load.rated_amps for part in parts if part.load)
    return channel.model_copy(update={"rated_amps": amps, "heats": all(part.entry.is_heat for part in parts)})


def expected_ohm(circuit: Circuit, channels: Sequence[Channel]) -> dict[tuple[str, str], float]:
    """Volts that wire and joints as new lose for each ampere, by the two conductors [ohm].

    Two legs of three phases carry amps that are not opposite: their drops add to √3 of one, not to twice.
    """
    loads = _loads(circuit)
    if not loads:
        return {}
    three = any(len(_lanes(circuit, load)) == 3 for load in loads)
    share = math.sqrt(3) / 2 if three else 1.0
    pairs = [
        (channel.lanes[0], channel.lanes[1])
        for channel in channels
        if channel.kind == "volts" and len(channel.lanes) == 2
    ]
    return {pair: share * sum(way_ohm(circuit, loads[0], lane) for lane in pair) for pair in pairs}


def analysed_for(circuit: Circuit, trace: Trace) -> LoadReport:
    """Find everything in a trace of a circuit."""
    return analysed(trace, expected_ohm(circuit, trace.channels))
