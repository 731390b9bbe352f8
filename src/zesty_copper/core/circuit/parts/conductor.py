"""Resistance and stray capacitance of branch conductors from their size, metal and length."""

import math
from enum import StrEnum

from pydantic import Field

from zesty_copper.core.frozen import Frozen

__all__ = [
    "FEET_PER_METRE",
    "KCMIL",
    "Conductor",
    "Metal",
    "conductor_resistance_ohm",
    "gauge_words",
    "stray_capacitance_pf",
]

FEET_PER_METRE = 1 / 0.3048
KCMIL = {-4: 250, -5: 300, -6: 350, -7: 400, -8: 500}
"""Sizes beyond 4/0, in thousands of circular mils."""

_RESISTIVITY_OHM_M = {"copper": 1.7241e-8, "aluminium": 2.8265e-8}
"""At 20 °C: IEC 60028 (annealed copper) and IEC 60889 (hard-drawn aluminium), from memory."""
_TEMPERATURE_COEFFICIENT = {"copper": 0.00393, "aluminium": 0.00403}
_STRANDING_FACTOR = 1.02  # lay of the strands, as ASTM B8 allows, from memory
_INSULATION_PERMITTIVITY = 3.0  # PVC and nylon with the air between, between about 2.5 and 4
_SPACING_DIAMETERS = 1.5  # centre distance of two insulated conductors side by side, in conductor diameters
_VACUUM_PERMITTIVITY_PF_M = 8.854


class Metal(StrEnum):
    """What the conductor is made of."""

    COPPER = "copper"
    ALUMINIUM = "aluminium"

    @property
    def words(self) -> str:
        """The metal as it is said here; what is stored keeps the spelling of the tables."""
        return self.value.replace("minium", "minum")


class Conductor(Frozen):
    """A run of equal conductors, one per leg."""

    size_awg: int = Field(
        ge=-8, le=18, description="American Wire Gauge; 0 to -3 stand for 1/0 to 4/0, -4 to -8 for 250 to 500 kcmil"
    )
    metal: Metal = Metal.COPPER
    length_m: float = Field(ge=0.01, le=500, description="one way, metre")


def conductor_resistance_ohm(conductor: Conductor, temperature_c: float = 35.0) -> float:
    """Resistance of one conductor, one way [ohm].

    Diameter by the gauge's definition, d = 0.127 mm · 92^((36 − n)/39) (ASTM B258, from memory of the formula).

    >>> round(conductor_resistance_ohm(Conductor(size_awg=10, length_m=304.8), 75.0), 2)  # NEC Ch. 9 Table 8: 1.24
    1.24
    """
    area_m2 = _area_m2(conductor.size_awg)
    warm = 1 + _TEMPERATURE_COEFFICIENT[conductor.metal] * (temperature_c - 20)
    return float(_RESISTIVITY_OHM_M[conductor.metal] * warm * _STRANDING_FACTOR * conductor.length_m / area_m2)


def _area_m2(size_awg: int) -> float:
    """Area of a conductor's metal [m²]; a circular mil is that of a wire a thousandth of an inch thick."""
    if size_awg in KCMIL:
        return math.pi / 4 * KCMIL[size_awg] * 1000 * 0.0254e-3**2
    return float(math.pi / 4 * (0.127e-3 * 92 ** ((36 - size_awg) / 39)) ** 2)


def gauge_words(size_awg: int) -> str:
    """Say a gauge.

    >>> gauge_words(12), gauge_words(-2), gauge_words(-4)
    ('12 AWG', '3/0 AWG', '250 kcmil')
    """
    if size_awg in KCMIL:
        return f"{KCMIL[size_awg]} kcmil"
    return f"{size_awg} AWG" if size_awg > 0 else f"{1 - size_awg}/0 AWG"


def stray_capacitance_pf(length_m: float) -> float:
    """Capacitance between two neighbouring conductors of a run, or of either to the grounding conductor [pF].

    Two-wire line, C' = π·ε/arcosh(D/d) (any text on transmission lines); about 87 pF/m here.
    """
    per_m = math.pi * _VACUUM_PERMITTIVITY_PF_M * _INSULATION_PERMITTIVITY / math.acosh(_SPACING_DIAMETERS)
    return per_m * length_m
