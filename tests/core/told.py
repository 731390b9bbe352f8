"""Short ways to say readings in tests."""

from collections.abc import Sequence

import numpy as np
from benchmarks.diagnosis.world import World

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.point import Point
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Suspect
from zesty_copper.core.diagnosis.model.job import Job, Scope
from zesty_copper.core.faults.catalogue import faults_of
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Measurement, Reading
from zesty_copper.core.observations.modes import MeterMode, Tool

CONDENSER = ready_made()["condenser_fused"]
AT_REST = ("contactor",)
PULLED = ("contactor", "disconnect")
LO_Z = MeterMode.LO_Z


def volts(
    a: str, b: str, value: float, *open_switches: str, meter: MeterMode = MeterMode.HI_Z, name: str = ""
) -> Reading:
    """Say a voltage."""
    measurement = Measurement(
        place=Between(a=Point(a), b=Point(b)), meter=meter, open_switches=frozenset(open_switches)
    )
    key = name or f"{a} {b} {sorted(open_switches)} {meter}"
    return Reading(id=key[:64], measurement=measurement, value=value, unit="V")


def amps(leg: str, part: str, value: float) -> Reading:
    """Say a current, all switches closed."""
    return Reading(id=f"{leg} {part}", measurement=Measurement(place=Around(leg=leg, part=part)), value=value, unit="A")


def spot(part: str, between: float, first: float, second: float, *open_switches: str) -> list[Reading]:
    """Say the three basic readings of a spot."""
    a, b = f"L1@{part}", f"L2@{part}"
    return [
        volts(a, b, between, *open_switches),
        volts(a, "G", first, *open_switches),
        volts(b, "G", second, *open_switches),
    ]


METER = frozenset({Tool.LOZ, Tool.SEQUENCE})
"""A meter and a clamp alone: what the patterns of volts and amps are told by."""


def answer(
    *readings: Reading,
    circuit: Circuit = CONDENSER,
    panel: bool = False,
    looks: Sequence[Look] = (),
    tools: frozenset[Tool] = METER,
) -> Diagnosis:
    """Diagnose."""
    scope = Scope(panel_may_be_opened=panel, tools=tools)
    return diagnose(Job(circuit=circuit, readings=readings, looks=tuple(looks), scope=scope))


def seen(sign: str, part: str | None = None, leg: str | None = None, *, there: bool = True) -> Look:
    """Say a look."""
    return Look(id=f"{sign} {part} {leg}", sign=sign, part=part, leg=leg, seen=there)


def ohms(a: str, b: str, value: float, *open_switches: str, meter: MeterMode = MeterMode.OHM) -> Reading:
    """Say a resistance, the switches opened and locked."""
    measurement = Measurement(
        place=Between(a=Point(a), b=Point(b)), meter=meter, open_switches=frozenset(open_switches)
    )
    return Reading(id=f"{a} {b} {meter}", measurement=measurement, value=value, unit="ohm")


def chance(found: Diagnosis, *keys: str) -> float:
    """Sum the probability of the suspects named; a key may be cut short to mean all that begin so."""
    return sum(s.probability for s in found.suspects if any(s.key.startswith(key) for key in keys))


def top(found: Diagnosis) -> Suspect:
    """Return the likeliest suspect."""
    return found.suspects[0]


def led_to_the_end(
    truth: str, first_spot: str = "", seed: int = 5, *, circuit: Circuit = CONDENSER, cap: int = 15
) -> tuple[Diagnosis, list[Reading]]:
    """Read one spot on a circuit that has this fault, then follow the next test until there is none."""
    fault = next(fault for fault in faults_of(circuit) if fault.key == truth)
    world = World(circuit, fault, np.random.default_rng(seed))
    measurements = [reading.measurement for reading in spot(first_spot, 0, 0, 0)] if first_spot else []
    readings = [
        Reading(id=f"spot {i}", measurement=m, value=world.read(m), unit="V") for i, m in enumerate(measurements)
    ]
    while True:
        diagnosis = answer(*readings, circuit=circuit, panel=True)
        if diagnosis.next_test is None or not diagnosis.next_test.measurements or len(readings) > cap:
            return diagnosis, readings
        for m in diagnosis.next_test.measurements:
            readings.append(Reading(id=str(len(readings)), measurement=m, value=world.read(m), unit=m.unit))
