"""The readings' joint likelihood against the dense Gaussian formulas, which it never forms."""

import numpy as np
import pytest
from scipy.stats import multivariate_normal

from zesty_copper.core.diagnosis.infer.joint import Ghosts, ghosts_of, joint_fit, unknowns_of
from zesty_copper.core.diagnosis.infer.pick import Layer, Layers, Picked, pick
from zesty_copper.core.diagnosis.infer.two_state import flicker_log_weight

from tests.core.told import volts  # isort: skip

PAIRS, UNKNOWNS = 3, 4
GHOSTS = ghosts_of([volts("L1@whip", "L2@fuse", 0, name=f"{i}") for i in range(2)] + [volts("L1@fuse", "L2@whip", 0)])


def told(count: int, seed: int = 4) -> tuple[np.ndarray, Picked, Ghosts]:
    """Random readings; the first three between two conductors, two of them at one place."""
    rng = np.random.default_rng(seed)
    read = rng.normal(0, 2, count)
    wander = rng.uniform(0.1, 1, (PAIRS, count))
    variance = wander**2 + rng.uniform(0.1, 1, (PAIRS, count))
    slope = rng.normal(0, 1, (PAIRS, count, UNKNOWNS))
    picked = Picked(rng.normal(0, 1, (PAIRS, count)), variance, wander, slope, np.zeros(PAIRS))
    rest = np.full(count - 3, -1)
    ghosts = Ghosts(
        np.append(GHOSTS.along, rest),
        np.append(GHOSTS.again, rest),
        np.append(GHOSTS.again_share, rest * 0.0),
        GHOSTS.pairs,
        GHOSTS.places,
    )
    return read, picked, ghosts


def covariance_of(picked: Picked, p: int) -> np.ndarray:
    """Covariance of the readings of one pair, written out."""
    whole = picked.slope[p] @ picked.slope[p].T + np.diag(picked.variance[p])
    for i, j, share in ((0, 1, 0.9), (0, 2, 0.8), (1, 2, 0.8)):
        whole[[i, j], [j, i]] += share * picked.wander[p, i] * picked.wander[p, j]
    return np.asarray(whole)


@pytest.mark.parametrize("count", [4, 11], ids=["fewer than the unknowns", "more"])
def test_density_and_what_the_others_say_equal_the_dense_formulas(count: int) -> None:
    read, picked, ghosts = told(count)
    fit = joint_fit(read, picked, ghosts)
    for p in range(PAIRS):
        covariance = covariance_of(picked, p)
        residual = read - picked.value[p]
        assert fit.log_all[p] == pytest.approx(multivariate_normal(np.zeros(count), covariance).logpdf(residual))
        for i in range(count):
            rest = [j for j in range(count) if j != i]
            weights = np.linalg.solve(covariance[np.ix_(rest, rest)], covariance[rest, i])
            mean = picked.value[p, i] + weights @ residual[rest]
            variance = covariance[i, i] - weights @ covariance[rest, i]
            assert fit.expected[p, i] == pytest.approx(mean)
            assert fit.variance[p, i] == pytest.approx(variance)
            alone = multivariate_normal(mean, variance).logpdf(read[i])
            assert fit.log_conditional[p, i] == pytest.approx(alone)


@pytest.mark.parametrize("left_out", [-1, 0, 3])
def test_the_unknowns_are_as_the_readings_leave_them(left_out: int) -> None:
    read, picked, ghosts = told(6)
    shift, spread = unknowns_of(read, picked, ghosts, np.full(PAIRS, left_out))
    keep = [i for i in range(6) if i != left_out]
    for p in range(PAIRS):
        gain = picked.slope[p][keep].T @ np.linalg.inv(covariance_of(picked, p)[np.ix_(keep, keep)])
        np.testing.assert_allclose(shift[p], gain @ (read - picked.value[p])[keep], rtol=1e-9)
        np.testing.assert_allclose(spread[p], np.eye(UNKNOWNS) - gain @ picked.slope[p][keep], atol=1e-12)


@pytest.mark.parametrize("count", [3, 9], ids=["fewer than the unknowns", "more"])
def test_of_two_states_each_reading_is_judged_by_what_the_others_say(count: int) -> None:
    """One row that comes and goes: every step of the choice by dense matrices."""
    rng = np.random.default_rng(11)
    value = rng.normal(0, 1.5, (2, 1, count))
    variance, slope = rng.uniform(0.05, 0.2, (2, 1, count)), rng.normal(0, 1, (2, 1, count, UNKNOWNS))
    read = rng.normal(0, 1.5, count)
    none = np.zeros((2, 1, count))
    layer = Layer(value, variance, none, slope)
    zero = np.zeros(1, dtype=np.int64)
    picked = pick(Layers(read, layer, np.full(2, -1), layer), zero, zero + 1, zero)

    def nats(mean: float, wide: float, i: int) -> float:
        return float(-0.5 * ((read[i] - mean) ** 2 / wide + np.log(wide)))

    wide = variance + (slope**2).sum(-1)
    second = np.array(
        [nats(value[1, 0, i], wide[1, 0, i], i) > nats(value[0, 0, i], wide[0, 0, i], i) for i in range(count)]
    )
    state = second.astype(int)
    chosen = slope[state, 0, np.arange(count)]
    residual = read - value[state, 0, np.arange(count)]
    ahead = np.empty(count)
    for i in range(count):
        rest = [j for j in range(count) if j != i]
        whole = chosen[rest] @ chosen[rest].T + np.diag(variance[state, 0, np.arange(count)][rest])
        gain = chosen[rest].T @ np.linalg.inv(whole)
        mean, left = gain @ residual[rest], np.eye(UNKNOWNS) - gain @ chosen[rest]
        fits = [
            nats(value[s, 0, i] + slope[s, 0, i] @ mean, variance[s, 0, i] + slope[s, 0, i] @ left @ slope[s, 0, i], i)
            for s in range(2)
        ]
        ahead[i] = fits[1] - fits[0]
    assert (second != (ahead > 0)).any(), "the others change a mind here, else nothing is tested"
    np.testing.assert_allclose(picked.value[0], value[(ahead > 0).astype(int), 0, np.arange(count)])
    assert picked.log_mode_weight[0] == pytest.approx(flicker_log_weight(ahead))


def test_a_place_read_again_shares_more_than_another_along_the_same_run() -> None:
    assert GHOSTS.along.tolist() == [0, 0, 0]
    assert GHOSTS.again.tolist() == [0, 0, -1]
    assert GHOSTS.again_share[0] == pytest.approx(0.1)
    one_conductor = ghosts_of([volts("L1@whip", "L1@fuse", 0, name=f"{i}") for i in range(2)])
    assert one_conductor.along.tolist() == [-1, -1]
    assert one_conductor.again_share.tolist() == [0.9, 0.9]
