"""What each reading says for and against each suspect, and which readings contradict each other."""

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.diagnosis.infer.looks import log_inspection_ratio_of
from zesty_copper.core.diagnosis.infer.posterior import Posterior, any_number_density
from zesty_copper.core.diagnosis.model.answer import Contradiction, Evidence, Range, Stance
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.diagnosis.predict.noise import OUTLIER_SHARE
from zesty_copper.core.faults.signs import Look, look_words, signs
from zesty_copper.core.observations.measurement import Reading
from zesty_copper.core.observations.observation import AnyObservation
from zesty_copper.core.observations.words import measurement_words, range_words, value_words
from zesty_copper.core.words import say

__all__ = ["contradictions", "evidence_of_looks", "evidence_on", "spread"]

NOTABLE_BITS = 0.5
"""Below this a reading is said to tell nothing either way."""
LIKELY_WRONG = 0.3
"""Probability from which a reading is named as mistyped or taken in another state."""
NINE_IN_TEN = 1.645


def spread(
    mean: NDArray[np.float64], deviation: NDArray[np.float64], weight: NDArray[np.float64], kind: AnyObservation
) -> Range:
    """Range that holds nine readings in ten of a weighted set of Gaussians, rounded to the meter's digit."""
    order = np.argsort(mean)
    share = np.cumsum(weight[order]) / weight.sum()
    ends = []
    for quantile, side in ((0.05, -1), (0.95, 1)):
        at = order[min(int(np.searchsorted(share, quantile)), len(order) - 1)]
        ends.append(mean[at] + side * NINE_IN_TEN * deviation[at])
    low, high = kind.shown(*ends)
    return Range(low=low, high=high)


def evidence_on(
    compiled: CompiledCircuit, posterior: Posterior, readings: Sequence[Reading], faults: Sequence[int]
) -> list[tuple[Evidence, ...]]:
    """Return every reading's word on each of these faults, each judged in the light of all the other readings.

    The others are weighed as they were before any reading: among look-alikes alone no reading would ever speak for one.
    """
    if not readings:
        return [() for _ in faults]
    # The same allowance for a wrong number as in the ranking keeps one reading from counting without bound.
    wrong = np.log([OUTLIER_SHARE * any_number_density(compiled, reading.unit) for reading in readings])
    right = math.log1p(-OUTLIER_SHARE) + posterior.log_conditional
    log_seen = np.logaddexp.reduce(posterior.log_without + np.logaddexp(right, wrong), axis=1)
    likelihood = log_seen - np.logaddexp.reduce(posterior.log_without, axis=1)  # (faults, readings)
    places = [measurement_words(compiled.circuit, reading.measurement) for reading in readings]
    by_fault = []
    for fault in faults:
        other_faults = np.arange(len(compiled.faults)) != fault
        prior = compiled.log_prior[other_faults] - np.logaddexp.reduce(compiled.log_prior[other_faults])
        log_rest = np.logaddexp.reduce(prior[:, None] + likelihood[other_faults])
        bits = (likelihood[fault] - log_rest) / math.log(2)
        by_fault.append(
            tuple(
                _word(reading, where, float(bits[i]), _expected(posterior, fault, i, reading.measurement.observation))
                for i, (reading, where) in enumerate(zip(readings, places, strict=True))
            )
        )
    return by_fault


def evidence_of_looks(
    compiled: CompiledCircuit, looks: Sequence[Look], faults: Sequence[int]
) -> list[tuple[Evidence, ...]]:
    """Return every look's word on each of these faults, against all others as they were before any look."""
    by_look = [log_inspection_ratio_of(compiled, [look]) for look in looks]
    by_fault = []
    for fault in faults:
        other_faults = np.arange(len(compiled.faults)) != fault
        prior = compiled.log_prior[other_faults] - np.logaddexp.reduce(compiled.log_prior[other_faults])
        words = []
        for look, log_ratios in zip(looks, by_look, strict=True):
            bits = float(log_ratios[fault] - np.logaddexp.reduce(prior + log_ratios[other_faults])) / math.log(2)
            stance = Stance.NEUTRAL if abs(bits) < NOTABLE_BITS else Stance.FOR if bits > 0 else Stance.AGAINST
            text = f"{look_words(compiled.circuit, look)}. {signs()[look.sign].reason}"
            words.append(Evidence(reading=look.id, stance=stance, bits=bits, expected=None, words=text))
        by_fault.append(tuple(words))
    return by_fault


def _expected(posterior: Posterior, fault: int, i: int, kind: AnyObservation) -> Range:
    """What a fault makes a reading show, given all the other readings."""
    without = posterior.log_without[fault, :, i]
    deviation = np.sqrt(posterior.expected_variance[fault, :, i])
    return spread(posterior.expected[fault, :, i], deviation, np.exp(without - without.max()), kind)


def _word(reading: Reading, where: str, bits: float, expected: Range) -> Evidence:
    stance = Stance.NEUTRAL
    if abs(bits) >= NOTABLE_BITS:
        stance = Stance.FOR if bits > 0 else Stance.AGAINST
    words = say(
        "diagnosis.suspect_would_show",
        value=value_words(reading.value, reading.unit),
        where=where,
        range=range_words(expected.low, expected.high, reading.unit),
    )
    return Evidence(reading=reading.id, stance=stance, bits=bits, expected=expected, words=words)


def contradictions(
    compiled: CompiledCircuit, posterior: Posterior, readings: Sequence[Reading]
) -> tuple[Contradiction, ...]:
    """Name readings of one measurement that differ, and readings that everything else speaks against."""
    contradictory = []
    for i, first in enumerate(readings):
        for second in readings[i + 1 :]:
            if first.measurement == second.measurement and _differ(first, second):
                where = measurement_words(compiled.circuit, first.measurement)
                contradictory.append(
                    Contradiction(
                        readings=(first.id, second.id),
                        words=say(
                            "diagnosis.were_both_read_either",
                            value=value_words(first.value, first.unit),
                            value_2=value_words(second.value, second.unit),
                            where=where,
                        ),
                    )
                )
    listed_share = max(1 - posterior.unlisted, 1e-12)
    for i, (reading, share) in enumerate(zip(readings, posterior.outlier / listed_share, strict=True)):
        if share > LIKELY_WRONG:
            where = measurement_words(compiled.circuit, reading.measurement)
            question = _meant_words(posterior, i, reading) or say("diagnosis.mistyped_taken_another_state")
            contradictory.append(
                Contradiction(
                    readings=(reading.id,),
                    words=say(
                        "diagnosis.other_readings_speak_against",
                        value=value_words(reading.value, reading.unit),
                        where=where,
                        asked=question,
                    ),
                )
            )
    return tuple(contradictory)


def _meant_words(posterior: Posterior, i: int, reading: Reading) -> str:
    """Ask whether another number was meant: one that a slip turns into this one, and that fits the others."""
    likeliest = np.unravel_index(posterior.weight.argmax(), posterior.weight.shape)
    expected, variance = posterior.expected[likeliest][i], posterior.expected_variance[likeliest][i]
    fitting = [
        number
        for number, _ in reading.measurement.observation.slips(reading.value)
        if abs(number - expected) < 3 * variance**0.5
    ]
    return say("diagnosis.was_it_meant", value=value_words(fitting[0], reading.unit)) if fitting else ""


def _differ(first: Reading, second: Reading) -> bool:
    """Whether two readings of one measurement are further apart than meter and drift allow (four deviations)."""
    kind = first.measurement.observation
    variance = sum(
        float(kind.noise_variance(np.array(reading.on_scale), 0.0, kind.typed_step(reading.value)))
        for reading in (first, second)
    )
    return bool(abs(first.on_scale - second.on_scale) > 4 * variance**0.5)
