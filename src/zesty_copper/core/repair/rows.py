"""The tables of the repair: what is done about what, where practitioners differ, what else may be harmed."""

import tomllib
from enum import StrEnum
from functools import cache
from importlib.resources import files
from typing import Any, Self

from pydantic import Field, model_validator

from zesty_copper.core.circuit.parts.catalogue import catalogue
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.signs import signs
from zesty_copper.core.frozen import Frozen

__all__ = [
    "Ask",
    "By",
    "Decision",
    "Harm",
    "Plain",
    "Question",
    "Replaced",
    "SchoolWay",
    "decisions",
    "harms",
    "plains",
    "questions",
]


class By(StrEnum):
    """Who may do a repair."""

    VISITOR = "visitor"
    ELECTRICIAN = "electrician"


class Ask(StrEnum):
    """What has to be said before a way is chosen that is not the usual one."""

    REASON = "reason"
    TAGS = "tags"
    BREAKER_LOCK = "breaker_lock"
    RETURN = "return"


class Replaced(StrEnum):
    """What has to be matched."""

    DISCONNECT = "disconnect"
    FUSE = "fuse"
    BREAKER = "breaker"
    CONTACTOR = "contactor"
    CONTROL = "control"
    ELEMENT = "element"
    MOTOR = "motor"
    CAPACITOR = "capacitor"
    TRANSFORMER = "transformer"
    WIRE = "wire"
    TERMINAL = "terminal"
    CONNECTOR = "connector"


class SchoolWay(Frozen):
    """One school's answer to a question."""

    key: str
    words: str
    when: str = Field(description="the condition under which it may be chosen")
    asks: tuple[Ask, ...] = ()


class Question(Frozen):
    """What practitioners settle in different ways; the first way is the usual one."""

    key: str
    asked: str
    why: str = Field(description="why the first way is the usual one")
    ways: tuple[SchoolWay, ...] = Field(min_length=2)

    def way(self, key: str) -> SchoolWay | None:
        """Return one of its ways; none where it has no such."""
        return next((each_way for each_way in self.ways if each_way.key == key), None)


class Decision(Frozen):
    """What is done about a fault, or about damage that is seen."""

    parts: tuple[str, ...] = ()
    faults: tuple[FaultKind, ...] = ()
    marks: tuple[str, ...] = ()
    does: str
    why: str
    never: str = ""
    by: By = By.VISITOR
    replaces: tuple[Replaced, ...] = ()
    inspects: tuple[str, ...] = ()
    question: str = ""

    @model_validator(mode="after")
    def _check(self) -> Self:
        unknown = [part for part in self.parts if part not in catalogue()] + [m for m in self.marks if m not in signs()]
        if unknown:
            raise ValueError(f"decisions.toml: {', '.join(unknown)} is no part and no sign.")
        return self


class Harm(Frozen):
    """What a fault may have hurt besides."""

    faults: tuple[FaultKind, ...]
    three_phase: bool = Field(default=False, description="only where it takes a leg from a three-phase motor")
    checks: tuple[str, ...]


class Plain(Frozen):
    """What a fault is called on the customer's page."""

    found: str
    meant: str


def _read(name: str) -> dict[str, Any]:
    return tomllib.loads(files(__package__).joinpath(name).read_text("utf-8"))


@cache
def decisions() -> tuple[Decision, ...]:
    """Every row of `decisions.toml`, the first that fits counts."""
    return tuple(Decision.model_validate(row) for row in _read("decisions.toml")["decision"])


@cache
def questions() -> dict[str, Question]:
    """Every question of `schools.toml` by its key."""
    return {key: Question.model_validate({"key": key, **row}) for key, row in _read("schools.toml").items()}


@cache
def harms() -> tuple[Harm, ...]:
    """Every row of `harm.toml`."""
    return tuple(Harm.model_validate(row) for row in _read("harm.toml")["harm"])


@cache
def plains() -> dict[FaultKind, Plain]:
    """Every row of `plain.toml` by its kind of fault."""
    return {FaultKind(kind): Plain.model_validate(row) for kind, row in _read("plain.toml").items()}
