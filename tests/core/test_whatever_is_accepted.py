"""Whatever circuit is taken in can be drawn, rated, diagnosed and written to a file."""

from typing import Any

import hypothesis.strategies as st
from hypothesis import given, settings
from pydantic import ValidationError

from zesty_copper.core.circuit.model import MOST_PARTS, Circuit
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.observations.strip import strip_of
from zesty_copper.core.ratings.inputs.from_circuit import sheets_of
from zesty_copper.core.ratings.rules.check import check
from zesty_copper.core.ratings.sizing.sizes import what_it_may_carry, what_matches, what_should_be_there
from zesty_copper.core.ratings.sizing.staircase import staircase
from zesty_copper.files.job_file import read_job, write_job

LOADS = st.fixed_dictionaries(
    {
        "rated_volts": st.sampled_from([1e-3, 1.0, 24.0, 240.0, 1000.0]),
        "rated_amps": st.sampled_from([1e-3, 0.1, 30.0, 1000.0]),
        "power_factor": st.sampled_from([1e-3, 0.7, 1.0]),
    }
)
CONDUCTORS = st.fixed_dictionaries(
    {
        "size_awg": st.sampled_from([-3, 0, 10, 18]),
        "metal": st.sampled_from(["copper", "aluminium"]),
        "length_m": st.sampled_from([1e-3, 20.0, 500.0]),
    }
)


@st.composite
def circuits(draw: st.DrawFn, most_parts: int = MOST_PARTS) -> Circuit:
    """Ready-made circuits with parts many times over and every number at its ends, as far as a circuit takes them."""
    circuit = draw(st.sampled_from(list(ready_made().values())))
    told: dict[str, Any] = circuit.model_dump(mode="json")
    parts: list[dict[str, Any]] = []
    for part, plain in zip(circuit.parts, told["parts"], strict=True):
        changed = dict(plain)
        if part.load is not None and draw(st.booleans()):
            changed["load"] = draw(LOADS)
        if part.conductor is not None and draw(st.booleans()):
            changed["conductor"] = draw(CONDUCTORS)
        if part.rating_amps is not None:
            changed["rating_amps"] = draw(st.sampled_from([0.001, 20.0, 1000.0]))
        changed["name"] = draw(st.sampled_from([part.name, "x" * 60]))
        parts.append(changed)
        if part.entry.role is PartRole.SOURCE:
            continue
        after = part.after or circuit.feed(part).id
        for i in range(draw(st.sampled_from([0, 0, 0, 0, 1, 50]))):
            # Each load again beside the first; what carries current on, again behind itself.
            behind = after if part.entry.role is PartRole.SHUNT else f"{part.id}_{i}" if i else part.id
            parts.append(changed | {"id": f"{part.id}_{i + 1}", "after": behind})
    try:
        return Circuit.model_validate(told | {"parts": parts[:most_parts]})
    except ValidationError:
        return circuit


@given(circuits())
@settings(max_examples=60)
def test_it_is_drawn_rated_and_written(circuit: Circuit) -> None:
    assert strip_of(circuit).sections
    for sheet in sheets_of(circuit).values():
        assert check(sheet)
        for sized in (what_should_be_there, what_it_may_carry, what_matches):
            sized(sheet)
    staircase(circuit, ())
    assert read_job(write_job(Job(circuit=circuit))).circuit == circuit


@given(circuits(most_parts=60))
@settings(max_examples=8)
def test_it_is_diagnosed(circuit: Circuit) -> None:
    diagnosis = diagnose(Job(circuit=circuit))
    assert abs(sum(suspect.probability for suspect in diagnosis.suspects) - 1) < 0.05
    assert diagnosis.next_test is not None
