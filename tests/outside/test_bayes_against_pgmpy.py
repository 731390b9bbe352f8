"""The posterior against pgmpy (1.1), a general library for Bayesian networks, on a small circuit.

The densities are computed here with SciPy's multivariate normal from what each fault predicts; pgmpy then does all the
arithmetic: prior, samples, which one number is mistyped, and the readings as one observed event.
"""

from itertools import combinations

import numpy as np
import pytest
from pgmpy.factors.discrete import TabularCPD
from pgmpy.inference import VariableElimination
from pgmpy.models import DiscreteBayesianNetwork
from scipy.stats import multivariate_normal
from tests.core.told import spot, volts

from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.infer.posterior import any_number_density, weigh
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, compile_circuit
from zesty_copper.core.diagnosis.predict.noise import OUTLIER_SHARE
from zesty_copper.core.diagnosis.predict.nuisance import stir_variance
from zesty_copper.core.diagnosis.predict.observe import predict
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Reading
from zesty_copper.core.observations.slips import ANY_NUMBER_SHARE

CIRCUIT = ready_made()["condenser_switch"]
SETS = {
    "one reading": [volts("L1@whip", "L2@whip", 222.6)],
    "a spot": spot("whip", 222.6, 121.0, 101.7),
    "one of them mistyped": [*spot("contactor", 241.0, 120.6, 120.4), volts("L1@line_lug", "L2@line_lug", 24.2)],
}


def lanes(reading: Reading) -> frozenset[str]:
    """The two conductors that are probed."""
    place = reading.measurement.place
    assert isinstance(place, Between)
    return frozenset(point.partition("@")[0] for point in (place.a, place.b))


def densities(compiled: CompiledCircuit, readings: list[Reading], rows: np.ndarray) -> np.ndarray:
    """Density of all readings, and with each in turn taken for mistyped, (1 + readings, rows, samples)."""
    predictions = [predict(compiled, reading.measurement) for reading in readings]
    value = np.array([reading.value for reading in readings])
    kinds = [reading.measurement.observation for reading in readings]
    found = np.empty((1 + len(readings), len(rows), compiled.samples))
    for r, row in enumerate(rows):
        for m in range(compiled.samples):
            mean = np.array([p.value[row, m] for p in predictions])
            slope = np.stack([p.slope[row, m] for p in predictions])
            noise = [
                float(kind.noise_variance(p.value[row, m], p.wander[row, m], kind.typed_step(one.value)))
                + float(stir_variance(p.slope[row, m], compiled.nuisance.house_stir[m]))
                for p, one, kind in zip(predictions, readings, kinds, strict=True)
            ]
            covariance = slope @ slope.T + np.diag(noise)
            for (i, one), (j, other) in combinations(enumerate(readings), 2):
                if lanes(one) == lanes(other):  # a ghost is much the same along a run
                    shared = 0.8 * predictions[i].wander[row, m] * predictions[j].wander[row, m]
                    covariance[[i, j], [j, i]] += shared
            found[0, r, m] = multivariate_normal(mean, covariance).pdf(value)
            for i in range(len(readings)):
                rest = [j for j in range(len(readings)) if j != i]
                alone = ANY_NUMBER_SHARE * any_number_density(compiled, readings[i].unit)
                others = multivariate_normal(mean[rest], covariance[np.ix_(rest, rest)]).pdf(value[rest]) if rest else 1
                found[1 + i, r, m] = alone * others
                for number, weight in kinds[i].slips(readings[i].value):
                    as_meant = np.array([number if j == i else value[j] for j in range(len(readings))])
                    found[1 + i, r, m] += weight * multivariate_normal(mean, covariance).pdf(as_meant)
    return found


@pytest.mark.parametrize("name", SETS)
def test_ranking_and_doubtful_readings_agree(name: str) -> None:
    compiled, readings = compile_circuit(CIRCUIT), SETS[name]
    # What comes and goes, or starves its own relay, is believed in two ways: no single prediction is its own.
    chatters = np.logical_or.reduce(
        [predict(compiled, reading.measurement).chatters.any(axis=1) for reading in readings]
    )
    steady = np.flatnonzero(~compiled.intermittent & ~chatters[compiled.row])
    assert len(steady) > 40
    density = densities(compiled, readings, compiled.row[steady])
    count = len(readings)
    prior = np.exp(compiled.log_prior[steady])
    wrong = np.array([(1 - OUTLIER_SHARE) ** count, *[OUTLIER_SHARE * (1 - OUTLIER_SHARE) ** (count - 1)] * count])
    seen = density / density.max()
    cards = [len(steady), compiled.samples, count + 1]
    event = np.moveaxis(seen, 0, -1).reshape(1, -1)  # fault slowest, then sample, then which is wrong
    network = DiscreteBayesianNetwork([("fault", "read"), ("sample", "read"), ("wrong", "read")])
    network.add_cpds(
        TabularCPD("fault", cards[0], (prior / prior.sum())[:, None]),
        TabularCPD("sample", cards[1], np.full((cards[1], 1), 1 / cards[1])),
        TabularCPD("wrong", cards[2], (wrong / wrong.sum())[:, None]),
        TabularCPD("read", 2, np.vstack([1 - event, event]), ["fault", "sample", "wrong"], cards),
    )
    asked = VariableElimination(network)
    fault = asked.query(["fault"], evidence={"read": 1}, show_progress=False).values
    posterior = weigh(compiled, readings)
    ours = posterior.weight.sum(axis=1)[steady]
    np.testing.assert_allclose(ours / ours.sum(), fault, rtol=1e-6, atol=1e-9)
    both = asked.query(["fault", "wrong"], evidence={"read": 1}, show_progress=False)
    doubtful = both.marginalize(["fault"], inplace=False).values[1:]
    # The product's doubt is shared with what comes and goes and with what is not listed: compare where those are small.
    share = ours.sum()
    if share > 0.98:
        np.testing.assert_allclose(posterior.outlier / share, doubtful, atol=0.02)
