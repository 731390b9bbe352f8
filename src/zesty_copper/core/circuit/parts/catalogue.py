"""The catalogue of part kinds, read from `parts.toml`."""

import tomllib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from enum import StrEnum
from functools import cache
from importlib.resources import files
from types import MappingProxyType
from typing import Literal

from pydantic import Field

from zesty_copper.core.circuit.parts.delay import AT_ONCE, Delay
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.words import say

__all__ = ["FailureMode", "PartEntry", "PartRole", "ShuntModel", "catalogue", "entry", "further_kinds"]


class PartRole(StrEnum):
    """What a part does in the network."""

    SOURCE = "source"
    SERIES = "series"
    SHUNT = "shunt"
    TRANSFORMER = "transformer"


class ShuntModel(StrEnum):
    """How a shunt part is wired inside."""

    ELEMENT = "element"
    INDUCTION = "induction"
    SPLIT_PHASE = "split_phase"


class FailureMode(StrEnum):
    """What may happen to a part besides failing as all of its role do."""

    WELD = "weld"
    STALL = "stall"
    GROUND = "ground"
    SHORT = "short"


class PartEntry(Frozen):
    """What every part of one kind has in common; the fields are explained in the head of `parts.toml`."""

    role: PartRole
    label: str
    point: str = ""
    resistance_mohm: float | None = Field(default=None, ge=1.0)
    gap_pf: float = Field(default=5.0, gt=0)
    clampable: bool = False
    capacitive: bool = False
    electronic: bool = False
    heats: bool = False
    turns: bool = False
    compresses: bool = False
    blows: bool = False
    stages: bool = False
    calls: bool = False
    stands_in: Literal["", "thermostat"] = ""
    moves_contacts: bool = False
    power_contacts: bool = False
    joins_wires: bool = False
    set_screw: bool = False
    discharge: Literal["", "resistor", "waiting"] = ""
    grounding: bool = False
    overcurrent: bool = False
    touches_box: bool = False
    moved_by: Literal["call", "hand"] = "hand"
    one_pole: bool = False
    by_coil: bool = False
    closes_after: Delay = AT_ONCE
    opens_after: Delay = AT_ONCE
    closed: str = "on"
    opened: str = "off"
    armature: bool = False
    load_mark: str = ""
    model: ShuntModel = ShuntModel.ELEMENT
    idle: bool = False
    elsewhere: bool = False
    may: tuple[FailureMode, ...] = ()
    weight: float = Field(ge=0)
    way: str = ""
    not_closed: float | None = Field(default=None, gt=0, lt=1)
    say_not_closed: str = "The {name} is not closed"
    advice: str = ""
    say_open: str
    say_resistive: str = ""
    say_intermittent: str = ""

    @property
    def is_fuse(self) -> bool:
        """Whether too much current makes it open, once."""
        return self.overcurrent and self.blows

    @property
    def is_heat(self) -> bool:
        """Whether it is heat that is called for."""
        return self.heats and not self.idle

    @property
    def is_run_capacitor(self) -> bool:
        """Whether it shifts the current of what is behind it."""
        return self.capacitive and self.role is PartRole.SERIES

    @property
    def is_switch(self) -> bool:
        """Whether parts of this kind are there to open and close."""
        return self.not_closed is not None


def _read(text: str) -> dict[str, PartEntry]:
    return {kind: PartEntry.model_validate(row) for kind, row in tomllib.loads(text).items()}


@cache
def _shipped() -> Mapping[str, PartEntry]:
    return MappingProxyType(_read(files(__package__).joinpath("parts.toml").read_text("utf-8")))


_further: ContextVar[Mapping[str, PartEntry] | None] = ContextVar("further_kinds", default=None)


def catalogue() -> Mapping[str, PartEntry]:
    """Every kind of part, by its name."""
    further = _further.get()
    return _shipped() if further is None else MappingProxyType({**_shipped(), **further})


@contextmanager
def further_kinds(text: str) -> Iterator[None]:
    """Know further kinds of part for a while, told as entries like those of `parts.toml`."""
    token = _further.set(_read(text))
    try:
        yield
    finally:
        _further.reset(token)


def entry(kind: str) -> PartEntry:
    """Return the catalogue entry of a kind.

    Raises
    ------
    BadInput
        If the catalogue has no such kind.
    """
    try:
        return catalogue()[kind]
    except KeyError:
        kind_names = ", ".join(catalogue())
        raise BadInput(say("circuit.no_such_kind", kind=kind, known=kind_names), "circuit.parts") from None
