"""Every unknown moved a little by itself and the circuit solved again: sensitivities against finite differences."""

from dataclasses import replace

import numpy as np
import pytest

from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, compile_circuit
from zesty_copper.core.diagnosis.predict.nuisance import DIMENSIONS, Dimension
from zesty_copper.core.diagnosis.predict.observe import predict
from zesty_copper.core.memory import Memory
from zesty_copper.core.network.elements import GROUPS
from zesty_copper.core.observations.measurement import Measurement

from tests.core.told import LO_Z, amps, ohms, volts  # isort: skip

STEP = 1e-4
FACTORS = ("idle", "joint", "source", "house", "other_house", "between", "ground")
ASKED = {
    "condenser_fused": [
        volts("L1@whip", "L2@whip", 0),
        volts("L1@fuse", "L1@contactor", 0, "contactor"),
        volts("L2@whip", "G", 0, "contactor", meter=LO_Z),
        amps("L1", "whip", 0),
    ],
    "heat_pump": [volts("L1@branch", "L2@branch", 0), volts("L1@branch", "G", 0)],
    "rooftop_208": [volts("L1@branch", "L3@branch", 0), volts("L2@branch", "G", 0), amps("L2", "branch", 0)],
}


def altered(compiled: CompiledCircuit, **fields: object) -> CompiledCircuit:
    """Return the circuit with something changed, and nothing remembered."""
    return replace(compiled, memory=Memory(10**8), **fields)  # type: ignore[arg-type] # whichever fields they are


def driven_by(compiled: CompiledCircuit, factors: np.ndarray) -> CompiledCircuit:
    """Return the circuit with every source's volts multiplied, (sources,)."""
    edits = compiled.edits.with_rows(list(compiled.edits.rows))
    edits._drives[:] = [drive * factors for drive in edits._drives]
    return altered(compiled, edits=edits)


def moved(compiled: CompiledCircuit, dimension: int) -> CompiledCircuit:
    """Return the circuit with one unknown a step further; what a fault itself adds stays as it is."""
    sources = len(compiled.netlist.sources)
    if dimension == Dimension.LEVEL:
        return driven_by(compiled, np.full(sources, 1 + STEP))
    if Dimension.BALANCE.start <= dimension < Dimension.BALANCE.stop:
        return driven_by(compiled, 1 + STEP * compiled.contrast[dimension - Dimension.BALANCE.start])
    if dimension == Dimension.FAULT:
        edits = compiled.edits.with_rows([replace(r, delta=r.delta + STEP * r.dlog) for r in compiled.edits.rows])
        return altered(compiled, edits=edits)
    name = GROUPS[dimension - Dimension.GROUPS.start]
    conditions = compiled.nuisance.conditions
    conditions = replace(conditions, **{name: getattr(conditions, name) * (1 + STEP)})
    return altered(compiled, nuisance=replace(compiled.nuisance, conditions=conditions))


def agree(compiled: CompiledCircuit, measurement: Measurement, dimension: int) -> None:
    """Compare; where the step lets a coil go or a motor stall nothing is to be compared."""
    before, after = predict(compiled, measurement), predict(moved(compiled, dimension), measurement)
    found = (after.value - before.value) / STEP
    slope = before.slope[..., dimension] / DIMENSIONS[dimension]
    scale = 1e-3 * np.abs(before.value) + 0.02 + 0.01 * np.abs(slope)
    # Near nothing a magnitude bends too sharply for any step.
    clear = before.value > 0.05
    close = np.abs(found - slope) < scale
    assert close[clear].mean() > 0.995, f"{dimension}: {found[clear & ~close][:3]} against {slope[clear & ~close][:3]}"


@pytest.mark.parametrize("key", ASKED)
def test_volts_and_amps_move_as_their_sensitivities_say(key: str) -> None:
    compiled = compile_circuit(ready_made()[key])
    balance = range(Dimension.BALANCE.start, Dimension.BALANCE.stop)
    groups = [Dimension.GROUPS.start + GROUPS.index(name) for name in FACTORS]
    for reading in ASKED[key]:
        for dimension in (Dimension.LEVEL, Dimension.FAULT, *balance, *groups):
            agree(compiled, reading.measurement, dimension)
        slope, shown = predict(compiled, reading.measurement).slope, predict(compiled, reading.measurement).value
        mine, other = (Dimension.VOLT_GAIN, Dimension.AMP_GAIN)[:: 1 if reading.unit == "V" else -1]
        # A meter's gain is its own: all its numbers are off by the same share, and no other meter's.
        np.testing.assert_allclose(slope[..., mine], DIMENSIONS[mine] * shown, rtol=1e-9, atol=1e-9)
        assert not slope[..., other].any()


def test_ohms_move_with_the_faults_own_resistance() -> None:
    compiled = compile_circuit(ready_made()["condenser_fused"])
    for points in (("L1@whip", "L2@whip"), ("L1@whip", "G@whip"), ("L1@clip_line", "L1@fuse")):
        measurement = ohms(*points, 0, "contactor", "disconnect").measurement
        before = predict(compiled, measurement)
        after = predict(moved(compiled, Dimension.FAULT), measurement)
        slope = before.slope[..., Dimension.FAULT] / DIMENSIONS[Dimension.FAULT]
        # A few rows of an open path are known to seven digits alone, of which the step takes four.
        close = np.isclose((after.value - before.value) / STEP, slope, rtol=5e-3, atol=2e-3)
        assert close.mean() > 0.995
        assert np.abs(slope).max() > 0.1
