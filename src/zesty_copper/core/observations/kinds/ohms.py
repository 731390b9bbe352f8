"""Ohms between two points where it is dead, by the meter or by an insulation tester."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.hands import Hands, taken_out
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.errors import BadInput
from zesty_copper.core.observations.kinds.between import Between, TwoProbes
from zesty_copper.core.observations.modes import LIMIT_OHM, MeterMode
from zesty_copper.core.words import say

if TYPE_CHECKING:
    from zesty_copper.core.observations.measurement import Measurement, Reading

__all__ = ["LEADS_OHM", "OHM_LIMIT", "Ohms", "ohm_words"]

OHM_LIMIT = LIMIT_OHM[MeterMode.OHM]
LEADS_OHM = 0.5
"""What a pair of test leads may add: below it ohms are not told apart [ohm]; common practice, no source."""
DEVIATION = 0.12
"""How far ohms stray on their scale: the meter, and windings that are known from their plates alone; common practice,
no source."""
LEADS_DEVIATION_OHM = 0.2
"""What is left of the leads once they are zeroed, and how probes bite [ohm]; common practice, no source."""


class Ohms(TwoProbes):
    """Ohms between two points where it is dead: on the scale of their logarithm, from the leads to megohms."""

    unit = "ohm"
    is_dead = True
    sign, after = "Ω", "Ω"
    unit_words = "ohms (ohm)"
    digit = 0.1
    least_reach = 0.4
    minutes, further_minutes = 0.7, 0.5

    def check_place(self, circuit: Circuit, place: Between, measurement: "Measurement") -> None:
        """Raise BadInput, beside where probes do not reach, for what an insulation test would ruin."""
        super().check_place(circuit, place, measurement)
        if measurement.meter is not MeterMode.INSULATION:
            return
        out = taken_out(circuit, measurement.hands, (place.a, place.b))
        ends = [circuit.split_point(point)[1] for point in (place.a, place.b) if point != GROUND]
        joined = circuit.joined_to(ends[0], measurement.open_switches) if ends and out is None else ()
        for load in (out,) if out is not None else joined:
            if load is not out and _is_off(circuit, load, measurement.hands):
                continue
            if load.entry.capacitive or load.entry.electronic:
                raise BadInput(say("circuit.still_connected_insulation_test", name=load.name), "measurement.meter")

    def nearest_possible(self, value: float) -> float:
        """Return OL beyond the meter's limit."""
        return min(super().nearest_possible(value), OHM_LIMIT)

    def doubt(self, circuit: Circuit, reading: "Reading") -> str:
        """Ask whether a load was lifted, where its own resistance lies between the probes."""
        place = reading.measurement.place
        if not isinstance(place, Between) or reading.value > OHM_LIMIT / 10:
            return ""
        ends = [(GROUND, None) if p == GROUND else circuit.split_point(p) for p in (place.a, place.b)]
        (lane_a, part_a), (lane_b, part_b) = ends
        part = part_a or part_b
        if lane_a == lane_b or GROUND in (lane_a, lane_b) or part is None:
            return ""
        for load in circuit.joined_to(part, reading.measurement.open_switches):
            if {lane_a, lane_b} <= set(circuit.primary_lanes(load) if load.has_points else circuit.lanes_of(load)):
                return say("circuit.still_connected_between_may", name=load.name, lane_a=lane_a, lane_b=lane_b)
        return ""

    def value_words(self, value: float) -> str:
        """Say ohms as a meter shows them."""
        return ohm_words(value)

    def range_words(self, low: float, high: float) -> str:
        """Say both ends with their size."""
        return " to ".join(dict.fromkeys((ohm_words(low), ohm_words(high))))

    def procedure(self, circuit: Circuit, first: "Measurement", places: Sequence[str]) -> tuple[str, ...]:
        """Lock out, prove dead, take leads off so that they go back where they were, discharge, read."""
        hands = first.hands
        off = [say("diagnosis.mark_s_leads_take", name=circuit.part(part_id).name) for part_id in sorted(hands.removed)]
        held_switches = [switch for switch in circuit.switches if switch.id in hands.pushed_in]
        return (
            say("diagnosis.lock_out_prove_dead"),
            *off,
            *(say("diagnosis.push_hand_while_you", name=switch.name.lower()) for switch in held_switches),
            say("diagnosis.discharge_capacitors_zero_leads"),
            *(f"Read {text}." for text in places),
        )

    def caution(self, measurement: "Measurement") -> str:
        """Only where it is dead."""
        return say("diagnosis.only_locked_out_proved")

    def written_value(self, circuit: Circuit, reading: "Reading") -> str:
        """OL at the meter's limit."""
        return "OL" if reading.value == LIMIT_OHM[reading.measurement.meter] else f"{reading.value!r}ohm"

    def on_scale(self, value: NDArray[np.float64] | float) -> NDArray[np.float64]:
        """Return the logarithm of ohms and leads.

        >>> round(Ohms().on_scale(99.5).item(), 3)
        4.605
        """
        return np.asarray(np.log(np.asarray(value) + LEADS_OHM))

    def off_scale(self, at: float) -> float:
        """Return ohms."""
        return float(max(np.exp(at) - LEADS_OHM, 0.0))

    def noise_variance(
        self, predicted: NDArray[np.floating], wander: NDArray[np.floating] | float, step: float | None = None
    ) -> NDArray[np.floating]:
        """The meter, the plates, and near nothing the leads."""
        leads = LEADS_DEVIATION_OHM * np.exp(-np.asarray(predicted))
        return np.asarray(DEVIATION**2 + leads**2 + np.square(wander))

    def range_density(self, line_volts: float, rated_amps: float) -> float:
        """Anything from the leads to OL."""
        return 1 / float(self.on_scale(OHM_LIMIT) - self.on_scale(0.0))

    def shown(self, low: float, high: float) -> tuple[float, float]:
        """Two digits are enough, up to OL."""
        low, high = (min(float(f"{self.off_scale(end):.2g}"), OHM_LIMIT) for end in (low, high))
        return low, high


def ohm_words(ohm: float) -> str:
    """Say a resistance [ohm] as a meter shows it.

    >>> ohm_words(0.4), ohm_words(11500), ohm_words(4.2e6), ohm_words(40e6)
    ('0.4 Ω', '11.5 kΩ', '4.2 MΩ', 'OL')
    """
    if ohm == OHM_LIMIT:
        return "OL"
    if ohm >= LIMIT_OHM[MeterMode.INSULATION]:
        return "over 200 MΩ"
    for size, sign in ((1e6, "MΩ"), (1e3, "kΩ")):
        if ohm >= size:
            return f"{ohm / size:.3g} {sign}"
    return f"{ohm:.3g} Ω"


def _is_off(circuit: Circuit, load: Part, hands: Hands) -> bool:
    """Whether a load hangs on nothing any more: taken out, or behind a part or a lead that is off on each conductor."""
    above = circuit.path(load)
    if any(part.id in hands.removed for part in above):
        return True
    return all(any(Point.at(lane, part.id) in hands.lifted for part in above) for lane in circuit.lanes_of(load))
