"""Control volts that are read before anything else after a repair: whether line voltage is on a control wire.

A secondary of 24 V reads 22 to 29 V as its primary, load and turns have it; grounded at C or floating, none of its
conductors reaches more than that to ground. Common practice, no source.
"""

from collections.abc import Iterator

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.diagnosis.safety.stray_volts import LOW_VOLTAGE
from zesty_copper.core.frozen import Frozen

__all__ = ["FAN", "LEAST_SHARE", "MOST_SHARE", "Controls", "controls_of"]

LEAST_SHARE, MOST_SHARE = 22 / 24, 29 / 24
COMMON = "C"
FAN = "FAN"


class Controls(Frozen):
    """The control wiring of one transformer."""

    transformer: str
    hot: str
    letters: tuple[str, ...]
    least_volts: float
    most_volts: float

    @property
    def words(self) -> str:
        """Its conductors but the common one, as they are said; the fan's is thermostat G."""
        return ", ".join("thermostat G" if letter == FAN else letter for letter in self.letters)


def controls_of(circuit: Circuit) -> Iterator[Controls]:
    """Return the control wiring of each low-voltage transformer that a circuit draws."""
    for part in circuit.parts:
        if part.winding is None or part.winding.secondary_volts >= LOW_VOLTAGE or len(part.makes) != 2:
            continue
        hot = next((lane for lane in part.makes if lane != COMMON), part.makes[0])
        yield Controls(
            transformer=part.id,
            hot=hot,
            letters=tuple(dict.fromkeys(lane for lane in _lanes(circuit, part) if lane not in (COMMON, GROUND))),
            least_volts=LEAST_SHARE * part.winding.secondary_volts,
            most_volts=MOST_SHARE * part.winding.secondary_volts,
        )


def _lanes(circuit: Circuit, transformer: Part) -> Iterator[str]:
    yield from transformer.makes
    for part in circuit.series:
        if circuit.root(part) == transformer:
            yield from part.makes
