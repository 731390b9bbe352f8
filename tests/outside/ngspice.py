"""ngspice as an independent solver: a netlist is written from the circuit, run, and its phasors read back.

The writer below knows the circuit's parts and nothing of the product's own network.
"""

import re
import subprocess
from pathlib import Path

import numpy as np

from zesty_copper.core.circuit.catalogue import Role
from zesty_copper.core.circuit.conductor import conductor_resistance_ohm, stray_capacitance_pf
from zesty_copper.core.circuit.measurement import Between, Measurement, MeterMode
from zesty_copper.core.circuit.model import GROUND, Circuit, Part

OMEGA = 2 * np.pi * 60
LEAK_OHM = 1e11


def spice_phasors(
    circuit: Circuit,
    folder: Path,
    *,
    open_switches: frozenset[str] = frozenset(),
    extra_ohm: dict[tuple[str, str], float] | None = None,
    gaps: dict[tuple[str, str], float] | None = None,
    emf: tuple[complex, complex] = (120 + 0j, -120 + 0j),
    meter: Measurement | None = None,
) -> dict[str, complex]:
    """Phasors by name: `v:L1@whip` for node voltages [V], `i:whip:L1` (or `i:compressor:`) for part currents [A].

    Parameters
    ----------
    extra_ohm
        Resistance in series with a part on a leg (leg empty: a shunt).
    gaps
        A gap in series with a part on a leg: its leakage [ohm], beside the part's gap capacitance.
    meter
        A voltmeter across two points.
    """
    lines = ["* written by the tests from the circuit"]
    names: dict[str, str] = {GROUND: "0"}
    sensed: dict[str, str] = {}
    fresh = iter(range(1, 100_000))

    def node(point: str) -> str:
        return names.setdefault(point, f"p{len(names)}")

    def chain(key: tuple[str, str], a: str, b: str, elements: list[tuple[str, float]]) -> None:
        """Elements in series from a to b, with a source of no voltage that senses the current."""
        here = a
        sense = f"v{next(fresh)}"
        sensed[f"i:{key[0]}:{key[1]}"] = sense
        after = f"m{next(fresh)}"
        lines.append(f"{sense} {here} {after} dc 0 ac 0")
        here = after
        for position, (kind, value) in enumerate(elements):
            there = b if position == len(elements) - 1 else f"m{next(fresh)}"
            if kind == "gap":  # value: leakage; the capacitance is that of the key's part
                lines.append(f"r{next(fresh)} {here} {there} {value:.9e}")
                lines.append(f"c{next(fresh)} {here} {there} {circuit.part(key[0]).entry.gap_pf * 1e-12:.9e}")
            else:
                lines.append(f"{kind}{next(fresh)} {here} {there} {value:.9e}")
            here = there

    def faults_of(part: Part, leg: str) -> list[tuple[str, float]]:
        found: list[tuple[str, float]] = []
        if part.switch in open_switches:
            found.append(("gap", LEAK_OHM))
        if ohm := (extra_ohm or {}).get((part.id, leg)):
            found.append(("r", ohm))
        if leak := (gaps or {}).get((part.id, leg)):
            found.append(("gap", leak))
        return found

    series = [part for part in circuit.parts if part.entry.role is not Role.SHUNT]
    for leg, volts in zip(circuit.legs, emf, strict=True):
        source = f"e{leg}"
        lines.append(f"v{leg} {source} 0 dc 0 ac {abs(volts):.9e} {np.degrees(np.angle(volts)):.6f}")
        before = source
        for part in series:
            if part.conductor is not None:
                elements = [("r", conductor_resistance_ohm(part.conductor))]
            else:
                assert part.entry.resistance_mohm is not None
                elements = [("r", part.entry.resistance_mohm * 1e-3)]
            if part.entry.role is Role.SOURCE:
                elements.append(("l", 0.015 / OMEGA))
            point = node(f"{leg}@{part.id}")
            chain((part.id, leg), before, point, elements + faults_of(part, leg))
            before = point
    for i, part in enumerate(series):
        neighbours = [p for p in (part, *series[i + 1 : i + 2]) if p.conductor is not None]
        run_pf = sum(stray_capacitance_pf(p.conductor.length_m) for p in neighbours if p.conductor) / 2
        ends = [node(f"{leg}@{part.id}") for leg in circuit.legs]
        lines.append(f"c{next(fresh)} {ends[0]} {ends[1]} {(5 + run_pf) * 1e-12:.9e}")
        lines += [f"c{next(fresh)} {end} 0 {(8 + run_pf) * 1e-12:.9e}" for end in ends]
    last = series[0]
    for part in circuit.parts:
        if part.load is None:
            last = part
            continue
        impedance = part.load.rated_volts / part.load.rated_amps
        elements = [("r", impedance * part.load.power_factor)]
        if part.load.power_factor < 1:
            elements.append(("l", impedance * (1 - part.load.power_factor**2) ** 0.5 / OMEGA))
        ends = [node(f"{leg}@{last.id}") for leg in circuit.legs]
        chain((part.id, ""), ends[0], ends[1], elements + faults_of(part, ""))
    if meter is not None and isinstance(meter.place, Between):
        ohm = 10e6 if meter.meter is MeterMode.HI_Z else 3e3
        lines.append(f"r{next(fresh)} {node(meter.place.a)} {node(meter.place.b)} {ohm}")
    wanted = {f"v:{point}": f"v({name})" for point, name in names.items() if name != "0"}
    wanted |= {key: f"i({sense})" for key, sense in sensed.items()}
    prints = "\n".join(f"print real({quantity}) imag({quantity})" for quantity in wanted.values())
    # gmin would leak through every node; it is made negligible beside the smallest stray admittance.
    lines += [
        ".options gmin=1e-18 reltol=1e-9",
        ".control",
        "set numdgt=12",
        "ac lin 1 60 60",
        prints,
        "quit",
        ".endc",
        ".end",
    ]
    deck = folder / "circuit.cir"
    deck.write_text("\n".join(lines) + "\n")
    done = subprocess.run(["ngspice", "-b", str(deck)], capture_output=True, text=True, timeout=60, check=False)
    numbers = [float(text) for text in re.findall(r"^(?:real|imag)\(.*\) = (\S+)$", done.stdout, re.MULTILINE)]
    assert len(numbers) == 2 * len(wanted), done.stdout + done.stderr
    return {
        key: complex(*pair) for key, pair in zip(wanted, zip(numbers[::2], numbers[1::2], strict=True), strict=True)
    }
