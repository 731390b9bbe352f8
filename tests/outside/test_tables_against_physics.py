"""The published tables against what they can be derived from: geometry, resistivity, heat balance, and their own logic.

The tables' numbers are from memory; agreement with an independent derivation to their printed digits is what makes a
slip of memory show.
"""

import math
from itertools import pairwise

import numpy as np
import pytest

from zesty_copper.core.circuit.parts.conductor import Conductor, Metal, conductor_resistance_ohm
from zesty_copper.core.ratings.inputs.tables import table, tables
from zesty_copper.core.ratings.rules.wires.ampacity import temperature_factor

RHO_COPPER = 1.7241e-8
"""100 % IACS at 20 °C: by definition 1/58 Ω·mm²/m (IEC 60028)."""
RHO_ALUMINIUM = 1.7241e-8 / 0.61
"""61 % IACS (ASTM B230, from memory)."""
METRES_PER_KFT = 304.8


LARGE_KCMIL = {-4: 250, -5: 300, -6: 350, -7: 400, -8: 500}


def diameter_m(size: int) -> float:
    """ASTM B258: 0.005 in for 36 AWG, 0.46 in for 4/0, and 39 equal ratios between; a mil squared is a circular mil."""
    if size in LARGE_KCMIL:
        return math.sqrt(1000 * LARGE_KCMIL[size]) * 0.0254e-3
    return float(0.005 * 0.0254 * 92 ** ((36 - size) / 39))


@pytest.mark.parametrize("row", table("conductors").rows, ids=lambda row: str(row[0]))
def test_area_and_resistance_follow_from_the_gauge(row: tuple[float, ...]) -> None:
    size, cmil, copper, aluminium = row
    d = diameter_m(int(size))
    assert (d / 0.0254 * 1000) ** 2 == pytest.approx(cmil, rel=3e-3), "three or four digits are printed"
    area = math.pi / 4 * d**2
    # Temperature as the table's own note 2: α = 0.00323 and 0.00330 at 75 °C; at 20 °C that is 0.00393 and 0.00403.
    for ohm, rho, alpha in ((copper, RHO_COPPER, 0.00393), (aluminium, RHO_ALUMINIUM, 0.00403)):
        straight = rho * (1 + alpha * 55) / area * METRES_PER_KFT
        # Stranding adds about 2 %; three digits are printed.
        assert straight * 1.005 < ohm < straight * 1.035


def test_resistance_of_the_circuits_wires_is_that_of_the_table() -> None:
    for size, _, copper, aluminium in table("conductors").rows:
        for metal, ohm in ((Metal.COPPER, copper), (Metal.ALUMINIUM, aluminium)):
            conductor = Conductor(size_awg=int(size), metal=metal, length_m=METRES_PER_KFT)
            assert conductor_resistance_ohm(conductor, 75.0) == pytest.approx(ohm, rel=0.02)


@pytest.mark.parametrize("row", table("ambient").rows, ids=lambda row: f"{row[0]} °C")
def test_ambient_factors_are_their_formula(row: tuple[float | str, ...]) -> None:
    ambient = float(row[0])
    for conductor, printed in zip((60, 75, 90), row[1:], strict=True):
        if printed == "-":
            assert temperature_factor(conductor, min(ambient, conductor)) < 0.3, "nothing useful is left"
        else:
            # Two digits are printed.
            assert temperature_factor(conductor, ambient) == pytest.approx(float(printed), abs=0.0051)


def test_ampacities_follow_from_each_other_by_temperature() -> None:
    """I²·R(T) of one conductor grows as its rise above 30 °C (Neher and McGrath): between columns, the ratio is known.

    The printed table rounds to 5 A, and was never recomputed for small sizes, which code making holds down.
    """
    alpha = {"copper": 0.00393, "aluminium": 0.00403}
    for metal, size, *columns in table("ampacity").rows:
        if float(size) > 8:
            continue
        a = alpha[str(metal)]
        resistance = [1 + a * (t - 20) for t in (60, 75, 90)]
        ideal = [math.sqrt((t - 30) / r) for t, r in zip((60, 75, 90), resistance, strict=True)]
        for i, j in ((0, 1), (1, 2)):
            ratio = float(columns[j]) / float(columns[i])
            slack = 5 / float(columns[i]) + 0.02
            assert ratio == pytest.approx(ideal[j] / ideal[i], abs=slack), (metal, size)


def test_ampacities_grow_with_section_as_heat_allows() -> None:
    """Between the area to the half power and to the three quarters; copper over aluminium as √(ρ/ρ), 1.28."""
    for column in ("60 °C", "75 °C", "90 °C"):
        at = table("ampacity").column(column)
        amps = {(str(r[0]), int(float(r[1]))): float(r[at]) for r in table("ampacity").rows}
        for metal in ("copper", "aluminium"):
            sizes = sorted((size for m, size in amps if m == metal and size <= 8), reverse=True)
            area = np.log([diameter_m(size) ** 2 for size in sizes])
            slope, _ = np.polyfit(area, np.log([amps[metal, size] for size in sizes]), 1)
            assert 0.5 < slope < 0.75
            assert all(amps[metal, b] > amps[metal, a] for a, b in pairwise(sizes))
        both = [size for metal, size in amps if metal == "aluminium" and size <= 8]
        ratio = np.mean([amps["copper", size] / amps["aluminium", size] for size in both])
        assert ratio == pytest.approx(math.sqrt(RHO_ALUMINIUM / RHO_COPPER), abs=0.05)


def test_impedances_are_resistance_and_the_spacing_of_wires_in_a_pipe() -> None:
    """R is Table 8's to its two digits; X that of three round wires, ω·μ₀/2π·ln(GMD/GMR), a fifth more for lay."""
    direct = {row[0]: (float(row[2]), float(row[3])) for row in table("conductors").rows}
    for row in table("impedance").rows:
        size, plastic, steel = row[0], float(row[1]), float(row[2])
        for first, ohm in ((3, direct[size][0]), (6, direct[size][1])):
            for cell in row[first : first + 3]:
                if cell != "-":
                    # Two digits; skin effect and the pipe's losses add up to a tenth at 4/0, a quarter at 500 kcmil.
                    most = 1.12 if float(size) >= -3 else 1.26
                    assert ohm * 0.95 <= float(cell) <= ohm * most, (size, cell)
        d = diameter_m(int(float(size))) * 1.13  # stranded
        apart = 1.5 * (d + 2 * 0.76e-3)  # insulation of thirty mils to more, and loosely in the pipe
        henry_per_m = 2e-7 * math.log(apart / (0.7788 * d / 2))
        assert plastic == pytest.approx(1.2 * 2 * math.pi * 60 * henry_per_m * METRES_PER_KFT, rel=0.16)
        assert 1.1 < steel / plastic < 1.45


def test_standard_sizes_grow_by_steps_that_a_next_size_up_may_take() -> None:
    sizes = [float(row[0]) for row in table("standard_sizes").rows]
    assert sizes == sorted(set(sizes))
    assert all(b / a <= 4 / 3 + 1e-9 for a, b in pairwise(sizes))


def test_grounding_conductors_carry_a_fault_as_long_as_the_device_takes() -> None:
    """Copper: one ampere for some seconds for each 42.25 circular mil; the table keeps area/device above 25 to 1.

    NEC 250.2 gave the one-cycle rule the table was built on (a 25 to 1 ratio of device to the wire's own ampacity).
    """
    cmil = {row[0]: float(row[1]) for row in table("conductors").rows}
    before = math.inf
    for amps, copper, aluminium in table("grounding").rows:
        per_amp = cmil[copper] / float(amps)
        assert 130 < per_amp < 350, "area for each ampere of the device"
        assert per_amp <= before * 1.7
        before = per_amp
        # Aluminium is two gauges thicker: 1.6 times the area for 1.6 times the resistivity.
        assert 1.4 < cmil[aluminium] / cmil[copper] < 1.8


def test_run_box_and_torque_tables_are_in_order() -> None:
    for key, column in (
        ("box_conductors", 1),
        ("hex_torque", 1),
        ("unbalance", 0),
        ("infrared", 0),
        ("infrared_air", 0),
        ("bundling", 0),
    ):
        values = [float(row[column]) for row in table(key).rows]
        assert values == sorted(values)
        assert len(set(values)) == len(values)
    for row in table("torque").rows:
        cells = [float(cell) for cell in row[1:] if cell != "-"]
        assert min(cells) >= 20
        assert max(cells) <= 500
    factors = [float(row[1]) for row in table("bundling").rows]
    # With more conductors the same heat leaves: the factor falls about as the inverse root of their number.
    for most, factor in zip((6, 9, 20, 30, 40), factors[1:-1], strict=True):
        assert 0.9 * math.sqrt(3 / most) < factor < 1.5 * math.sqrt(3 / most)


def test_derating_for_unbalance_follows_the_heat_of_the_backward_field() -> None:
    """Extra heat is about 2·U² (NEMA MG 1 14.36 notes a rise of twice the square of the percentage)."""
    for percent, factor in table("unbalance").rows:
        extra = 2 * float(percent) ** 2 / 100
        allowed = 1 / math.sqrt(1 + extra)
        assert float(factor) == pytest.approx(allowed, abs=0.07)


def test_boxes_hold_what_their_sides_make() -> None:
    """Square and device boxes: length × width × depth, walls and corners taken off."""
    number = {"1¼": 1.25, "1½": 1.5, "2⅛": 2.125, "2¼": 2.25, "2½": 2.5, "2¾": 2.75, "3½": 3.5, "2": 2.0}
    for name, volume in table("boxes").rows:
        words = str(name).split(" × ")
        side = 4 + 11 / 16 if words[0].startswith("4 11/16") else float(words[0])
        if "square" in str(name):
            depth = number[words[1].split()[0]]
            assert 0.85 < float(volume) / (side * side * depth) < 1.02, name
        elif "device" in str(name):
            depth = number[words[2].split()[0]]
            assert 0.75 < float(volume) / (3 * 2 * depth) < 1.02, name
        else:
            depth = number[words[1].split()[0]]
            octagon = 0.8284 * side * side * depth
            assert 0.72 < float(volume) / octagon < 1.02, name


def test_motors_amps_are_one_motor_at_other_volts() -> None:
    """The same watts at other volts: 230/208, 230/200 and 230/460 of the amps; printed to a tenth of an ampere or so.

    Small three-phase motors are rounded by more; 115 V stands at twice the 230.
    """
    for key, ratios in (
        ("motors_single_phase", {"115": 2.0, "200": 1.15, "208": 1.106}),
        ("motors_three_phase", {"200": 1.15, "208": 1.106, "460": 0.5, "575": 0.4}),
    ):
        one = table(key)
        for row in one.rows:
            at = {name: float(cell) for name, cell in zip(one.columns, row, strict=True)}
            for volts, ratio in ratios.items():
                assert at[volts] == pytest.approx(ratio * at["230"], rel=0.03, abs=0.06), (row[0], volts)


def test_motors_watts_grow_with_their_horsepower() -> None:
    """Amps times volts, over 746 W for each horsepower, is 1/(efficiency × power factor): less for larger motors."""
    for key, phases in (("motors_single_phase", 1.0), ("motors_three_phase", math.sqrt(3))):
        one = table(key)
        at = one.column("230")
        over = [phases * 230 * float(row[at]) / (746 * float(row[0])) for row in one.rows]
        assert all(1.1 < share < 4.3 for share in over)
        assert all(later < earlier * 1.12 for earlier, later in pairwise(over))


def test_every_table_names_its_source_and_standing() -> None:
    assert len(tables()) >= 16
    for one in tables().values():
        assert one.source
        assert one.standing in ("from memory", "common practice")
