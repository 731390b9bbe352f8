"""What each reading says for and against each suspect, and which readings contradict each other."""

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.measurement import Reading
from zesty_copper.core.circuit.words import measurement_words
from zesty_copper.core.diagnosis.evidence import Posterior, any_number_density
from zesty_copper.core.diagnosis.model import Contradiction, Evidence, Range, Stance
from zesty_copper.core.diagnosis.noise import DIGIT, OUTLIER_SHARE, noise_variance, typed_step
from zesty_copper.core.diagnosis.study import Study

__all__ = ["contradictions", "evidence_on", "spread"]

NOTABLE_BITS = 0.5
"""Below this a reading is said to tell nothing either way."""
LIKELY_WRONG = 0.3
"""Probability from which a reading is named as mistyped or taken in another state."""
NINE_IN_TEN = 1.645


def spread(mean: NDArray[np.float64], deviation: NDArray[np.float64], weight: NDArray[np.float64], unit: str) -> Range:
    """Range that holds nine readings in ten of a weighted set of Gaussians, rounded to the meter's digit."""
    order = np.argsort(mean)
    share = np.cumsum(weight[order]) / weight.sum()
    ends = []
    for quantile, side in ((0.05, -1), (0.95, 1)):
        at = order[min(int(np.searchsorted(share, quantile)), len(order) - 1)]
        ends.append(mean[at] + side * NINE_IN_TEN * deviation[at])
    digit = DIGIT[unit]
    low, high = (round(round(max(end, 0.0) / digit) * digit, 3) for end in ends)
    return Range(low=low, high=high)


def evidence_on(
    study: Study, posterior: Posterior, readings: Sequence[Reading], faults: Sequence[int]
) -> list[tuple[Evidence, ...]]:
    """Return every reading's word on each of these faults, each judged in the light of all the other readings.

    The others are weighed as they were before any reading: among look-alikes alone no reading would ever speak for one.
    """
    if not readings:
        return [() for _ in faults]
    # The same allowance for a wrong number as in the ranking keeps one reading from counting without bound.
    wrong = np.log([OUTLIER_SHARE * any_number_density(study, reading.unit) for reading in readings])
    right = math.log1p(-OUTLIER_SHARE) + posterior.log_conditional
    seen = np.logaddexp.reduce(posterior.log_without + np.logaddexp(right, wrong), axis=1)
    likelihood = seen - np.logaddexp.reduce(posterior.log_without, axis=1)  # (faults, readings)
    places = [measurement_words(study.circuit, reading.measurement) for reading in readings]
    said = []
    for fault in faults:
        others = np.arange(len(study.faults)) != fault
        prior = study.log_prior[others] - np.logaddexp.reduce(study.log_prior[others])
        rest = np.logaddexp.reduce(prior[:, None] + likelihood[others])
        bits = (likelihood[fault] - rest) / math.log(2)
        said.append(
            tuple(
                _word(reading, where, float(bits[i]), _expected(posterior, fault, i, reading.unit))
                for i, (reading, where) in enumerate(zip(readings, places, strict=True))
            )
        )
    return said


def _expected(posterior: Posterior, fault: int, i: int, unit: str) -> Range:
    """What a fault makes a reading show, given all the other readings."""
    without = posterior.log_without[fault, :, i]
    deviation = np.sqrt(posterior.expected_variance[fault, :, i])
    return spread(posterior.expected[fault, :, i], deviation, np.exp(without - without.max()), unit)


def _word(reading: Reading, where: str, bits: float, expected: Range) -> Evidence:
    stance = Stance.NEUTRAL
    if abs(bits) >= NOTABLE_BITS:
        stance = Stance.FOR if bits > 0 else Stance.AGAINST
    words = (
        f"{reading.value:g} {reading.unit}, {where}; "
        f"this suspect would show {expected.low:g} to {expected.high:g} {reading.unit}"
    )
    return Evidence(reading=reading.id, stance=stance, bits=bits, expected=expected, words=words)


def contradictions(study: Study, posterior: Posterior, readings: Sequence[Reading]) -> tuple[Contradiction, ...]:
    """Name readings of one measurement that differ, and readings that everything else speaks against."""
    found = []
    for i, first in enumerate(readings):
        for second in readings[i + 1 :]:
            if first.measurement == second.measurement and _differ(first, second):
                where = measurement_words(study.circuit, first.measurement)
                found.append(
                    Contradiction(
                        readings=(first.id, second.id),
                        words=f"{first.value:g} {first.unit} and {second.value:g} {second.unit} were both read: "
                        f"{where}. Either the contact comes and goes, or one was mistyped or taken in another state: "
                        "read it again.",
                    )
                )
    known = max(1 - posterior.unlisted, 1e-12)
    for reading, share in zip(readings, posterior.outlier / known, strict=True):
        if share > LIKELY_WRONG:
            where = measurement_words(study.circuit, reading.measurement)
            found.append(
                Contradiction(
                    readings=(reading.id,),
                    words=f"{reading.value:g} {reading.unit}, {where}: the other readings speak against it. "
                    "Mistyped, or taken in another state? Read it again.",
                )
            )
    return tuple(found)


def _differ(first: Reading, second: Reading) -> bool:
    """Whether two readings of one measurement are further apart than meter and drift allow (four deviations)."""
    variance = sum(
        float(noise_variance(np.array(r.value), 0.0, r.unit, typed_step(r.value, r.unit))) for r in (first, second)
    )
    return bool(abs(first.value - second.value) > 4 * variance**0.5)
