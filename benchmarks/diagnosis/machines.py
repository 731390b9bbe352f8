"""The benchmark's own machines: what loads draw by the volts they get, each with its own dice.

Nothing here is the product's: an induction motor finds its slip by its torque, a single-phase motor draws more as it
gets less, a transformer regulates and saturates. Values of plates are the circuit's description.
"""

import cmath
import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.parts.catalogue import FailureMode, PartRole, ShuntModel
from zesty_copper.core.circuit.parts.loads import LoadData

OMEGA = 2 * math.pi * 60
OFF_OHM = 1e9
"""What is off on its own protector, or lets no direct current through [ohm]."""
STAR = -1
"""In the place of a terminal: the inner node."""

Wound = tuple[str, int, int]
"""Name of a winding, and the two terminals it joins."""


class Machine:
    """Windings whose impedance may follow the volts across them."""

    wound: tuple[Wound, ...]

    def impedance(self) -> NDArray[np.complex128]:
        """(windings, windings) as they are now [ohm]."""
        raise NotImplementedError

    def begin(self) -> None:
        """Forget what the last moment did to it."""

    def unload(self) -> None:
        """Take away what it turns."""

    def mend(self) -> None:
        """Let go of what holds it."""
        self.held = False

    def settle(self, volts: Sequence[complex]) -> bool:
        """Take the volts across each winding; say whether the impedance moved by more than a little."""
        del volts
        return False

    @property
    def stands(self) -> bool:
        """Whether it is a motor that stands."""
        return False


class Plain(Machine):
    """Impedances that stay: elements, coils, capacitors, drives."""

    def __init__(self, lanes: Sequence[str], ohm: complex) -> None:
        pairs = [(0, 1)] if len(lanes) == 2 else [(0, 1), (1, 2), (2, 0)]
        self.wound = tuple(("" if len(lanes) == 2 else f"{lanes[a]}-{lanes[b]}", a, b) for a, b in pairs)
        self.ohm = ohm

    def impedance(self) -> NDArray[np.complex128]:
        """As it is now."""
        return np.asarray(np.eye(len(self.wound)) * self.ohm, dtype=complex)


class SinglePhase(Machine):
    """A motor that goes on giving its power: at fewer volts it draws more, and below some seven tenths it stalls."""

    def __init__(self, load: LoadData, rng: np.random.Generator, *, held: bool) -> None:
        self.wound = (("", 0, 1),)
        self.load, self.held = load, held
        self.power_share = rng.uniform(0.7, 1.06)
        self.start_share = rng.uniform(0.6, 0.76)
        self.volts, self.turns = load.rated_volts, False

    def begin(self) -> None:
        """Forget what the last moment did to it."""
        self.volts, self.turns = self.load.rated_volts, False

    def unload(self) -> None:
        """Take away what it turns."""
        self.power_share *= 0.4

    @property
    def stands(self) -> bool:
        """Whether it stands."""
        return self.held or not self.turns

    def impedance(self) -> NDArray[np.complex128]:
        """As it is now."""
        return np.array([[self._ohm()]])

    def _ohm(self) -> complex:
        load = self.load
        if self.stands:
            return locked_ohm(load)
        sine = math.sqrt(1 - load.power_factor**2)
        amps = load.rated_amps * self.power_share * load.rated_volts / self.volts
        return self.volts / amps * complex(load.power_factor, sine)

    def settle(self, volts: Sequence[complex]) -> bool:
        """Take the volts."""
        found, rated = abs(volts[0]), self.load.rated_volts
        if self.held:
            return False
        if self.turns != (found >= (self.start_share - 0.08 * self.turns) * rated):
            self.turns = not self.turns
            self.volts = rated
            return True
        moved = self.turns and abs(found - self.volts) > 0.01 * rated
        self.volts = 0.5 * (self.volts + found) if moved else self.volts
        return moved


class SplitPhase(SinglePhase):
    """A compressor with common, run and start brought out; its capacitor is a part of the circuit."""

    def __init__(self, load: LoadData, rng: np.random.Generator, *, held: bool) -> None:
        super().__init__(load, rng, held=held)
        self.wound = (("run", 1, 0), ("start", 2, 0))
        self.start_ohm = load.rated_volts / (0.3 * load.rated_amps) * complex(0.8, 0.6) * rng.uniform(0.85, 1.4)

    def impedance(self) -> NDArray[np.complex128]:
        """As it is now."""
        return np.diag([self._ohm() / 0.87, self.start_ohm])


class ThreePhase(Machine):
    """A double-cage induction motor by its own torque: R1, X1, Xm, and two cages side by side in the rotor."""

    def __init__(self, load: LoadData, rng: np.random.Generator, *, held: bool, was_running: bool) -> None:
        self.load, self.held, self.was_running = load, held, was_running
        self.phase_volts = load.rated_volts / math.sqrt(3)
        base = self.phase_volts / load.rated_amps
        self.stator = base * rng.uniform(0.03, 0.05)
        self.magnetizing = 1j * base * rng.uniform(1.8, 2.8)
        self.cages = (base * rng.uniform(0.09, 0.14), base * rng.uniform(0.02, 0.032))
        self.leak = self._leak_for(load.locked_amps or 5.5 * load.rated_amps, base)
        self.share = rng.uniform(0.35, 1.0)
        self.fan = rng.random() < 0.3
        self.protected = rng.random() < 0.4
        slips = np.geomspace(1e-3, 0.2, 400)
        amps = [self.phase_volts / abs(self.ohm(s)) for s in slips]
        self.rated_slip = float(slips[int(np.argmin(np.abs(np.array(amps) - load.rated_amps)))])
        self.rated_torque = self._torque(self.phase_volts, self.rated_slip)
        self.slip = 1.0 if held else self.rated_slip
        self.off = False
        self.wound = tuple((lane, i, STAR) for i, lane in enumerate(("L1", "L2", "L3")))

    def _leak_for(self, locked_amps: float, base: float) -> float:
        """Leakage at which it draws its locked amps, standing."""
        low, high = 0.01 * base, 1.0 * base
        for _ in range(40):
            middle = 0.5 * (low + high)
            self.leak = middle
            low, high = (middle, high) if self.phase_volts / abs(self.ohm(1.0)) > locked_amps else (low, middle)
        return 0.5 * (low + high)

    def _rotor(self, slip: float) -> complex:
        outer = complex(self.cages[0] / slip, 0.3 * self.leak)
        inner = complex(self.cages[1] / slip, 1.4 * self.leak)
        return 1 / (1 / outer + 1 / inner)

    def ohm(self, slip: float) -> complex:
        """Impedance of a phase at a slip [ohm]."""
        return complex(self.stator, 0.5 * self.leak) + 1 / (1 / self.magnetizing + 1 / self._rotor(slip))

    def _torque(self, volts: float, slip: float) -> float:
        across = volts * (1 / (1 / self.magnetizing + 1 / self._rotor(slip))) / self.ohm(slip)
        rotor = self._rotor(slip)
        return 3 * abs(across / rotor) ** 2 * rotor.real

    @property
    def stands(self) -> bool:
        """Whether it stands."""
        return self.slip >= 1.0 or self.off

    def unload(self) -> None:
        """Take away what it turns."""
        self.share = 0.05

    def begin(self) -> None:
        """Forget what the last moment did to it."""
        self.off = False
        self.slip = 1.0 if self.held else self.rated_slip

    def impedance(self) -> NDArray[np.complex128]:
        """As it is now."""
        if self.off:
            return np.asarray(np.eye(3) * OFF_OHM, dtype=complex)
        forward, backward = self.ohm(self.slip), self.ohm(min(2 - self.slip, 2.0))
        a = cmath.rect(1, 2 * math.pi / 3)
        return np.array(
            [[(backward + a ** (j - i) * forward + a ** (i - j) * backward) / 3 for j in range(3)] for i in range(3)]
        )

    def settle(self, volts: Sequence[complex]) -> bool:
        """Take the volts."""
        if self.held or self.off:
            return False
        a = cmath.rect(1, 2 * math.pi / 3)
        forward = abs(volts[0] + a * volts[1] + a * a * volts[2]) / 3
        backward = abs(volts[0] + a * a * volts[1] + a * volts[2]) / 3
        forward, backward = max(forward, backward), min(forward, backward)
        if forward < 0.05 * self.phase_volts:
            return False  # nothing to turn it
        slip = self._slip_at(forward, backward)
        if backward > 0.3 * forward and not self.was_running:
            slip = 1.0  # two legs alone start nothing
        moved = abs(math.log(slip / self.slip)) > 0.05
        self.slip = math.exp(0.5 * (math.log(slip) + math.log(self.slip))) if moved and slip < 1 else slip
        if slip >= 1.0 and self.protected:
            self.off = True
            return True
        return moved

    def _slip_at(self, forward: float, backward: float) -> float:
        for slip in np.geomspace(2e-3, 0.5, 60).tolist():
            asked = self.share * self.rated_torque * ((1 - slip) ** 2 if self.fan else 1.0)
            if self._torque(forward, slip) - self._torque(backward, 2 - slip) >= asked:
                return float(slip)
        return 1.0


class Transformer(Machine):
    """Two windings: turns and regulation of its own, and a core that saturates."""

    def __init__(self, part: Part, rng: np.random.Generator, *, primary_volts: float | None = None) -> None:
        assert part.winding is not None
        plate = part.winding
        self.wound = (("primary", 0, 1), ("secondary", 2, 3))
        self.rated = primary_volts or plate.primary_volts
        amps = plate.volt_amps / self.rated
        self.turns = plate.secondary_volts / self.rated * (1 + rng.uniform(0.0, 0.12))
        self.core = self.rated / (rng.uniform(0.08, 0.25) * amps) * complex(0.4, 0.92)
        self.series = rng.uniform(0.04, 0.11) * self.rated / amps / 2 * complex(0.9, 0.44)
        self.volts = self.rated

    def impedance(self) -> NDArray[np.complex128]:
        """As it is now."""
        core = self.core / (1 + (self.volts / (1.2 * self.rated)) ** 8)
        mutual = core * self.turns
        return np.array([[core + self.series, mutual], [mutual, (core + self.series) * self.turns**2]])

    def settle(self, volts: Sequence[complex]) -> bool:
        """Take the volts."""
        found = abs(volts[0])
        moved = abs(found - self.volts) > 0.02 * self.rated
        self.volts = 0.5 * (self.volts + found) if moved else self.volts
        return moved


class Copper(Machine):
    """Any of them as direct current sees it."""

    def __init__(self, like: Machine, ohms: Sequence[float]) -> None:
        self.wound = like.wound
        self.ohms = list(ohms)

    def impedance(self) -> NDArray[np.complex128]:
        """As it is now."""
        return np.diag(np.array(self.ohms, dtype=complex))


def locked_ohm(load: LoadData) -> complex:
    """Impedance of a motor held still, terminal to terminal [ohm]."""
    return load.rated_volts / (load.locked_amps or 5.5 * load.rated_amps) * complex(0.55, 0.835)


def is_motor(part: Part) -> bool:
    """Whether something turns in it."""
    return FailureMode.STALL in part.entry.may


def machine_of(
    part: Part, lanes: Sequence[str], rng: np.random.Generator, *, held: bool, was_running: bool, tap: float | None
) -> Machine:
    """Make what a part is."""
    if part.entry.role is PartRole.TRANSFORMER:
        return Transformer(part, rng, primary_volts=tap)
    if part.capacitance_uf is not None:
        return Plain(lanes, -1j / (OMEGA * part.capacitance_uf * 1e-6 * rng.uniform(0.92, 1.08)))
    assert part.load is not None
    load = part.load
    match part.entry.model:
        case ShuntModel.INDUCTION:
            return ThreePhase(load, rng, held=held, was_running=was_running)
        case ShuntModel.SPLIT_PHASE:
            return SplitPhase(load, rng, held=held)
        case ShuntModel.ELEMENT if is_motor(part):
            return SinglePhase(load, rng, held=held)
        case _:
            spread = rng.uniform(0.94, 1.06) if not part.entry.idle else math.exp(rng.uniform(-0.3, 0.3))
            sine = math.sqrt(1 - load.power_factor**2)
            delta = math.sqrt(3) if len(lanes) == 3 else 1.0
            return Plain(lanes, load.rated_volts / load.rated_amps * delta * complex(load.power_factor, sine) * spread)


def copper_of(part: Part, machine: Machine, rng: np.random.Generator) -> Copper:
    """Make the same for direct current: resistances alone."""
    count = len(machine.wound)
    if isinstance(machine, Transformer) and part.winding is not None:
        primary = rng.uniform(0.03, 0.06) * machine.rated**2 / part.winding.volt_amps
        return Copper(machine, [primary, primary * machine.turns**2])
    if part.capacitance_uf is not None or part.entry.electronic or part.load is None:
        return Copper(machine, [OFF_OHM] * count)
    held = abs(locked_ohm(part.load)) * rng.uniform(0.3, 0.5)
    if part.entry.model is ShuntModel.SPLIT_PHASE:
        return Copper(machine, [held, held * rng.uniform(3, 5)])
    if part.entry.model is ShuntModel.INDUCTION:
        return Copper(machine, [held / math.sqrt(3)] * count)
    own = abs(machine.impedance()[0, 0])
    if FailureMode.SHORT in part.entry.may:
        return Copper(machine, [own * rng.uniform(0.2, 0.32)] * count)
    return Copper(machine, [held if part.load.power_factor < 1 else own] * count)
