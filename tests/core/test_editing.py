"""Changing a circuit part by part: whatever is put in and taken out again, the rest stays as it was."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zesty_copper.core.circuit.editing import Change, Insert, Remove, edited
from zesty_copper.core.circuit.model import Circuit, Part, Switch, Zone
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.errors import BadInput
from zesty_copper.core.network.netlist import build_netlist
from zesty_copper.core.network.solve import nominal, solve

CONDENSER = ready_made()["condenser_fused"]
SPLICE = Part(id="new_splice", kind="splice", name="splice", zone=Zone.DISCONNECT)


def volts_of(circuit: Circuit) -> dict[str, complex]:
    """Every point's voltage, all closed."""
    netlist = build_netlist(circuit)
    unknowns = solve(netlist, nominal(), frozenset()).unknowns.sum(axis=0)[0]
    return {point: complex(unknowns[row]) for point, row in netlist.nodes.items()}


@settings(max_examples=40, deadline=None)
@given(st.data())
def test_a_part_put_in_anywhere_carries_what_hung_there_and_leaves_no_trace_when_taken_out(data: st.DataObject) -> None:
    circuit = ready_made()[data.draw(st.sampled_from(list(ready_made())))]
    behind = data.draw(st.sampled_from([part for part in circuit.series if not part.winding]))
    longer = edited(circuit, Insert(behind=behind.id, part=SPLICE))
    hanging = {part.id for part in circuit.parts if circuit.feed(part) == behind and part != behind}
    assert {part.id for part in longer.parts if longer.feed(part).id == "new_splice"} - {"new_splice"} == hanging
    before, after = volts_of(circuit), volts_of(longer)
    # A good splice changes next to nothing, anywhere.
    assert all(abs(after[point] - volts) < 0.5 for point, volts in before.items())
    again = edited(longer, Remove(part="new_splice"))
    assert [part.id for part in again.parts] == [part.id for part in circuit.parts]
    np.testing.assert_allclose(list(volts_of(again).values()), list(before.values()), atol=1e-9)


def test_a_part_that_switches_brings_its_switch_and_takes_it_away() -> None:
    door = Part(id="door", kind="blade", name="door switch", zone=Zone.UNIT, lanes=("L1",), switch="door")
    switch = Switch(id="door", name="Door switch", closed="shut", open="open")
    longer = edited(CONDENSER, Insert(behind="whip", part=door, switch=switch))
    assert switch in longer.by_hand
    assert edited(longer, Remove(part="door")).switches == CONDENSER.switches


def test_resizing_keeps_the_place() -> None:
    whip = CONDENSER.part("whip")
    assert whip.conductor is not None
    longer = whip.model_copy(update={"conductor": whip.conductor.model_copy(update={"length_m": 30.0}), "after": None})
    changed = edited(CONDENSER, Change(part=longer))
    assert changed.feed(changed.part("whip")).id == "load_lug"
    assert abs(volts_of(changed)["L1@whip"]) < abs(volts_of(CONDENSER)["L1@whip"])


@pytest.mark.parametrize(
    ("edit", "says"),
    [
        (Remove(part="supply"), "supply cannot be taken out"),
        (Remove(part="nothing"), "no part “nothing”"),
        (Insert(behind="whip", part=SPLICE.model_copy(update={"lanes": ("L3",)})), "on L3, which does not reach it"),
        (Insert(behind="whip", part=SPLICE.model_copy(update={"id": "fuse"})), "share one id"),
        (Insert(behind="compressor", part=SPLICE), "must stand before it"),
    ],
)
def test_what_could_not_be_a_circuit_is_refused_in_one_sentence(edit: Insert | Remove, says: str) -> None:
    with pytest.raises(BadInput, match=says) as caught:
        edited(CONDENSER, edit)
    assert caught.value.message.count(". ") == 0
