"""Circuits that nobody drew by hand: parts, order, sizes, loads and branches from dice."""

from functools import cache

import numpy as np

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part, Switch

CHAINS = ("fused", "blade", "none")
SYSTEMS = (
    "split_phase_120_240",
    "single_phase_208",
    "wye_208_120",
    "two_wire_120",
    "wye_480_277",
    "delta_240_high_leg",
)
SHARE = (0.4, 0.12, 0.2, 0.12, 0.08, 0.08)


LEGS = {"two_wire_120": ["L1"], "split_phase_120_240": ["L1", "L2"], "single_phase_208": ["L1", "L2"]}
VOLTS = {
    "two_wire_120": 120,
    "split_phase_120_240": 240,
    "single_phase_208": 208,
    "wye_208_120": 208,
    "wye_480_277": 480,
    "delta_240_high_leg": 240,
}


class _Drawing:
    """A circuit while it is drawn, part by part."""

    def __init__(self, rng: np.random.Generator, system: str) -> None:
        self.rng, self.system = rng, system
        self.lanes = LEGS.get(system, ["L1", "L2", "L3"])
        self.volts = VOLTS[system]
        self.joined = [*self.lanes, "N"] if len(self.lanes) == 1 else self.lanes
        self.rating = int(rng.choice([25, 30, 40, 50]))
        self.parts: list[dict[str, object]] = []
        self.switches: list[dict[str, object]] = []

    def chance(self, share: float) -> bool:
        return bool(self.rng.random() < share)

    def add(self, name: str, kind: str, zone: str, **more: object) -> None:
        self.parts.append({"id": name, "kind": kind, "name": name.replace("_", " "), "zone": zone, **more})

    def switch(self, name: str, closed: str, opened: str, coil: str | None = None) -> None:
        self.switches.append({"id": name, "name": name.capitalize(), "closed": closed, "open": opened, "coil": coil})

    def wire(self, name: str, zone: str, low: float, high: float) -> None:
        size = int(self.rng.choice([6, 8, 10, 12]))
        conductor = {"size_awg": size, "metal": "copper", "length_m": round(float(self.rng.uniform(low, high)), 1)}
        self.add(name, "conductor", zone, conductor=conductor, lanes=self.joined)

    def panel(self) -> None:
        neutral = self.system in ("split_phase_120_240", "two_wire_120")
        self.add("supply", "source", "panel", lanes=[*self.lanes, "N"] if neutral else self.lanes)
        for i, lane in enumerate(self.lanes if neutral else ()):
            load = {"rated_volts": 120, "rated_amps": 5, "power_factor": 0.95}
            self.add(f"house_{i + 1}", "other_load", "panel", lanes=[lane, "N"], load=load)
        if self.chance(0.7):
            self.add("panel_lug", "panel_lug", "panel", lanes=self.lanes)
        self.switch("breaker", "on", "off")
        self.add("breaker", "breaker", "panel", switch="breaker", rating_amps=self.rating, lanes=self.lanes)

    def way(self) -> None:
        self.wire("branch", "disconnect", 6, 40)
        if self.chance(0.35):
            self.add("splice", "splice", "disconnect", lanes=self.joined)
            self.wire("tail", "disconnect", 2, 15)
        chain = str(self.rng.choice(CHAINS)) if len(self.lanes) > 1 else "blade"
        if chain != "none":
            self.switch("disconnect", "on", "off")
            if self.chance(0.6):
                self.add("line_lug", "lug", "disconnect", lanes=self.lanes)
            self.add("blade", "blade", "disconnect", switch="disconnect", lanes=self.lanes, rating_amps=60)
            if chain == "fused":
                self.add("clip_line", "clip", "disconnect", lanes=self.lanes)
                self.add("fuse", "fuse", "disconnect", lanes=self.lanes, rating_amps=self.rating)
                self.add("clip_load", "clip", "disconnect", lanes=self.lanes)
            if self.chance(0.5):
                self.add("load_lug", "lug", "disconnect", lanes=self.lanes)
        self.wire("whip", "unit", 1, 4)
        if self.chance(0.3):
            self.add("block", "terminal_block", "unit", lanes=self.lanes)

    def unit(self) -> None:
        ahead, coiled = self.parts[-1]["id"], self.chance(0.6)
        self.switch("call", "calling", "not calling")
        if coiled:
            self.switch("contactor", "in", "dropped out", coil="coil")
        switch = "contactor" if coiled else "call"
        self.add("contactor", "contactor", "unit", switch=switch, lanes=self.lanes, rating_amps=40)
        self._loads()
        if coiled:
            self._controls(ahead)

    def _loads(self) -> None:
        amps = round(float(self.rng.uniform(6, 20)), 1)
        turning = self.chance(0.75 if len(self.lanes) == 3 else 0.6)
        kind = ("three_phase_motor" if len(self.lanes) == 3 else "motor") if turning else "heater"
        plate = {"rated_volts": self.volts, "rated_amps": amps}
        if turning:
            plate |= {"rated_volts": 115 if self.volts == 120 else 0.96 * self.volts, "power_factor": 0.86}
            if self.chance(0.5):
                self.add("leads", "lead", "unit", lanes=self.joined)
        elif self.chance(0.6):
            self.add("limit", "limit", "unit", lanes=[self.lanes[0]])
        self.add("main_load", kind, "unit", lanes=self.joined, load=plate)
        if self.chance(0.6):
            amps = round(float(self.rng.uniform(0.8, 3)), 1)
            plate = {"rated_volts": self.volts, "rated_amps": amps, "power_factor": 0.8}
            self.add("fan", "motor", "unit", lanes=self.joined[:2], load=plate, after="contactor")

    def _controls(self, ahead: object) -> None:
        winding = {"primary_volts": self.volts, "secondary_volts": 24, "volt_amps": int(self.rng.choice([40, 50, 75]))}
        lanes, made = self.joined[:2], ["R", "C"]
        self.add("transformer", "control_transformer", "unit", after=ahead, lanes=lanes, makes=made, winding=winding)
        calls = {"after": "transformer", "lanes": ["R"], "makes": ["Y"], "switch": "call"}
        self.add("thermostat", "thermostat", "thermostat", **calls)
        if self.chance(0.5):
            self.add("safety", "safety", "unit", lanes=["Y"])
        load = {"rated_volts": 24, "rated_amps": 0.45, "power_factor": 0.5}
        self.add("coil", "coil", "unit", lanes=["Y", "C"], load=load)


@cache
def drawn(seed: int) -> Circuit:
    """Draw a circuit."""
    rng = np.random.default_rng([seed, 4711])
    drawing = _Drawing(rng, str(rng.choice(SYSTEMS, p=SHARE)))
    drawing.panel()
    drawing.way()
    drawing.unit()
    return Circuit(
        name=f"drawn {seed}",
        system=drawing.system,
        switches=tuple(Switch.model_validate(switch) for switch in drawing.switches),
        parts=tuple(Part.model_validate(part) for part in drawing.parts),
    )
