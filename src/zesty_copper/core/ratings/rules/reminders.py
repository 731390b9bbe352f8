"""What to look at beside the ratings, and what no rule here judges; read once from `reminders.toml`."""

import tomllib
from functools import cache
from importlib.resources import files

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.ratings.inputs.sheet import Edition

__all__ = ["NotJudged", "Reminder", "not_judged", "reminders"]


class Reminder(Frozen):
    """Something that the code asks around the equipment."""

    title: str
    words: str
    clause: str


class NotJudged(Frozen):
    """Something that no rule here covers."""

    what: str
    clause: str


class _ReminderRow(Frozen):
    title: str
    words: str
    clause: dict[Edition, str]


class _File(Frozen):
    reminders: tuple[_ReminderRow, ...]
    not_judged: tuple[NotJudged, ...]


@cache
def _read() -> _File:
    text = files(__package__).joinpath("reminders.toml").read_text("utf-8")
    return _File.model_validate(tomllib.loads(text))


def reminders(edition: Edition) -> tuple[Reminder, ...]:
    """What an edition of the code asks around the equipment."""
    return tuple(
        Reminder(title=reminder.title, words=reminder.words, clause=reminder.clause[edition])
        for reminder in _read().reminders
        if reminder.clause[edition]
    )


def not_judged() -> tuple[NotJudged, ...]:
    """Everything that no rule covers, with its clause."""
    return _read().not_judged
