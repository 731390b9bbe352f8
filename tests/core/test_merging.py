"""Changes of single fields, merged: others stay, one that somebody else changed is asked about."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import JsonValue

from zesty_copper.core.errors import BadInput, Conflict
from zesty_copper.core.merging import FieldChange, merged
from zesty_copper.core.repair.notes import RepairNotes, changed_notes
from zesty_copper.core.repair.proving.notes import Outcome


def change(*path: str, was: JsonValue = None, now: JsonValue = None) -> FieldChange:
    return FieldChange(path=path, was=was, now=now)


def test_two_who_change_different_fields_of_one_proof_both_keep_theirs() -> None:
    notes = changed_notes(RepairNotes(), [change("proof", "numbers", "volts:rest:L1:L2", now=241.5)])
    # Sent by somebody who saw neither number nor tick.
    notes = changed_notes(
        notes, [change("proof", "ticked", "last:covers", now=True), change("done", "Lock it", now=True)]
    )
    notes = changed_notes(notes, [change("proof", "mode", was="cooling", now="heat_pump")])
    assert notes.proof.numbers == {"volts:rest:L1:L2": 241.5}
    assert notes.proof.ticked == ("last:covers",)
    assert notes.proof.mode == "heat_pump"
    assert notes.done == ("Lock it",)


def test_a_field_that_somebody_else_changed_is_asked_about_unless_it_became_the_same() -> None:
    notes = changed_notes(RepairNotes(), [change("proof", "numbers", "a", now=5)])
    with pytest.raises(Conflict) as refused:
        changed_notes(notes, [change("proof", "numbers", "a", now=6)])
    assert refused.value.field == "proof.numbers.a"
    assert changed_notes(notes, [change("proof", "numbers", "a", now=5)]) == notes
    assert changed_notes(notes, [change("proof", "numbers", "a", now=6)], anyway=True).proof.numbers == {"a": 6}


def test_rows_are_changed_and_removed_by_their_identity() -> None:
    notes = RepairNotes.model_validate(
        {"orders": [{"words": "fuse"}, {"words": "lug"}], "put_back": [{"words": "marks"}]}
    )
    fuse, lug = notes.orders
    assert len({fuse.id, lug.id, ""}) == 3
    notes = changed_notes(notes, [change("orders", fuse.id, was=fuse.model_dump(mode="json"))])
    notes = changed_notes(notes, [change("orders", lug.id, "state", was="to_order", now="here")])
    assert [(row.words, row.state) for row in notes.orders] == [("lug", "here")]
    done = changed_notes(notes, [change("put_back", notes.put_back[0].id, "done", was=False, now=True)])
    assert done.put_back[0].done


def test_whatever_the_proof_rests_on_opens_it_again_and_nothing_else_does() -> None:
    proven = RepairNotes().model_copy(update={"proof": {"outcome": "proven", "numbers": {"a": 1}}})
    assert changed_notes(proven, [change("work_done", was="", now="Clip")]).proof.outcome is Outcome.PROVEN
    assert changed_notes(proven, [change("proof", "ticked", "b", now=True)]).proof.outcome is Outcome.OPEN
    assert changed_notes(proven, [change("proof", "numbers", "a", was=1)]).proof.outcome is Outcome.OPEN


def test_what_a_field_cannot_be_is_refused_by_its_name() -> None:
    for path, now in ((("proof", "numbers", "a"), "much"), (("quote",), "maybe"), (("nowhere",), 1)):
        with pytest.raises(BadInput) as refused:
            changed_notes(RepairNotes(), [FieldChange(path=path, was=None if path != ("quote",) else "none", now=now)])
        assert refused.value.field.startswith(path[0])
    with pytest.raises(BadInput):
        changed_notes(RepairNotes(), [change("work_done", "more", now="x")])


FIELDS = st.dictionaries(st.sampled_from("abcd"), st.one_of(st.integers(0, 3), st.text("xy", max_size=2)), max_size=4)


@given(FIELDS, FIELDS, FIELDS)
def test_changes_of_different_fields_commute(
    stored: dict[str, JsonValue], one: dict[str, JsonValue], other: dict[str, JsonValue]
) -> None:
    first = [change(key, was=stored.get(key), now=value) for key, value in one.items()]
    second = [change(key, was=stored.get(key), now=value) for key, value in other.items() if key not in one]
    assert merged(merged(stored, first), second) == merged(merged(stored, second), first) == stored | other | one
