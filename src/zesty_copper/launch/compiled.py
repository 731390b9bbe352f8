"""Compile the loops of the core, so that the first diagnosis of a new installation does not wait for it."""

from zesty_copper.core.circuit.point import Point
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.job import Job, Scope
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Measurement, Reading
from zesty_copper.core.observations.modes import MeterMode

__all__ = ["compile_core"]

OPEN = frozenset({"contactor", "disconnect"})
"""Enough of each kind of reading that every loop runs: few numbers and many, live and dead."""


def compile_core() -> None:
    """Diagnose a little of everything."""
    circuit = ready_made()["condenser_fused"]
    whip = Between(a=Point("L1@whip"), b=Point("L2@whip"))
    measurements = [
        (Measurement(place=whip), 231.0),
        (Measurement(place=Around(leg="L1", part="whip")), 16.0),
        (
            Measurement(place=whip, meter=MeterMode.OHM, open_switches=OPEN),
            4.0,
        ),
    ]
    for count in (3, 30):
        readings = [
            Reading(
                id=f"r{i}",
                measurement=measurements[i % 3][0],
                value=measurements[i % 3][1],
                unit=measurements[i % 3][0].unit,
            )
            for i in range(count)
        ]
        diagnose(Job(circuit=circuit, readings=tuple(readings), scope=Scope(panel_may_be_opened=True)))


if __name__ == "__main__":
    compile_core()
