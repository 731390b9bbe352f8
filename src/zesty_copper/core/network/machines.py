"""How loads, transformers and motors are wired inside: branches between terminals, and what couples them.

Every machine is linear here, at the slip it runs at; docs/method.md says how wrong that may be.
"""

import cmath
import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.parts.catalogue import FailureMode, PartRole, ShuntModel
from zesty_copper.core.circuit.parts.loads import LoadData, Winding

__all__ = [
    "BLOCKED_OHM",
    "STAR",
    "Inside",
    "held_amps",
    "held_ohm",
    "inside",
    "mutual_ohm",
    "on_two_legs",
    "stalled",
    "windings",
]

LOCKED_MULTIPLE = 5.0
"""Locked-rotor current against rated, where the plate does not say; common practice, no source (four to six times)."""
LOCKED_POWER_FACTOR = 0.5
USUAL_SHARE = 0.9
"""Share of its plate's amps that a motor usually draws; common practice, no source (plates leave room)."""
TRANSFORMER_DROP = 0.08
"""Voltage a small control transformer loses at full load, as a share; common practice, no source (5 to 10 %)."""
MAGNETISING_SHARE = 0.15
"""Current of its primary at no load, against full load; common practice, no source."""
START_SHARE = 0.3
"""Current of a permanent-split start winding against the rated; common practice, no source."""

WINDING_SHARE = 0.4
"""Resistance of a motor's windings to direct current, as a share of its impedance held still; common practice, no
source: the power factor of a held rotor is about half, and most of that is lost in the rotor and the iron."""
COIL_SHARE = 0.25
"""The same of a contactor's coil against its impedance pulled in: 10 to 20 Ω at 24 V; common practice, no source."""
BLOCKED_OHM = 1e9
"""What a capacitor or a rectifier's input lets through of direct current [ohm]; a number that any meter calls open."""

RATED_SLIP = 0.045
"""Slip of a small induction motor at its plate's amps; common practice, no source (3 to 6 %)."""
STATOR_SHARE = 0.4
"""Share of the stator in a held motor's resistance; common practice, no source."""

STAR = "star"
"""Name of a motor's inner node."""


@dataclass(frozen=True)
class Inside:
    """Branches of one part.

    Attributes
    ----------
    branches
        Name of each branch, and the two terminals it joins: numbers of the part's terminals, or `STAR`.
    impedance_ohm
        [branch][branch]: what drives each branch, by the current in each [ohm]; not symmetric for a turning machine.
    """

    branches: tuple[tuple[str, int | str, int | str], ...]
    impedance_ohm: tuple[tuple[complex, ...], ...]


def inside(part: Part, lanes: tuple[str, ...], omega: float) -> Inside:
    """Wire a shunt part or a transformer, running; impedances [ohm].

    A transformer's terminals are its two primary and then its two secondary conductors.
    """
    if part.entry.role is PartRole.TRANSFORMER:
        assert part.winding is not None  # Circuit checks it
        return _transformer(part.winding)
    if part.capacitance_uf is not None:
        return _pairwise(lanes, 1 / (1j * omega * part.capacitance_uf * 1e-6))
    assert part.load is not None  # Circuit checks it
    match part.entry.model:
        case ShuntModel.INDUCTION:
            running, blocked = _star(part.load.impedance_ohm / USUAL_SHARE), held_ohm(part.load)
            return _induction(lanes, running, blocked)
        case ShuntModel.SPLIT_PHASE:
            return _split_phase(part.load, part.load.impedance_ohm / USUAL_SHARE / (1 - START_SHARE / 2))
        case ShuntModel.ELEMENT if FailureMode.STALL in part.entry.may:
            return _pairwise(lanes, part.load.impedance_ohm / USUAL_SHARE)
        case ShuntModel.ELEMENT:
            return _pairwise(lanes, part.load.impedance_ohm * (math.sqrt(3) if len(lanes) == 3 else 1))


def stalled(part: Part, lanes: tuple[str, ...]) -> Inside:
    """Wire a motor whose rotor stands still: both turning fields see the same impedance."""
    assert part.load is not None  # Circuit checks it
    blocked = locked_impedance(part.load)
    match part.entry.model:
        case ShuntModel.INDUCTION:
            return _induction(lanes, held_ohm(part.load), held_ohm(part.load))
        case ShuntModel.SPLIT_PHASE:
            return _split_phase(part.load, blocked)
        case ShuntModel.ELEMENT:
            return _pairwise(lanes, blocked)


def windings(part: Part, lanes: tuple[str, ...], omega: float) -> Inside:
    """Wire a shunt or a transformer as direct current sees it: resistances [ohm], and nothing that couples.

    An ohmmeter knows no impedance: a winding is its copper, a capacitor is open, a transformer's sides are apart.
    """
    wired = inside(part, lanes, omega)
    count = len(wired.branches)
    own_ohm = _direct_ohm(part, count)
    ohm = [own_ohm[i % len(own_ohm)] for i in range(count)]
    return Inside(
        wired.branches, tuple(tuple(complex(ohm[i]) if i == j else 0j for j in range(count)) for i in range(count))
    )


def _direct_ohm(part: Part, count: int) -> tuple[float, ...]:  # noqa: PLR0911 - one for each kind
    """Resistance of each branch to direct current [ohm]."""
    if part.winding is not None:
        # Primary and secondary share the copper loss of the drop at full load.
        plate = part.winding
        amps = plate.volt_amps / plate.primary_volts
        primary = TRANSFORMER_DROP * plate.primary_volts / amps / 2
        return (primary, primary * (plate.secondary_volts / plate.primary_volts) ** 2)
    if part.capacitance_uf is not None or part.entry.electronic:
        return (BLOCKED_OHM,)
    assert part.load is not None  # Circuit checks it
    blocked = abs(locked_impedance(part.load)) * WINDING_SHARE
    match part.entry.model:
        case ShuntModel.INDUCTION:
            return (blocked / math.sqrt(3),)
        case ShuntModel.SPLIT_PHASE:
            return (blocked, 4 * blocked)
        case ShuntModel.ELEMENT if FailureMode.SHORT in part.entry.may:
            return (COIL_SHARE * abs(part.load.impedance_ohm),)
        case ShuntModel.ELEMENT if part.load.power_factor < 1:
            return (blocked,)
        case ShuntModel.ELEMENT:
            return (part.load.impedance_ohm.real * (math.sqrt(3) if count == 3 else 1),)


def held_amps(load: LoadData) -> float:
    """What a motor draws held still, which is also the start's: by its plate, else five times its amps [A]."""
    return load.locked_amps or LOCKED_MULTIPLE * load.rated_amps


def locked_impedance(load: LoadData) -> complex:
    """Impedance of a motor held still, from terminal to terminal [ohm]."""
    return load.rated_volts / held_amps(load) * complex(LOCKED_POWER_FACTOR, math.sqrt(1 - LOCKED_POWER_FACTOR**2))


@dataclass(frozen=True)
class _Rotor:
    """One phase of an induction motor in star, that draws its plate's amps at rated slip and locked ones at slip one.

    A magnetizing susceptance beside the stator's resistance, the leakage reactance of both, and a rotor's resistance
    that grows with the root of its frequency, as the bars of a squirrel cage do (skin effect; the usual Γ circuit of
    textbooks, from memory).
    """

    volts: float
    magnetizing_siemens: float
    stator_ohm: float
    leakage_ohm: float
    running_ohm: float
    starting_ohm: float

    def rotor_ohm(self, slip: float) -> float:
        """Resistance of the rotor at a slip [ohm]."""
        return self.running_ohm + (self.starting_ohm - self.running_ohm) * math.sqrt(slip)

    def branch_ohm(self, slip: float) -> complex:
        """What the rotor's branch amounts to at a slip [ohm]."""
        return complex(self.stator_ohm + self.rotor_ohm(slip) / slip, self.leakage_ohm)

    def ohm(self, slip: float) -> complex:
        """Impedance of a phase at a slip [ohm]."""
        return 1 / (1 / self.branch_ohm(slip) + 1j * self.magnetizing_siemens)

    def air_gap_watts(self, volts: complex, slip: float) -> float:
        """Power across the air gap of three phases: torque, by a constant [W]."""
        amps = abs(volts / self.branch_ohm(slip))
        return 3 * amps**2 * self.rotor_ohm(slip) / slip


def _rotor(load: LoadData) -> _Rotor:
    """Fit a motor to its plate: both currents come out exactly, at both power factors."""
    volts = load.rated_volts / math.sqrt(3)
    rated = 1 / _star(load.impedance_ohm)
    locked = math.sqrt(3) / locked_impedance(load)
    susceptance, ohm = -0.3 * abs(rated), 0j
    resistance = 0.0
    for _ in range(50):
        ohm = 1 / (locked - 1j * susceptance)
        # Conductance r / (r² + x²) of the running rotor: the larger of the two r.
        resistance = (1 + math.sqrt(max(1 - (2 * rated.real * ohm.imag) ** 2, 0.0))) / (2 * rated.real)
        susceptance = min(rated.imag + ohm.imag / (resistance**2 + ohm.imag**2), 0.0)
    stator = STATOR_SHARE * ohm.real
    starting = ohm.real - stator
    # What the rotor has at rated slip, of which the root of that slip is already skin effect.
    at_rated = (resistance - stator) * RATED_SLIP
    root = math.sqrt(RATED_SLIP)
    running = max((at_rated - starting * root) / (1 - root), 0.1 * at_rated)
    return _Rotor(volts, susceptance, stator, ohm.imag, running, starting)


def on_two_legs(load: LoadData, share: float) -> tuple[complex, complex] | None:
    """Impedances of a three-phase motor that turns on two of its legs, forward and backward [ohm]; None if it stalls.

    Parameters
    ----------
    share
        What it has to turn, as a share of its rated torque.

    Notes
    -----
    With one leg open the forward and the backward field carry the same current, in series across the pair that is left
    (Fortescue, Trans. AIEE 37 (1918) 1027-1140): the backward one, at a slip of 2 − s, brakes. The slip is the least at
    which what is left turns the load.
    """
    rotor = _rotor(load)
    rated = rotor.air_gap_watts(rotor.volts, RATED_SLIP)
    for slip in np.geomspace(2e-3, 0.35, 120).tolist():
        forward, backward = rotor.ohm(slip), rotor.ohm(2 - slip)
        # Each field carries the current of the legs over √3.
        amps = load.rated_volts / abs(forward + backward) / math.sqrt(3)
        turning = rotor.air_gap_watts(amps * forward, slip) - rotor.air_gap_watts(amps * backward, 2 - slip)
        if turning >= share * rated:
            return forward, backward
    return None


def mutual_ohm(
    forward_ohm: complex | NDArray[np.complex128], backward_ohm: complex | NDArray[np.complex128], steps: int
) -> complex | NDArray[np.complex128]:
    """Impedance between two windings that stand so many steps of 120° apart, 0 for a winding's own [ohm].

    The circulant of symmetrical components; the star point is not brought out, so Z0 carries nothing and takes Z2.
    """
    a = cmath.rect(1, 2 * math.pi / 3)
    return (backward_ohm + a**steps * forward_ohm + a**-steps * backward_ohm) / 3


def held_ohm(load: LoadData) -> complex:
    """Impedance of a phase of a three-phase motor that stands [ohm]."""
    return locked_impedance(load) / math.sqrt(3)


def _star(line_ohm: complex) -> complex:
    """Return the impedance to the star point that draws the same line current at the same line voltage [ohm]."""
    return line_ohm / math.sqrt(3)


def _pairwise(lanes: tuple[str, ...], ohm: complex) -> Inside:
    """Impedances from each conductor to the next; three make a delta."""
    if len(lanes) == 2:
        return Inside((("", 0, 1),), ((ohm,),))
    ends = ((0, 1), (1, 2), (2, 0))
    names = tuple((f"{lanes[a]}-{lanes[b]}", a, b) for a, b in ends)
    return Inside(names, tuple(tuple(ohm if i == j else 0j for j in range(3)) for i in range(3)))


def _induction(lanes: tuple[str, ...], forward_ohm: complex, backward_ohm: complex) -> Inside:
    """Three windings in star. Forward field sees the running impedance, the backward one nearly that of a held rotor.

    Symmetrical components (Fortescue, Trans. AIEE 37 (1918) 1027-1140).
    """
    # Legs follow in the order L1, L2, L3 at 0, −120°, +120°: the forward sequence.
    rows = tuple(tuple(complex(mutual_ohm(forward_ohm, backward_ohm, j - i)) for j in range(3)) for i in range(3))
    return Inside(tuple((lane, i, STAR) for i, lane in enumerate(lanes)), rows)


def _split_phase(load: LoadData, main_ohm: complex) -> Inside:
    """Terminals common, run, start. The start winding has fewer amps and more resistance; its capacitor is a part."""
    start = load.rated_volts / (START_SHARE * load.rated_amps) * complex(0.8, 0.6)
    return Inside((("run", 1, 0), ("start", 2, 0)), ((main_ohm, 0j), (0j, start)))


def _transformer(plate: Winding) -> Inside:
    """Two coupled windings, by a magnetising impedance and a drop shared between them."""
    full_amps = plate.volt_amps / plate.primary_volts
    ratio = plate.secondary_volts / plate.primary_volts
    magnetising = plate.primary_volts / (MAGNETISING_SHARE * full_amps) * complex(0.4, math.sqrt(1 - 0.4**2))
    series = TRANSFORMER_DROP * plate.primary_volts / full_amps / 2 * complex(0.9, math.sqrt(1 - 0.9**2))
    # The plate's volts are those at full load: the turns are a little higher.
    turns = ratio * (1 + TRANSFORMER_DROP)
    mutual = magnetising * turns
    # Both branch currents are counted into the winding, so what the secondary gives enters with a minus.
    return Inside(
        (("primary", 0, 1), ("secondary", 2, 3)),
        ((magnetising + series, mutual), (mutual, (magnetising + series) * turns**2)),
    )
