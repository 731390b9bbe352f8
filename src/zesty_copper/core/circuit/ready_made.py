"""Ready-made circuits, read once from `ready_made.json`."""

import json
from collections.abc import Mapping
from functools import cache
from importlib.resources import files
from types import MappingProxyType

from zesty_copper.core.circuit.model import Circuit

__all__ = ["ready_made"]


@cache
def ready_made() -> Mapping[str, Circuit]:
    """Every ready-made circuit, by its key."""
    table = json.loads(files(__package__).joinpath("ready_made.json").read_text("utf-8"))
    return MappingProxyType({key: Circuit.model_validate(row) for key, row in table.items()})
