"""Two fixed habits to compare with: from the unit back to the source, and halving.

For circuits with one supply of two legs and one load. Both look at the load terminals first, read leg to leg under
load, search for the step from right to wrong, read each leg to ground on its wrong side, and stop there, as a
practitioner would. Neither repeats a reading.
"""

from collections.abc import Callable

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Zone
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Measurement

Place = tuple[str, str]
Read = Callable[[Measurement], float]

RIGHT_SHARE = 0.95
"""Share of nominal from which a voltage is taken to be right."""


def run_habit(circuit: Circuit, read: Read, *, panel: bool, halving: bool) -> tuple[set[Place], int]:
    """Return the places accused and the readings taken."""
    series = [part for part in circuit.series if {"L1", "L2"} <= set(circuit.lanes_of(part))]
    first = 0 if panel else next(i for i, part in enumerate(series) if part.zone is not Zone.PANEL)
    taken = 0

    def volts(a: str, b: str) -> float:
        nonlocal taken
        taken += 1
        return read(Measurement(place=Between(a=Point(a), b=Point(b))))

    def right(i: int) -> bool:
        return volts(f"L1@{series[i].id}", f"L2@{series[i].id}") >= RIGHT_SHARE * circuit.highest_volts

    last = len(series) - 1
    if right(last):
        load = circuit.loads[0]
        amps = read(Measurement.model_validate({"place": {"kind": "around", "leg": "L1", "part": _wire(circuit)}}))
        taken += 1
        rated = load.load.rated_amps if load.load else 0
        return ({(FaultKind.NOTHING_WRONG, "")} if amps > rated / 3 else {(load.id, "")}), taken
    low, high = first - 1, last  # the step lies between a right point (or the unreachable) and a wrong one
    while high - low > 1:
        middle = (low + high) // 2 if halving else high - 1
        if right(middle):
            low = middle
        else:
            high = middle
    wrong_at = series[high]
    legs = [leg for leg in circuit.legs if volts(f"{leg}@{wrong_at.id}", GROUND) < RIGHT_SHARE * 120]
    if low < first and not panel:  # wrong at the first point within reach: handed over as "upstream"
        upstream = [part.id for part in series[: high + 1]]
        whole = {(str(kind), "") for kind in (FaultKind.SAME_LEG, FaultKind.SUPPLY_DEAD, FaultKind.SUPPLY_LOW)}
        return {(part, leg) for part in upstream for leg in ("", *circuit.legs)} | whole, taken
    if len(legs) == 2:
        return {(wrong_at.id, "") if high else (str(FaultKind.SUPPLY_DEAD), "")}, taken
    return {(wrong_at.id, legs[0] if legs else circuit.legs[1])}, taken


def _wire(circuit: Circuit) -> str:
    return [part.id for part in circuit.series if part.entry.clampable][-1]
