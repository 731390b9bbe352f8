"""Volts between two points."""

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.errors import BadInput
from zesty_copper.core.observations.kinds.between import Between, TwoProbes
from zesty_copper.core.observations.modes import MeterMode
from zesty_copper.core.observations.observation import Phasor
from zesty_copper.core.words import say

if TYPE_CHECKING:
    from zesty_copper.core.observations.measurement import Measurement, Reading

__all__ = ["Volts"]

LIMIT_VOLTS = 1000.0
"""The highest voltage the meter's category allows (CAT III 1,000 V)."""
ROUND_FROM_VOLTS = 100.0
ROUND_STEP = 5.0
"""From here on a number of whole tens is taken to be remembered to about so much [V]; common practice, no source."""
UNLISTED_WIDTH = 0.04
"""Half-width, as a share of the leg-to-leg voltage, of where an unlisted fault's readings gather."""
MOST_SHARE = 1.2
BEYOND_SHARE = 0.05
"""More than a fifth above the highest voltage here is hardly what something not listed does: what does it is listed."""


class Volts(TwoProbes, Phasor[Between]):
    """Volts between two points."""

    unit = "V"
    sign, after = "V~", "V"
    unit_words = "volts (V)"
    drift = 0.005
    least_reach = 4.0
    minutes, further_minutes = 1.0, 0.85

    def check_value(self, value: float) -> None:
        """Raise BadInput above what the meter's category allows."""
        super().check_value(value)
        if value > LIMIT_VOLTS:
            raise BadInput(say("circuit.beyond_volts_of_meter"), "value")

    def doubt(self, circuit: Circuit, reading: "Reading") -> str:
        """Ask about more than the supply has."""
        ends = reading.measurement.place
        to_ground = isinstance(ends, Between) and GROUND in (ends.a, ends.b)
        sources = [part for part in circuit.series if part.entry.role is PartRole.SOURCE]
        legs = [abs(volts) for part in sources for volts in circuit.supply_of(part).phasors.values()]
        most_volts = 1.2 * (max(legs) if to_ground else circuit.highest_volts)
        return say("circuit.v_more_than_supply", value=reading.value) if reading.value > most_volts else ""

    def procedure(self, circuit: Circuit, first: "Measurement", places: Sequence[str]) -> tuple[str, ...]:
        """Prove the meter, then read."""
        meter = " in LoZ" if first.meter is MeterMode.LO_Z else ""
        return (say("diagnosis.prove_meter_known_live", meter=meter), *(f"Read {text}." for text in places))

    def caution(self, measurement: "Measurement") -> str:
        """An open switch does not make all dead; both probes are live."""
        if not measurement.as_it_stands:
            return say("diagnosis.open_switch_does_not")
        return say("diagnosis.live_both_probes_meter")

    def typed_step(self, value: float) -> float:
        """Tens of volts are what people type who remember a number: 120, 240.

        >>> Volts().typed_step(240.0), Volts().typed_step(241.0), Volts().typed_step(239.6)
        (5.0, 1.0, 0.1)
        """
        return ROUND_STEP if value >= ROUND_FROM_VOLTS and value % 10 == 0 else super().typed_step(value)

    def range_density(self, line_volts: float, rated_amps: float) -> float:
        """Anything up to a fifth above the line [1/V]."""
        return 1 / (1.2 * line_volts)

    def unlisted_density(self, circuit: Circuit, value: float) -> float:
        """Anything, or gathered where a healthy circuit's readings lie [1/V]."""
        anything = super().unlisted_density(circuit, value)
        if value > MOST_SHARE * circuit.highest_volts:
            return BEYOND_SHARE * anything
        width = UNLISTED_WIDTH * circuit.highest_volts
        centres = circuit.usual_volts
        gathered = [
            math.exp(-0.5 * ((value - centre) / width) ** 2) / (width * math.sqrt(2 * math.pi)) for centre in centres
        ]
        return 0.5 * anything + 0.5 * sum(gathered) / len(centres)
