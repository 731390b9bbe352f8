"""What a line of the log says, in words."""

from collections.abc import Callable, Mapping
from typing import Any

__all__ = ["words_of"]

_FIXED = {
    "person.added": "added to the people",
    "person.password": "chose a password",
    "person.link": "given a link to choose a password",
    "person.signed_in": "signed in",
    "person.refused": "gave a wrong password",
    "site.feeds": "map of what feeds what changed",
    "call.technician_id": "given to another technician",
    "call.starts_at": "moved to another time",
}
_FIELDS = {
    "panel_may_be_opened": "panel may be opened",
    "panel_volts_only": "volts only in the panel",
    "way": "order of work",
    "tools": "at hand",
    "role": "role",
    "name": "name",
    "address": "address",
    "complaint": "complaint",
    "status": "marked",
    "visit": "visit",
}


def words_of(what: str, before: Any, after: Any) -> str:
    """Say what was changed; `before` and `after` are what was stored, as JSON has it."""
    if what in _FIXED:
        return _FIXED[what]
    say_change = _SAID.get(what)
    return say_change(before, after) if say_change else what


def _granted(_: Any, after: Any) -> str:
    return "panel work granted" if after else "panel work taken back"


def _let_in(_: Any, after: Any) -> str:
    return "let in again" if after else "no longer let in"


def _deleted(_: Any, after: Any) -> str:
    return "taken off the list" if after else "put back on the list"


def _value(value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        return ", ".join(map(str, value)) or "none"
    return str(value).replace("_", " ")


def _from_to(name: str, before: Any, after: Any) -> str:
    return f"{_FIELDS.get(name, name.replace('_', ' '))}: {_value(before)} → {_value(after)}"


def _scope(before: Mapping[str, Any], after: Mapping[str, Any]) -> str:
    changed = [name for name in after if before.get(name) != after[name]]
    return "; ".join(_from_to(name, before.get(name, "–"), after[name]) for name in changed)


def _circuit(before: Mapping[str, Any], after: Mapping[str, Any]) -> str:
    """Which parts came, went or were changed; else that the rest of the circuit was."""
    parts = [{part["id"]: part for part in _all_parts(circuit)} for circuit in (before, after)]
    was, now = parts
    changes = [f"+ {now[key]['name']}" for key in now if key not in was]
    changes += [f"− {was[key]['name']}" for key in was if key not in now]
    changes += [f"{now[key]['name']} changed" for key in now if key in was and now[key] != was[key]]
    return f"circuit: {', '.join(changes)}" if changes else "circuit changed"


def _all_parts(circuit: Mapping[str, Any]) -> list[dict[str, Any]]:
    lists = [value for value in circuit.values() if isinstance(value, list)]
    return [part for some in lists for part in some if isinstance(part, dict) and "id" in part and "name" in part]


def _ratings(before: Mapping[str, Any] | None, after: Mapping[str, Any]) -> str:
    was: Mapping[str, Any] = before or {}
    sheets = [
        source
        for source in {**was.get("sheets", {}), **after.get("sheets", {})}
        if was.get("sheets", {}).get(source) != after.get("sheets", {}).get(source)
    ]
    changes = [f"sheet of the {source.replace('_', ' ')}" for source in sheets]
    sums_kept = len(after.get("kept", ())) - len(was.get("kept", ()))
    if sums_kept:
        changes.append("calculation kept" if sums_kept > 0 else "calculation taken out")
    return f"ratings: {', '.join(changes)}" if changes else "ratings changed"


def _people(before: list[str], after: list[str]) -> str:
    joined, fewer = len(set(after) - set(before)), len(set(before) - set(after))
    changes = [f"shared with {joined} more" if joined else "", f"no longer with {fewer}" if fewer else ""]
    return ", ".join(filter(None, changes))


_SAID: dict[str, Callable[[Any, Any], str]] = {
    "person.role": lambda before, after: _from_to("role", before, after),
    "person.name": lambda before, after: _from_to("name", before, after),
    "person.may_open_panels": _granted,
    "person.is_active": _let_in,
    "site.name": lambda before, after: _from_to("name", before, after),
    "site.address": lambda before, after: _from_to("address", before, after),
    "equipment.name": lambda before, after: _from_to("name", before, after),
    "call.complaint": lambda before, after: _from_to("complaint", before, after),
    "call.status": lambda before, after: _from_to("status", before, after),
    "call.visit": lambda before, after: _from_to("visit", before, after),
    "call.load_test": lambda before, after: f"load test “{after}” begun" if after else f"load test “{before}” removed",
    "call.photo": lambda before, after: f"photo “{after}” added" if after else f"photo “{before}” removed",
    "call.deleted_at": _deleted,
    "call.scope": _scope,
    "call.circuit": _circuit,
    "equipment.circuit": _circuit,
    "call.ratings": _ratings,
    "call.repair": lambda _before, _after: "repair: choices and notes changed",
    "call.people": _people,
}
