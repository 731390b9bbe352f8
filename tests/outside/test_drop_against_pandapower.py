"""Voltage drop of three-phase runs against an AC power flow (pandapower 3.5, Newton–Raphson)."""

import math

import pandapower
import pytest

from zesty_copper.core.circuit.parts.conductor import Metal
from zesty_copper.core.ratings.inputs.sheet import Raceway, Run
from zesty_copper.core.ratings.inputs.tables import exactly
from zesty_copper.core.ratings.rules.wires.drop import lost_volts, ohm_per_kft
from zesty_copper.core.ratings.worked import given

KM_PER_KFT = 0.3048


@pytest.mark.parametrize(
    ("wire", "amps", "feet", "volts"),
    [
        ((10, Metal.COPPER, Raceway.STEEL), 20, 300, 480),
        ((10, Metal.COPPER, Raceway.PLASTIC), 24, 100, 208),
        ((6, Metal.COPPER, Raceway.ALUMINIUM), 50, 200, 240),
        ((2, Metal.ALUMINIUM, Raceway.STEEL), 80, 250, 208),
        ((-3, Metal.COPPER, Raceway.STEEL), 200, 300, 480),
    ],
)
def test_lost_volts(wire: tuple[int, Metal, Raceway], amps: float, feet: float, volts: float) -> None:
    size, metal, raceway = wire
    ours = lost_volts(
        Run(name="feeder", size_awg=size, metal=metal, raceway=raceway, length_m=feet * 0.3048),
        given("amps", amps, "A"),
        three_phase=True,
        heat=False,
    )
    assert ours is not None
    net = pandapower.create_empty_network(f_hz=60)
    near, far = (pandapower.create_bus(net, vn_kv=volts / 1000) for _ in range(2))
    pandapower.create_ext_grid(net, near)
    column = "X, steel" if raceway is Raceway.STEEL else "X, plastic or aluminium"
    ohm, reactance = exactly("impedance", f"{metal} R, {raceway}", size), exactly("impedance", column, size)
    assert ohm is not None
    assert reactance is not None
    pandapower.create_line_from_parameters(
        net,
        near,
        far,
        length_km=feet / 1000 * KM_PER_KFT,
        r_ohm_per_km=ohm / KM_PER_KFT,
        x_ohm_per_km=reactance / KM_PER_KFT,
        c_nf_per_km=0,
        max_i_ka=1,
    )
    # A load that draws these amps at the lowered volts, at a power factor of 0.85 at its own terminals.
    low = volts - ours.value
    apparent_mva = math.sqrt(3) * low * amps / 1e6
    pandapower.create_load(net, far, p_mw=0.85 * apparent_mva, q_mvar=math.sqrt(1 - 0.85**2) * apparent_mva)
    pandapower.runpp(net, numba=False)
    assert net.res_line.i_ka[0] * 1000 == pytest.approx(amps, rel=5e-3)
    assert (1 - net.res_bus.vm_pu[far]) * volts == pytest.approx(ours.value, rel=0.01)


def test_heat_is_reckoned_by_resistance_alone() -> None:
    run = Run(name="feeder", size_awg=4, raceway=Raceway.STEEL, length_m=30)
    (step,) = ohm_per_kft(run, heat=True)
    assert step.value == 0.308
