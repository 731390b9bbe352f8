"""Looking as a test: which box to look over, and how much that is expected to tell."""

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.part import Part, Zone
from zesty_copper.core.diagnosis.model.answer import LookAsked, LookPlace
from zesty_copper.core.diagnosis.plan.effort import look_minutes
from zesty_copper.core.diagnosis.plan.particles import Particles
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.faults.signs import Look, chances_of, places_for, signs
from zesty_copper.core.observations.measurement import Measurement
from zesty_copper.core.words import say

__all__ = ["HANDLE", "best_handle", "best_look"]

MARK = "mark"
"""What a box is looked over for: whatever else there is shows too."""
HANDLE = "off"
"""What the handle of a switch shows with every cover on; moving a breaker's handle is not opening its panel."""

Asked = tuple[LookAsked, float, float]
"""What to look at, its expected information [bit], and what it takes [min]."""


def best_look(
    compiled: CompiledCircuit, particles: Particles, looks: Sequence[Look], last: Measurement | None, *, panel: bool
) -> Asked | None:
    """Return the box most worth looking over.

    A look finds the mark at the guilty joint, or a false one somewhere, or nothing.
    """
    parts = {zone: _places(compiled, MARK, zone) for zone in Zone if zone is not Zone.PANEL or panel}
    return _best(
        compiled, [_box(compiled, particles, MARK, box_parts) for box_parts in _open(looks, MARK, parts)], last
    )


def best_handle(
    compiled: CompiledCircuit, particles: Particles, looks: Sequence[Look], last: Measurement | None
) -> Asked | None:
    """Return the switch whose handle is most worth looking at: the panel's too, which nobody need open for that."""
    parts = {zone: _places(compiled, HANDLE, zone) for zone in Zone}
    return _best(
        compiled, [_box(compiled, particles, HANDLE, box_parts) for box_parts in _open(looks, HANDLE, parts)], last
    )


def _places(compiled: CompiledCircuit, sign: str, zone: Zone) -> list[Part]:
    """Parts of a box at which a sign is looked for; of a switch with several, the first."""
    parts = [part for part in places_for(compiled.circuit, signs()[sign]) if part.zone is zone]
    if sign != HANDLE:
        return parts
    first = {part.switch: part for part in reversed(parts) if part.switch is not None}
    return [part for part in parts if part in first.values()]


def _open(looks: Sequence[Look], sign: str, parts: Mapping[Zone, list[Part]]) -> list[list[Part]]:
    """Boxes that were not looked over yet."""
    names = {zone: {part.id for part in zone_parts} for zone, zone_parts in parts.items()}
    return [
        zone_parts
        for zone, zone_parts in parts.items()
        if zone_parts
        and not any(look.sign == sign and (look.zone is zone or look.part in names[zone]) for look in looks)
    ]


def _box(compiled: CompiledCircuit, particles: Particles, sign: str, parts: Sequence[Part]) -> tuple[LookAsked, float]:
    """Ask for a box, and say what it is expected to tell [bit]."""
    chance = np.zeros(len(compiled.faults))
    for part in parts:
        mine = [f for f, fault in enumerate(compiled.faults) if part.id in (fault.part, *dict(fault.opens))]
        of_part = chances_of(
            compiled.circuit, [compiled.faults[f] for f in mine], Look(id="?", sign=sign, part=part.id)
        )
        chance[mine] = np.maximum(chance[mine], of_part)
    false = 1 - (1 - signs()[sign].otherwise) ** len(parts)
    return _asked(compiled, particles, sign, parts), _bits(particles, chance, false)


def _best(
    compiled: CompiledCircuit, boxes: Sequence[tuple[LookAsked, float]], last: Measurement | None
) -> Asked | None:
    priced = [
        (look_asked, bits, look_minutes(compiled.circuit, look_asked.zone, last, handle=look_asked.sign == HANDLE))
        for look_asked, bits in boxes
    ]
    return max(priced, key=lambda one: one[1] / one[2], default=None)


def _bits(particles: Particles, chance: NDArray[np.float64], false: float) -> float:
    """Mutual information of the place of the fault and what is found [bit]."""
    labels, at = np.unique(particles.label, return_inverse=True)
    mass = np.bincount(at, particles.weight)
    share = np.bincount(at, particles.weight * chance[particles.fault]) / mass
    # Columns: the mark at each place, a false mark somewhere, nothing.
    outcome = np.zeros((len(labels), len(labels) + 2))
    outcome[range(len(labels)), range(len(labels))] = share
    outcome[:, -2] = (1 - share) * false
    outcome[:, -1] = (1 - share) * (1 - false)
    joint = outcome * mass[:, None]
    total = joint.sum(axis=0)
    apart = joint > 0
    ratio = outcome[apart] / np.broadcast_to(total, outcome.shape)[apart]
    return float((joint[apart] * np.log2(ratio)).sum())


def _asked(compiled: CompiledCircuit, particles: Particles, sign: str, parts: Sequence[Part]) -> LookAsked:
    """List the places of a box: those under suspicion first, leg by leg, then every other part as a whole."""
    by_fault = np.bincount(particles.fault, particles.weight, len(compiled.faults))
    suspected: dict[tuple[str, str | None], float] = {}
    for f in np.argsort(-by_fault, kind="stable").tolist():
        fault = compiled.faults[f]
        at = (fault.tripped or fault.part) if sign == HANDLE else fault.part
        if at is None or by_fault[f] <= 0 or at not in {part.id for part in parts}:
            continue
        on_leg = sign != HANDLE and fault.leg in compiled.circuit.lanes_of(compiled.circuit.part(at))
        key = (at, fault.leg if on_leg else None)
        suspected[key] = suspected.get(key, 0.0) + float(by_fault[f])
    listed = sorted(suspected, key=lambda key: -suspected[key])
    listed += [(part.id, None) for part in parts if (part.id, None) not in suspected]
    return LookAsked(
        zone=parts[0].zone,
        sign=sign,
        label=signs()[sign].label,
        nothing=say("diagnosis.handle_on_still_dead") if sign == HANDLE else "Nothing to see",
        places=tuple(LookPlace(part=part, leg=leg, words=_words(compiled, part, leg)) for part, leg in listed),
    )


def _words(compiled: CompiledCircuit, part: str, leg: str | None) -> str:
    name = compiled.circuit.part(part).name
    return say("faults.leg_at_part", leg=leg, name=name) if leg else f"the {name}"
