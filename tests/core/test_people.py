"""How far each may be sent, and by whom: whatever the roles, grants and scopes."""

from itertools import product
from uuid import uuid4

import pytest

from zesty_copper.core.diagnosis.model.job import Scope, Way
from zesty_copper.core.errors import NotAllowed
from zesty_copper.core.people import Person, Role, check_scope, narrowed
from zesty_copper.service.log_words import words_of

SCOPES = [Scope(panel_may_be_opened=a, panel_volts_only=b) for a, b in product((False, True), repeat=2)]
PEOPLE = [Person(id=uuid4(), name="Any", role=role, may_open_panels=may) for role in Role for may in (False, True)]


def reach(scope: Scope) -> int:
    """How far into the panel: not at all, volts alone, or all."""
    return 2 if scope.panel_may_be_opened else int(scope.panel_volts_only)


@pytest.mark.parametrize("person", PEOPLE, ids=lambda one: f"{one.role} {one.may_open_panels}")
def test_nobody_goes_further_into_the_panel_than_was_granted(person: Person) -> None:
    for before, after in product([None, *SCOPES], SCOPES):
        goes_further = reach(after) > (reach(before) if before else 0)
        if goes_further and not person.may_open_panels and person.role is not Role.LEAD:
            with pytest.raises(NotAllowed):
                check_scope(person, before, after)
        else:
            check_scope(person, before, after)
    for scope in SCOPES:
        seen = narrowed(scope.model_copy(update={"way": Way.UNIT_BACK}), person)
        at_the_panel = person.role in (Role.TECHNICIAN, Role.ELECTRICIAN)
        assert reach(seen) == (0 if at_the_panel and not person.may_open_panels else reach(scope))
        assert seen.way is Way.UNIT_BACK


@pytest.mark.parametrize(
    ("what", "before", "after", "words"),
    [
        ("person.role", "technician", "read_only", "role: technician → read only"),
        ("person.may_open_panels", False, True, "panel work granted"),
        ("person.is_active", True, False, "no longer let in"),
        ("call.people", ["a"], ["b", "c"], "shared with 2 more, no longer with 1"),
        (
            "call.scope",
            {"way": "fewest"},
            {"way": "fewest", "panel_volts_only": True},
            "volts only in the panel: – → yes",
        ),
        (
            "call.circuit",
            {"parts": [{"id": "a", "name": "whip"}, {"id": "b", "name": "fuse"}]},
            {"parts": [{"id": "a", "name": "whip", "length_m": 2}, {"id": "c", "name": "splice"}]},
            "circuit: + splice, − fuse, whip changed",
        ),
        (
            "call.ratings",
            None,
            {"sheets": {"supply": {}}, "kept": [1]},
            "ratings: sheet of the supply, calculation kept",
        ),
        ("something.else", 1, 2, "something.else"),
    ],
)
def test_the_log_says_in_words_what_was_changed(what: str, before: object, after: object, words: str) -> None:
    assert words_of(what, before, after) == words
