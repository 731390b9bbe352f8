"""The catalogue of part kinds, read once from `parts.toml`."""

import tomllib
from collections.abc import Mapping
from enum import StrEnum
from functools import cache
from importlib.resources import files
from types import MappingProxyType

from pydantic import Field

from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen

__all__ = ["PartEntry", "Role", "catalogue", "entry"]


class Role(StrEnum):
    """What a part does in the network."""

    SOURCE = "source"
    SERIES = "series"
    SHUNT = "shunt"


class PartEntry(Frozen):
    """What every part of one kind has in common; the fields are explained in the head of `parts.toml`."""

    role: Role
    label: str
    point: str = ""
    resistance_mohm: float | None = Field(default=None, ge=1.0)
    gap_pf: float = Field(default=5.0, gt=0)
    clampable: bool = False
    open: str = ""
    resistive: str = ""
    intermittent: str = ""
    not_closed: str = ""


@cache
def catalogue() -> Mapping[str, PartEntry]:
    """Every kind of part, by its name."""
    table = tomllib.loads(files(__package__).joinpath("parts.toml").read_text("utf-8"))
    return MappingProxyType({kind: PartEntry.model_validate(row) for kind, row in table.items()})


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
        known = ", ".join(catalogue())
        raise BadInput(f"No part of kind “{kind}” is known: use one of {known}.", "circuit.parts") from None
