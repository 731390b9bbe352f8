"""A circuit with a known fault, and a meter that reads it.

This is the benchmark's own physics and its own dice: it shares the circuit's description with the product and nothing
else. The network is plain nodal admittance, solved afresh for every reading; every quantity is drawn from a continuous
distribution. The shapes differ from the engine's on purpose (uniform where it holds a Gaussian, and so on).
"""

import math
from dataclasses import dataclass

import numpy as np

from zesty_copper.core.circuit.conductor import conductor_resistance_ohm, stray_capacitance_pf
from zesty_copper.core.circuit.measurement import Between, Measurement, MeterMode
from zesty_copper.core.circuit.model import GROUND, Circuit, Part
from zesty_copper.core.faults.catalogue import Fault, FaultKind

OMEGA = 2 * math.pi * 60


@dataclass
class World:
    """One circuit as it really is today."""

    circuit: Circuit
    fault: Fault
    rng: np.random.Generator

    def __post_init__(self) -> None:
        """Draw everything that stays the same through the call."""
        rng = self.rng
        self.level = rng.uniform(0.955, 1.045)
        self.balance = rng.uniform(-0.006, 0.006)
        self.coupling = math.exp(rng.uniform(-0.9, 0.9))
        self.to_ground = math.exp(rng.uniform(-0.9, 0.9))
        self.load_factor = rng.uniform(0.82, 1.22)
        self.idle_factor = math.exp(rng.uniform(-0.7, 0.7))
        self.joint_ohm = {
            (part.id, leg): 1e-3 * math.exp(rng.uniform(-0.7, 1.1))
            for part in circuit_series(self.circuit)
            for leg in ("L1", "L2")
        }
        self.source_factor = math.exp(rng.uniform(-0.8, 0.8))
        self.volt_gain = 1 + rng.uniform(-0.008, 0.008)
        self.amp_gain = 1 + rng.uniform(-0.015, 0.015)
        self.fault_ohm = math.exp(rng.uniform(math.log(0.05), math.log(10e3)))
        self.leak_ohm = math.inf if rng.random() < 0.5 else math.exp(rng.uniform(math.log(10e3), math.log(10e6)))
        self.low_level = rng.uniform(0.5, 0.92)
        self.bad_share = rng.uniform(0.5, 0.9)

    def read(self, measurement: Measurement) -> float:
        """What the meter shows, to a tenth."""
        rng = self.rng
        bad = rng.random() < self.bad_share
        drift = 1 + rng.uniform(-0.008, 0.008)
        in_volts = isinstance(measurement.place, Between)
        truth = self._solve(measurement, bad=bad) * drift
        if in_volts:
            shown = truth * self.volt_gain + rng.uniform(-0.3, 0.3)
        else:
            shown = truth * self.amp_gain * (1 + rng.uniform(-0.02, 0.02)) + rng.uniform(-0.3, 0.3)
        return round(max(shown, 0.0), 1)

    def _solve(self, measurement: Measurement, *, bad: bool) -> float:
        circuit, kind = self.circuit, self.fault.kind
        legs = circuit.legs
        series = circuit_series(circuit)
        index = {(leg, i): k for k, (leg, i) in enumerate((leg, i) for leg in legs for i in range(len(series)))}
        matrix = np.zeros((len(index), len(index)), dtype=complex)
        current = np.zeros(len(index), dtype=complex)

        def connect(a: int | None, b: int | None, admittance: complex) -> None:
            for one, other in ((a, b), (b, a)):
                if one is not None:
                    matrix[one, one] += admittance
                    if other is not None:
                        matrix[one, other] -= admittance

        emf = [120 * self.level * (1 + self.balance), -120 * self.level * (1 - self.balance)]
        if kind is FaultKind.SAME_LEG:
            emf[1] = emf[0]
        if kind in (FaultKind.SUPPLY_DEAD, FaultKind.SUPPLY_LOW):
            emf = [e * (0 if kind is FaultKind.SUPPLY_DEAD else self.low_level) for e in emf]
        for k, leg in enumerate(legs):
            for i, part in enumerate(series):
                admittance = 1 / self._impedance(part, leg, measurement.open_switches, bad=bad)
                node = index[leg, i]
                connect(node, index[leg, i - 1] if i else None, admittance)
                if not i:
                    current[node] += admittance * emf[k]
        i = -1
        for part in circuit.parts:
            if part.load is None:
                i += 1
                length = [p.conductor.length_m if p.conductor else 0.0 for p in (part, *series[i + 1 : i + 2])]
                run_f = stray_capacitance_pf(sum(length) / 2) * 1e-12 if sum(length) else 0.0
                connect(index["L1", i], index["L2", i], 1j * OMEGA * self.coupling * (5e-12 + run_f))
                for leg in legs:
                    connect(index[leg, i], None, 1j * OMEGA * self.to_ground * (8e-12 + run_f))
                continue
            impedance = part.load.impedance_ohm * (self.load_factor if part == circuit.load else self.idle_factor)
            if kind is FaultKind.LOAD_OPEN and part.id == self.fault.part:
                impedance += self._gap(3e-12)
            connect(index["L1", i], index["L2", i], 1 / impedance)
        place = measurement.place
        if not isinstance(place, Between):
            volts = np.linalg.solve(matrix, current)
            at = next(i for i, p in enumerate(series) if p.id == place.part)
            impedance = self._impedance(series[at], place.leg, measurement.open_switches, bad=bad)
            return float(abs((volts[index[place.leg, at - 1]] - volts[index[place.leg, at]]) / impedance))
        ends = [self._node(point, series, index) for point in (place.a, place.b)]
        connect(ends[0], ends[1], 1 / 10e6 if measurement.meter is MeterMode.HI_Z else 1 / 3e3)
        volts = np.linalg.solve(matrix, current)
        a, b = (0 if end is None else volts[end] for end in ends)
        return float(abs(a - b))

    def _node(self, point: str, series: tuple[Part, ...], index: dict[tuple[str, int], int]) -> int | None:
        if point == GROUND:
            return None
        leg, _, part_id = point.partition("@")
        return index[leg, next(i for i, part in enumerate(series) if part.id == part_id)]

    def _gap(self, farad: float) -> complex:
        return 1 / (1 / self.leak_ohm + 1e-11 + 1j * OMEGA * farad * self.coupling)

    def _impedance(self, part: Part, leg: str, open_switches: frozenset[str], *, bad: bool) -> complex:
        fault = self.fault
        if part.kind == "source":
            impedance = complex(0.025, 0.015) * self.source_factor
        elif part.conductor:
            impedance = complex(conductor_resistance_ohm(part.conductor))
        else:
            impedance = complex(self.joint_ohm[part.id, leg])
        clean = 1 / complex(1e-11, OMEGA * 4e-12 * self.coupling)
        if part.switch in open_switches:
            impedance += clean
        switched = next((p.switch for p in circuit_series(self.circuit) if p.id == fault.part), None)
        if fault.kind is FaultKind.NOT_CLOSED and part.switch == switched and part.switch not in open_switches:
            impedance += clean
        if (fault.part, fault.leg) == (part.id, leg):
            if fault.kind is FaultKind.OPEN or (fault.kind is FaultKind.INTERMITTENT and bad):
                impedance += self._gap(4e-12)
            elif fault.kind is FaultKind.RESISTIVE:
                impedance += self.fault_ohm
        return impedance


def circuit_series(circuit: Circuit) -> tuple[Part, ...]:
    """The source and the parts that carry a leg's current."""
    return tuple(part for part in circuit.parts if part.load is None)
