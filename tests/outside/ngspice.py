"""ngspice as an independent solver: a netlist is written from the circuit, run, and its phasors read back.

The writer below knows the circuit's parts and nothing of the product's own network; motors and transformers are taken
as the linear models that the product states for them, since those are what is compared.
"""

import re
import subprocess
from collections.abc import Callable, Mapping
from itertools import pairwise
from pathlib import Path

import numpy as np

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.parts.conductor import conductor_resistance_ohm, stray_capacitance_pf
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.systems import Grounding
from zesty_copper.core.network.machines import BLOCKED_OHM, inside, windings
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Measurement
from zesty_copper.core.observations.modes import MeterMode

OMEGA = 2 * np.pi * 60
LEAK_OHM = 1e11
EARTH = "0"

Place = tuple[str, str]
"""Part, and conductor or winding."""


class _Deck:
    """Lines of a SPICE deck, with the sources that sense each part's current."""

    def __init__(self, circuit: Circuit, *, direct: bool) -> None:
        self.circuit = circuit
        self.direct = direct
        self.lines = ["* written by the tests from the circuit"]
        self.names: dict[str, str] = {}
        self.sensed: dict[Place, str] = {}
        self._count = 0

    def fresh(self, letter: str) -> str:
        self._count += 1
        return f"{letter}{self._count}"

    def node(self, point: str) -> str:
        return self.names.setdefault(point, f"p{len(self.names)}")

    def add(self, letter: str, *words: object) -> str:
        name = self.fresh(letter)
        self.lines.append(" ".join([name, *map(str, words)]))
        return name

    def stray(self, a: str, b: str, farad: float) -> None:
        """Capacitance; to direct current the insulation around it, which leaks a hundredth of what that carries."""
        self.add(*(("r", a, b, f"{100 / (OMEGA * farad):.9e}") if self.direct else ("c", a, b, f"{farad:.9e}")))

    def impedance(self, a: str, b: str, ohm: complex) -> None:
        """Resistance and, by its sign, inductance or capacitance in series; to direct current the resistance alone."""
        if self.direct:
            self.add("r", a, b, f"{ohm.real:.12e}")
            return
        middle = self.fresh("m")
        self.add("r", a, middle, f"{ohm.real:.12e}")
        if ohm.imag >= 0:
            self.add("l", middle, b, f"{ohm.imag / OMEGA:.12e}")
        else:
            self.add("c", middle, b, f"{-1 / (OMEGA * ohm.imag):.12e}")

    def gap(self, a: str, b: str, leak_ohm: float, farad: float) -> None:
        self.add("r", a, b, f"{leak_ohm:.9e}")
        if not self.direct:
            self.add("c", a, b, f"{farad:.12e}")

    def sense(self, key: Place, a: str) -> str:
        after = self.fresh("m")
        self.sensed[key] = self.add("v", a, after, "dc 0 ac 0")
        return after


def spice_phasors(  # noqa: PLR0912 - one branch for each role of a part
    circuit: Circuit,
    folder: Path,
    *,
    open_switches: frozenset[str] = frozenset(),
    extra_ohm: Mapping[Place, float] | None = None,
    gaps: Mapping[Place, float] | None = None,
    joined: Mapping[tuple[str, str], float] | None = None,
    emf: Mapping[Place, complex] | None = None,
    meter: Measurement | None = None,
    ohms_of: tuple[str, str] | None = None,
) -> dict[str, complex]:
    """Phasors by name: `v:L1@whip` for node voltages [V], `i:whip:L1` (or `i:compressor:`) for part currents [A].

    Parameters
    ----------
    open_switches
        Every switch that is open, those that follow a coil among them.
    extra_ohm
        Resistance in series with a part on a conductor, or with a winding.
    gaps
        A gap in series with a part on a conductor: its leakage [ohm], beside the part's gap capacitance.
    joined
        Resistance between two points [ohm].
    emf
        Electromotive forces that are not the system's own [V].
    meter
        A voltmeter across two points.
    ohms_of
        It is dead, and one ampere of direct current is sent in at the first of two points and out at the other.
    """
    deck = _Deck(circuit, direct=ohms_of is not None)

    def in_series(part: Part, lane: str, a: str, b: str, ohm: complex) -> None:
        """One conductor of a part: what senses its current, its impedance, and what is wrong with it."""
        key = (part.id, lane)
        here = deck.sense(key, a)
        farad = part.entry.gap_pf * 1e-12
        opened = part.switch is not None and lane != GROUND
        if opened and (part.switch in open_switches) != part.normally_closed:
            there = deck.fresh("m")
            deck.gap(here, there, LEAK_OHM, farad)
            here = there
        if leak := (gaps or {}).get(key):
            there = deck.fresh("m")
            deck.gap(here, there, leak, farad)
            here = there
        deck.impedance(here, b, ohm + (extra_ohm or {}).get(key, 0))

    def ahead(part: Part, lane: str) -> str:
        """Walk up the tree to where a conductor comes from."""
        one = part
        while True:
            one = circuit.feed(one)
            if lane in circuit.lanes_of(one):
                return deck.node(f"{lane}@{one.id}")

    def ground_of(part: Part) -> str:
        one = part
        while not (one.has_points and GROUND in circuit.lanes_of(one)):
            one = circuit.feed(one)
        return deck.node(f"{GROUND}@{one.id}")

    for part in circuit.parts:
        lanes = circuit.lanes_of(part)
        if part.entry.role is PartRole.SOURCE:
            supply, star = circuit.supply_of(part), EARTH
            ground = deck.node(f"{GROUND}@{part.id}")
            if supply.grounding is Grounding.NONE:
                star = deck.node(f"star@{part.id}")
                deck.stray(star, EARTH, 20e-9)
            for lane in lanes:
                if lane == GROUND:
                    continue
                volts = 0j if deck.direct else (emf or {}).get((part.id, lane), supply.phasors.get(lane, 0j))
                behind = deck.fresh("m")
                deck.add("v", behind, star, f"dc 0 ac {abs(volts):.12e} {np.degrees(np.angle(volts)):.9f}")
                in_series(part, lane, behind, deck.node(f"{lane}@{part.id}"), 0.025 + 0.015j)
            for leg, usual in supply.unseen_phasors.items() if NEUTRAL in lanes else ():
                # Five amps of other loads on a leg that does not come here.
                volts = 0j if deck.direct else (emf or {}).get((part.id, leg), usual)
                behind = deck.fresh("m")
                deck.add("v", behind, star, f"dc 0 ac {abs(volts):.12e} {np.degrees(np.angle(volts)):.9f}")
                in_series(part, leg, behind, deck.node(f"N@{part.id}"), abs(usual) / 5)
            neutral = NEUTRAL in lanes
            in_series(part, "bond", deck.node(f"N@{part.id}") if neutral else EARTH, ground, 1e-3)
            if neutral:
                in_series(part, "electrode", EARTH, ground, 25.0)
        elif part.entry.role is PartRole.SERIES:
            came = part.lanes if part.makes and part.lanes else lanes
            for into, lane in zip(came, lanes, strict=True):
                ohm: complex = (part.entry.resistance_mohm or 0) * 1e-3
                if part.conductor is not None:
                    ohm = conductor_resistance_ohm(part.conductor)
                if part.capacitance_uf is not None:
                    ohm = BLOCKED_OHM if deck.direct else -1j / (OMEGA * part.capacitance_uf * 1e-6)
                in_series(part, lane, ahead(part, into), deck.node(f"{lane}@{part.id}"), ohm)
        else:
            transformer = part.entry.role is PartRole.TRANSFORMER
            primary = circuit.primary_lanes(part) if transformer else lanes
            ends = [ahead(part, lane) for lane in primary]
            ends += [deck.node(f"{lane}@{part.id}") for lane in part.makes]
            model = (windings if deck.direct else inside)(part, lanes, OMEGA)
            for i, (name, a, b) in enumerate(model.branches):
                leaves, enters = (deck.node(f"star@{part.id}") if isinstance(end, str) else ends[end] for end in (a, b))
                driven = deck.fresh("m")
                in_series(part, name, leaves, driven, model.impedance_ohm[i][i])
                for j, (other, _, _) in enumerate(model.branches):
                    if i != j and model.impedance_ohm[i][j]:
                        driven = _couple(deck, driven, (part.id, other), model.impedance_ohm[i][j])
                deck.add("v", driven, enters, "dc 0 ac 0")
            if part.entry.model == "induction":
                deck.stray(deck.node(f"star@{part.id}"), ground_of(part), 1e-11)
            if transformer and part.winding and part.winding.secondary_grounded is not False:
                in_series(part, "bond", deck.node(f"{part.makes[1]}@{part.id}"), ground_of(part), 1e-3)
        if part.has_points:
            _strays(deck, part, [lane for lane in lanes if lane != GROUND], ground_of(part), ahead)
    for (a, b), ohm in (joined or {}).items():
        deck.add("r", deck.node(a), deck.node(b), ohm)
    if meter is not None and isinstance(meter.place, Between):
        ends = [meter.place.a, meter.place.b]
        ends = [
            circuit.ground_at(circuit.split_point(Point(ends[1 - i]))[1]) if p == GROUND else p
            for i, p in enumerate(ends)
        ]
        deck.add("r", *map(deck.node, ends), 10e6 if meter.meter is MeterMode.HI_Z else 3e3)
    if ohms_of is not None:
        deck.add("i", deck.node(ohms_of[1]), deck.node(ohms_of[0]), "dc 0 ac 1")
    return _run(deck, folder)


def _couple(deck: _Deck, here: str, other: Place, ohm: complex) -> str:
    """A voltage in series, by another winding's current through an impedance: mirrored into it beside the circuit."""
    beside, after = deck.fresh("m"), deck.fresh("m")
    deck.lines.append(f"{deck.fresh('f')} {EARTH} {beside} @{other[0]}:{other[1]} 1")
    deck.impedance(beside, EARTH, ohm)
    deck.add("e", here, after, beside, EARTH, 1)
    return after


def _strays(deck: _Deck, part: Part, lanes: list[str], ground: str, ahead: Callable[[Part, str], str]) -> None:
    rows = [deck.node(f"{lane}@{part.id}") for lane in lanes]
    half = stray_capacitance_pf(part.conductor.length_m) / 2 if part.conductor else 0.0
    places = [(rows, 5 + half, 8 + half)]
    if part.conductor:
        places.append(([ahead(part, lane) for lane in lanes], half, half))
    for ends, between, to_ground in places:
        for a, b in pairwise(ends):
            deck.stray(a, b, between * 1e-12)
        for end in ends:
            deck.stray(end, ground, to_ground * 1e-12)


def _run(deck: _Deck, folder: Path) -> dict[str, complex]:
    """Run ngspice and read the phasors back."""
    lines = [
        re.sub(r"@(\S+):(\S*) 1$", lambda found: f"{deck.sensed[found[1], found[2]]} 1", line) for line in deck.lines
    ]
    wanted = {f"v:{point}": f"v({name})" for point, name in deck.names.items()}
    wanted |= {f"i:{part}:{name}": f"i({sense})" for (part, name), sense in deck.sensed.items()}
    prints = "\n".join(f"print real({quantity}) imag({quantity})" for quantity in wanted.values())
    # gmin would leak through every node; it is made negligible beside the smallest stray admittance.
    lines += [".options gmin=1e-18 reltol=1e-9", ".control", "set numdgt=12", "ac lin 1 60 60", prints, "quit", ".endc"]
    path = folder / "circuit.cir"
    path.write_text("\n".join([*lines, ".end"]) + "\n")
    done = subprocess.run(["ngspice", "-b", str(path)], capture_output=True, text=True, timeout=60, check=False)
    numbers = [float(text) for text in re.findall(r"^(?:real|imag)\(.*\) = (\S+)$", done.stdout, re.MULTILINE)]
    assert len(numbers) == 2 * len(wanted), done.stdout + done.stderr
    return {
        key: complex(*pair) for key, pair in zip(wanted, zip(numbers[::2], numbers[1::2], strict=True), strict=True)
    }
