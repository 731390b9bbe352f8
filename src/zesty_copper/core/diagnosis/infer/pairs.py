"""Two faults at once: looked for only where no single one explains the readings.

A pair is a row like any other: the directions of both, what both do to the sources and the switches. Which pairs are
worth solving is told by a bound: no reading is better explained by two faults than by the better of them alone, as far
as each acts by itself.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.diagnosis.infer.observation import log_density
from zesty_copper.core.diagnosis.infer.posterior import Posterior, weigh
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, kept
from zesty_copper.core.faults.edits import Row, Variant
from zesty_copper.core.faults.fault import Fault
from zesty_copper.core.faults.key import FaultKey
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.observations.measurement import Reading

__all__ = ["TWO_SHARE", "two_at_once"]

TWO_SHARE = 0.02
"""Chance of two faults that have nothing to do with each other on one call; common practice, no source."""
PAIRS = 64
"""How many pairs are solved."""
WORST_NATS = -12.0
"""Below this a reading is told as badly as can be: a bound must not hang on one mistyped number."""


def two_at_once(
    compiled: CompiledCircuit, posterior: Posterior, readings: Sequence[Reading]
) -> tuple[CompiledCircuit, Posterior] | None:
    """Return a compiled of the likeliest pairs and their posterior, if pairs explain what single faults do not."""
    if posterior.unlisted <= 0.5 or len(readings) < 2:
        return None
    pairs = _likeliest(compiled, readings)
    if not pairs:
        return None
    paired = _compile_pairs(compiled, pairs)
    weighed = weigh(paired, readings)
    return None if weighed.unlisted > 0.5 else (paired, weighed)


def _likeliest(compiled: CompiledCircuit, readings: Sequence[Reading]) -> tuple[tuple[int, int], ...]:
    """Pairs of faults by the bound, the best first."""
    steady = np.flatnonzero(~compiled.intermittent & (compiled.row != compiled.healthy))
    fits = np.stack([_fit(compiled, reading)[compiled.row[steady]] for reading in readings], axis=1)
    fits = np.maximum(fits, WORST_NATS)
    bound = np.maximum(fits[:, None], fits[None]).sum(axis=-1)
    bound += compiled.log_prior[steady][:, None] + compiled.log_prior[steady][None]
    first, second = np.triu_indices(len(steady), 1)
    order = np.argsort(-bound[first, second], kind="stable")
    pairs = [(int(steady[first[i]]), int(steady[second[i]])) for i in order[: 4 * PAIRS]]
    return tuple(pair for pair in pairs if _together(compiled, *pair) is not None)[:PAIRS]


def _fit(compiled: CompiledCircuit, reading: Reading) -> NDArray[np.float64]:
    """Logarithm of a reading's density in every row, over the samples, (rows,)."""
    log_seen = log_density(compiled, reading)
    return np.asarray(np.logaddexp.reduce(log_seen, axis=1) - np.log(compiled.samples))


def _together(compiled: CompiledCircuit, f: int, g: int) -> Row | None:
    """Join two rows; None where they speak of the same place or contradict each other."""
    first_row, second_row = compiled.edits.rows[compiled.row[f]], compiled.edits.rows[compiled.row[g]]
    pairs = list(zip(first_row.variants, second_row.variants, strict=True))
    same = compiled.place[f] == compiled.place[g] or set(first_row.directions) & set(second_row.directions)
    at_odds = (
        any(a.opened & b.closed or b.opened & a.closed or (a.other_tap and b.other_tap) for a, b in pairs)
        or (first_row.drive and second_row.drive)
        or (first_row.swapped_at and second_row.swapped_at)
    )
    if same or at_odds:
        return None
    return Row(
        variants=tuple(_both(a, b) for a, b in pairs),
        directions=first_row.directions + second_row.directions,
        delta=np.concatenate([first_row.delta, second_row.delta], axis=1),
        dlog=np.concatenate([first_row.dlog, second_row.dlog], axis=1),
        drive=first_row.drive or second_row.drive,
        swapped_at=first_row.swapped_at or second_row.swapped_at,
    )


def _both(a: Variant, b: Variant) -> Variant:
    return Variant(
        a.opened | b.opened,
        a.closed | b.closed,
        a.held | b.held,
        a.single_phasing | b.single_phasing,
        a.other_tap or b.other_tap,
    )


@kept
def _compile_pairs(compiled: CompiledCircuit, pairs: tuple[tuple[int, int], ...]) -> CompiledCircuit:
    """Make pairs ready for diagnosis like single faults."""
    rows = [row for pair in pairs if (row := _together(compiled, *pair)) is not None]
    faults = [_pair_fault(compiled.faults[f], compiled.faults[g]) for f, g in pairs]
    prior = np.log([fault.prior for fault in faults])
    return compiled.of_rows(compiled.edits.with_rows(rows), faults, prior, pairs)


def _pair_fault(fault: Fault, other: Fault) -> Fault:
    return Fault(
        kind=FaultKind.TWO_AT_ONCE,
        part=None,
        leg=FaultKey.together(fault.key, other.key),
        prior=TWO_SHARE * fault.prior * other.prior,
        words=f"{fault.words}; and besides, {other.words[0].lower() if other.words[1:2].islower() else other.words[0]}"
        f"{other.words[1:]}",
    )
