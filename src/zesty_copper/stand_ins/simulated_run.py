"""What a clamp would see while a circuit rests, starts, runs and stops: the network's own numbers, over time."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.point import Point
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, compile_circuit
from zesty_copper.core.diagnosis.predict.observe import predict
from zesty_copper.core.errors import BadInput
from zesty_copper.core.load_test.expected import usual_channels
from zesty_copper.core.load_test.trace import Channel, Series
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Measurement

__all__ = ["SimulatedRun"]

REST_S, STOP_S = 20.0, 20.0
"""So long nothing runs, before and after [s]."""
INRUSH_TIMES, INRUSH_S = 5.0, 0.28
"""A motor starts with so many times its amps, which die away so fast [s]; common practice, no source."""
WARM_S, JOINT_WARMS = 180.0, 0.25
"""A poor joint's drop grows by a quarter as it heats, with this time constant [s]; common practice, no source."""
COOLS = 0.004
"""A good element's amps fall by so much as it heats; common practice, no source."""
MILD = 0.2
"""Where in the spread of a fault's severity the simulated one lies: bad enough to see, and the equipment still runs."""
VOLT_NOISE, AMP_NOISE, WANDER = 0.15, 0.04, 0.02
"""Of one sample [V, A], and by how much the supply wanders from one to the next [V]."""
LOST_SHARE = 0.002
"""Of the samples some are lost on the way."""


@dataclass(frozen=True)
class _Levels:
    """What each channel reads at rest and running, with what hides in the circuit and without."""

    rest: Series
    running: Series
    well: Series


class SimulatedRun:
    """One run of a circuit.

    Parameters
    ----------
    fault
        Key of what hides in it; none: nothing.

    Raises
    ------
    BadInput
        If the circuit has no such fault, or nothing that could be clamped.
    """

    def __init__(self, circuit: Circuit, fault: str | None, seed: int) -> None:
        self.channels = usual_channels(circuit)
        if not self.channels:
            raise BadInput("Nothing of this circuit could be clamped.", "circuit")
        self._motor = not all(channel.heats for channel in self.channels if channel.kind == "amps")
        self._levels = _levels(circuit, self.channels, fault)
        self._rng = np.random.default_rng(seed)

    def samples(self, rate_hz: float, minutes: float) -> Iterator[tuple[float, list[float | None]]]:
        """Every sample in its order: seconds, and one number for each channel, none where it was lost."""
        rng = self._rng
        volts = np.array([channel.kind == "volts" for channel in self.channels])
        noise = np.where(volts, VOLT_NOISE, AMP_NOISE)
        wander, end = 0.0, 60 * minutes
        for i in range(int(end * rate_hz) + 1):
            at = i / rate_hz
            wander += rng.normal(0, WANDER) - 0.002 * wander
            values = self._at(at, end) + rng.normal(0, noise) + volts * wander
            values = np.maximum(values, 0.0)
            lost = rng.random() < LOST_SHARE
            yield round(at, 3), [None if lost else round(float(number), 2) for number in values]

    def _at(self, seconds: float, end: float) -> Series:
        levels = self._levels
        since = seconds - REST_S
        if since < 0 or seconds > end - STOP_S:
            return levels.rest
        inrush = 1.0
        if self._motor:
            inrush += (INRUSH_TIMES - 1) * float(np.exp(-since / INRUSH_S))
        warm = 1 - float(np.exp(-since / WARM_S))
        volts = np.array([channel.kind == "volts" for channel in self.channels])
        # What a poor joint takes grows as it heats, as long as it leaves the load its current.
        share = np.where(volts, levels.running / np.maximum(levels.well, 1.0), 0.0)
        grown = levels.running + JOINT_WARMS * warm * share * (levels.running - levels.well)
        cooled = 1.0 if self._motor else 1 - COOLS * warm
        sagged = levels.rest + inrush * (grown - levels.rest)
        return np.asarray(np.where(volts, sagged, inrush * cooled * levels.running))


def _levels(circuit: Circuit, channels: Sequence[Channel], fault: str | None) -> _Levels:
    compiled = compile_circuit(circuit)
    keys = [each_fault.key for each_fault in compiled.faults]
    if fault is not None and fault not in keys:
        raise BadInput("The circuit has no such fault: choose another.", "fault")
    row = compiled.healthy if fault is None else int(compiled.row[keys.index(fault)])
    sample = int(np.abs(compiled.nuisance.fault_quantile - MILD).argmin())
    calls = frozenset(part.switch for part in circuit.series if part.entry.moved_by == "call" and part.switch)
    by_hand = {switch.id for switch in circuit.by_hand}
    rests = (calls & by_hand) or frozenset(_last_by_hand(circuit))
    measurements = [_asked(circuit, channel) for channel in channels]

    def read(row: int, open_switches: frozenset[str]) -> Series:
        return np.array([_value(compiled, measurement, open_switches, row, sample) for measurement in measurements])

    return _Levels(read(row, rests), read(row, frozenset()), read(compiled.healthy, frozenset()))


def _last_by_hand(circuit: Circuit) -> list[str]:
    """The last switch that a hand moves ahead of the loads, where no call moves one."""
    ways = [part.switch for part in circuit.series if part.switch and part.entry.moved_by == "hand"]
    return ways[-1:]


def _asked(circuit: Circuit, channel: Channel) -> Measurement:
    """Where a channel is read: ahead of the first contact that a call moves, or of the last switch."""
    at = _clamped(circuit)
    if channel.kind == "amps":
        clamp = next((part for part in reversed(circuit.path(at)) if part.entry.clampable), at)
        return Measurement(place=Around(leg=channel.lanes[0], part=clamp.id))
    a, b = (_point(circuit, at, lane) for lane in channel.lanes)
    return Measurement(place=Between(a=a, b=b))


def _point(circuit: Circuit, at: Part, lane: str) -> Point:
    return next(Point.at(lane, part.id) for part in reversed(circuit.path(at)) if lane in circuit.lanes_of(part))


def _clamped(circuit: Circuit) -> Part:
    """The last part ahead of what switches the load."""
    load = next(
        each_part for each_part in circuit.loads if each_part.load is not None and not each_part.entry.elsewhere
    )
    path = [part for part in circuit.path(load) if part.has_points]
    switched = [i for i, part in enumerate(path) if part.switch is not None]
    calls = [i for i in switched if path[i].entry.moved_by == "call"] or switched[-1:]
    return path[max(0, calls[0] - 1)] if calls else path[-1]


def _value(
    compiled: CompiledCircuit, measurement: Measurement, open_switches: frozenset[str], row: int, sample: int
) -> float:
    as_asked = measurement.model_copy(update={"open_switches": open_switches})
    return float(predict(compiled, as_asked).value[row, sample])
