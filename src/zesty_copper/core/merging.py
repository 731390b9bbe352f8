"""Changes of single fields, merged into what is stored: whoever changes one field never overwrites another."""

from collections.abc import Sequence
from typing import Annotated, Any

from pydantic import Field, JsonValue

from zesty_copper.core.errors import BadInput, Conflict
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.words import say

__all__ = ["FieldChange", "Step", "merged"]

Step = Annotated[str, Field(min_length=1, max_length=2000)]


class FieldChange(Frozen):
    """One field: what its sender saw there, and what it is now.

    The path goes through objects by key, through rows by their `id`, and through a list of texts by the text itself,
    which is `true` while it is in the list. `null` stands for what is not there.
    """

    path: tuple[Step, ...] = Field(min_length=1, max_length=4)
    was: JsonValue = None
    now: JsonValue = None


def merged(stored: dict[str, Any], changes: Sequence[FieldChange], *, anyway: bool = False) -> dict[str, Any]:
    """Return a JSON object with some of its fields changed; all others stay as they are stored.

    Parameters
    ----------
    stored
        A JSON object; it is not altered.
    anyway
        Whether a field is changed although it is no longer what the sender saw.

    Raises
    ------
    Conflict
        If a field is neither what its sender saw nor what it is to become; its path is named.
    BadInput
        If a path leads through something that has no fields.
    """
    whole: Any = stored
    for change in changes:
        whole = _changed(whole, change.path, change, anyway=anyway)
    return dict(whole)


def _changed(node: object, path: Sequence[str], change: FieldChange, *, anyway: bool) -> object:
    """A node with what lies at a path within it changed."""
    if not path:
        if not anyway and node not in (change.was, change.now):
            raise Conflict(say("repair.somebody_changed_field"), ".".join(change.path))
        return change.now
    key, deeper = path[0], path[1:]
    if node is None:
        node = [] if change.now is True and not deeper else {}
    if isinstance(node, dict):
        return _with(node, key, _changed(node.get(key), deeper, change, anyway=anyway))
    if not isinstance(node, list):
        raise BadInput(say("repair.field_has_no_parts"), ".".join(change.path))
    if not deeper and (change.now is True or change.was is True):
        changed = _changed(True if key in node else None, deeper, change, anyway=anyway)
        other_items = [item for item in node if item != key]
        return other_items if changed is None else node if key in node else [*other_items, key]
    at = next((i for i, row in enumerate(node) if isinstance(row, dict) and row.get("id") == key), len(node))
    row = _changed(node[at] if at < len(node) else None, deeper, change, anyway=anyway)
    return [*node[:at], *([] if row is None else [row]), *node[at + 1 :]]


def _with(node: dict[str, Any], key: str, value: object) -> dict[str, Any]:
    """An object with one key set, or without it where the value is none."""
    other_items = {name: item for name, item in node.items() if name != key}
    return other_items if value is None else {**other_items, key: value}
