"""Looking as a test: which box to look over, and how much that is expected to tell."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.measurement import Measurement
from zesty_copper.core.circuit.model import Part, Zone
from zesty_copper.core.diagnosis.candidates import look_minutes
from zesty_copper.core.diagnosis.model import LookAsked, LookPlace
from zesty_copper.core.diagnosis.next_test import Particles
from zesty_copper.core.diagnosis.study import Study
from zesty_copper.core.faults.signs import Look, chances_of, places_for, signs

__all__ = ["best_look"]

SOUGHT = "mark"
"""What a box is looked over for: whatever else there is shows too."""


def best_look(
    study: Study, particles: Particles, looks: Sequence[Look], last: Measurement | None, *, panel: bool
) -> tuple[LookAsked, float, float] | None:
    """Return the box most worth looking over, its expected information [bit] and what it takes [min].

    A look finds the mark at the guilty joint, or a false one somewhere, or nothing.
    """
    circuit, sign = study.circuit, signs()[SOUGHT]
    parts = {zone: [p for p in places_for(circuit, sign) if p.zone is zone] for zone in Zone}
    best: tuple[LookAsked, float, float] | None = None
    for zone, here in parts.items():
        if not here or (zone is Zone.PANEL and not panel) or _looked(looks, zone, here):
            continue
        chance = np.zeros(len(study.faults))
        for part in here:
            mine = [f for f, fault in enumerate(study.faults) if fault.part == part.id]
            look = Look(id="?", sign=SOUGHT, part=part.id)
            chance[mine] = chances_of(circuit, [study.faults[f] for f in mine], look)
        bits = _bits(particles, chance, 1 - (1 - sign.otherwise) ** len(here))
        minutes = look_minutes(circuit, zone, last)
        if best is None or bits / minutes > best[1] / best[2]:
            best = _asked(study, particles, zone, here), bits, minutes
    return best


def _looked(looks: Sequence[Look], zone: Zone, here: Sequence[Part]) -> bool:
    names = {part.id for part in here}
    return any(look.zone is zone or (look.part in names and look.sign == SOUGHT) for look in looks)


def _bits(particles: Particles, chance: NDArray[np.float64], false: float) -> float:
    """Mutual information of the place of the fault and what is found [bit]."""
    labels, at = np.unique(particles.label, return_inverse=True)
    mass = np.bincount(at, particles.weight)
    found = np.bincount(at, particles.weight * chance[particles.fault]) / mass
    # Columns: the mark at each place, a false mark somewhere, nothing.
    outcome = np.zeros((len(labels), len(labels) + 2))
    outcome[range(len(labels)), range(len(labels))] = found
    outcome[:, -2] = (1 - found) * false
    outcome[:, -1] = (1 - found) * (1 - false)
    joint = outcome * mass[:, None]
    total = joint.sum(axis=0)
    apart = joint > 0
    ratio = outcome[apart] / np.broadcast_to(total, outcome.shape)[apart]
    return float((joint[apart] * np.log2(ratio)).sum())


def _asked(study: Study, particles: Particles, zone: Zone, here: Sequence[Part]) -> LookAsked:
    """List the places of a box: those under suspicion first, leg by leg, then every other part as a whole."""
    by_fault = np.bincount(particles.fault, particles.weight, len(study.faults))
    suspected: dict[tuple[str, str | None], float] = {}
    for f in np.argsort(-by_fault, kind="stable").tolist():
        fault = study.faults[f]
        if by_fault[f] > 0 and fault.part in {part.id for part in here}:
            leg = fault.leg if fault.leg in study.circuit.lanes_of(study.circuit.part(fault.part)) else None
            key = (fault.part, leg)
            suspected[key] = suspected.get(key, 0.0) + float(by_fault[f])
    listed = sorted(suspected, key=lambda key: -suspected[key])
    listed += [(part.id, None) for part in here if (part.id, None) not in suspected]
    sign = signs()[SOUGHT]
    return LookAsked(
        zone=zone,
        sign=SOUGHT,
        label=sign.label,
        places=tuple(LookPlace(part=part, leg=leg, words=_words(study, part, leg)) for part, leg in listed),
    )


def _words(study: Study, part: str, leg: str | None) -> str:
    name = study.circuit.part(part).name
    return f"{leg} at the {name}" if leg else f"the {name}"
