"""Changing a circuit part by part: whatever is put in and taken out again, the rest stays as it was."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zesty_copper.core.circuit.editing import (
    Add,
    AddSupply,
    Change,
    ChangeSwitch,
    Copy,
    Edit,
    Insert,
    Move,
    Remove,
    edited,
)
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part, Switch, Zone
from zesty_copper.core.circuit.parts.catalogue import PartRole, catalogue
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
        (Remove(part="supply", whole=True), "supply cannot be taken out"),
        (Move(part="supply", behind="whip"), "A supply stays where it is"),
        (Move(part="whip", behind="contactor"), "cannot hang on what hangs on it"),
        (Copy(part="contactor", behind="compressor"), "Nothing can hang on the compressor"),
        (Insert(behind="compressor", part=SPLICE), "Nothing can hang on the compressor"),
    ],
)
def test_what_could_not_be_a_circuit_is_refused_in_one_sentence(edit: Edit, says: str) -> None:
    with pytest.raises(BadInput, match=says) as caught:
        edited(CONDENSER, edit)
    assert caught.value.message.count(". ") == 0


FURNACE = ready_made()["electric_furnace"]


def test_a_branch_is_copied_with_its_switch_and_taken_out_whole() -> None:
    """A third bank of heat beside two: its own sequencer, limit, fuse link and element, moved by the second's coil."""
    three = edited(FURNACE, Copy(part="sequencer_2", behind="unit_breaker"))
    new = [part for part in three.parts if part.id not in {one.id for one in FURNACE.parts}]
    assert [(part.id, part.name, three.feed(part).id) for part in new] == [
        ("sequencer_3", "sequencer 3", "unit_breaker"),
        ("limit_3", "limit 3", "sequencer_3"),
        ("link_3", "thermal fuse 3", "limit_3"),
        ("element_3", "element 3", "link_3"),
    ]
    (bank,) = [switch for switch in three.switches if switch.id == new[0].switch]
    assert (bank.id, bank.name, bank.coil) == ("bank_3", "Sequencer 3", "heater_2")
    coil = edited(three, Copy(part="heater_2", behind="thermostat", whole=False))
    linked = edited(coil, ChangeSwitch(switch=bank.model_copy(update={"coil": "heater_3"})))
    assert next(one for one in linked.switches if one.id == "bank_3").coil == "heater_3"
    unlinked = edited(linked, Remove(part="heater_3"))
    assert next(one for one in unlinked.switches if one.id == "bank_3").coil is None, "then a hand moves it"
    assert edited(three, Remove(part="sequencer_3", whole=True)) == edited(FURNACE, Change(part=FURNACE.parts[0]))


def test_a_branch_moves_with_all_that_hangs_on_it_and_a_part_alone() -> None:
    """The blower's relay hung behind the second sequencer's limit; then a limit alone moved to the other bank."""
    moved = edited(FURNACE, Move(part="blower_relay", behind="limit_1"))
    assert [part.id for part in moved.path(moved.part("blower"))][-3:] == ["limit_1", "blower_relay", "blower"]
    alone = edited(FURNACE, Move(part="limit_2", behind="limit_1", whole=False))
    assert alone.feed(alone.part("link_2")).id == "sequencer_2"
    assert [alone.feed(alone.part(one)).id for one in ("limit_2", "link_1")] == ["limit_1", "limit_2"]


def test_a_control_circuit_and_a_second_supply_are_built_from_kinds_alone() -> None:
    """Transformer, thermostat and coil as they usually stand; the contactor then follows the coil."""
    whip, contactor = "whip", CONDENSER.switches[-1]
    circuit = edited(CONDENSER, Add(behind=whip, kind="control_transformer"))
    circuit = edited(circuit, Add(behind="control_transformer", kind="thermostat"))
    circuit = edited(circuit, Add(behind="thermostat", kind="safety"))
    circuit = edited(circuit, Add(behind="safety", kind="coil"))
    circuit = edited(circuit, ChangeSwitch(switch=contactor.model_copy(update={"coil": "coil"})))
    assert [part.id for part in circuit.path(circuit.part("coil"))][-4:] == [
        "control_transformer",
        "thermostat",
        "safety",
        "coil",
    ]
    assert circuit.lanes_of(circuit.part("coil")) == ("Y", "C")
    assert circuit.feed(circuit.part("contactor")).id == whip, "a transformer takes nothing over"
    assert contactor.id not in {switch.id for switch in circuit.by_hand}
    assert {switch.id for switch in circuit.by_hand} == {"breaker", "disconnect", "thermostat"}
    further = edited(circuit, AddSupply(system="two_wire_120"))
    further = edited(further, Add(behind="supply_2", kind="motor"))
    assert further.root(further.part("motor")).id == "supply_2"
    assert further.lanes_of(further.part("motor")) == ("L1", "N")
    assert edited(further, Remove(part="supply_2", whole=True)) == circuit
    with pytest.raises(BadInput, match="supply cannot be taken out"):
        edited(further, Remove(part="supply_2"))


@pytest.mark.parametrize("kind", [kind for kind, one in catalogue().items() if one.role is not PartRole.SOURCE])
def test_every_kind_of_part_can_be_put_in_somewhere_as_it_usually_stands(kind: str) -> None:
    """Behind the run of each supply system, behind a capacitor, or on a secondary: somewhere it makes a circuit."""
    made = []
    for circuit, behind in (("rooftop_208", "whip"), ("heat_pump", "run_capacitor"), ("heat_pump", "thermostat")):
        try:
            made.append(edited(ready_made()[circuit], Add(behind=behind, kind=kind, beside=True)))
        except BadInput:
            continue  # as a start lead where none runs
    assert made
    for one in made:
        volts_of(one)


@settings(max_examples=60, deadline=None)
@given(st.data())
def test_whatever_is_moved_or_copied_there_is_a_circuit_or_one_sentence(data: st.DataObject) -> None:
    circuit = ready_made()[data.draw(st.sampled_from(list(ready_made())))]
    part, behind = (data.draw(st.sampled_from(circuit.parts)).id for _ in range(2))
    whole = data.draw(st.booleans())
    edit = data.draw(st.sampled_from([Move, Copy]))(part=part, behind=behind, whole=whole)
    try:
        changed = edited(circuit, edit)
    except BadInput:
        return  # a sentence, by its type: see above
    assert len(changed.parts) >= len(circuit.parts)
    volts_of(changed)
