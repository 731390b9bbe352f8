"""Ready-made circuits, read once from `ready_made.json`."""

import json
from collections.abc import Mapping
from enum import StrEnum
from functools import cache
from importlib.resources import files
from types import MappingProxyType

from pydantic import Field

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.frozen import Frozen

__all__ = ["Family", "ReadyMadeUnit", "ready_made", "ready_made_equipment"]


class Family(StrEnum):
    """What stands at the end of a ready-made circuit, as a technician calls it."""

    CONDENSER = "condenser"
    HEAT_PUMP = "heat_pump"
    ROOFTOP = "rooftop"
    PACKAGED = "packaged"
    FURNACE = "furnace"
    HEAT_STRIP = "heat_strip"
    GAS_FURNACE = "gas_furnace"
    FAN_COIL = "fan_coil"
    WALL_UNIT = "wall_unit"
    DUCT_HEATER = "duct_heater"
    UNIT_HEATER = "unit_heater"
    AIR_HANDLER = "air_handler"
    MINI_SPLIT = "mini_split"
    POOL_HEAT_PUMP = "pool_heat_pump"

    @property
    def label(self) -> str:
        """The family's name."""
        return self.value.replace("_", " ").capitalize()


class ReadyMadeUnit(Frozen):
    """Ready-made equipment: its circuit, and what it is."""

    family: Family
    circuit: Circuit = Field(description="with one supply or more")


@cache
def ready_made_equipment() -> Mapping[str, ReadyMadeUnit]:
    """All ready-made equipment, by its key."""
    table = json.loads(files(__package__).joinpath("ready_made.json").read_text("utf-8"))
    return MappingProxyType({key: ReadyMadeUnit(family=row.pop("family"), circuit=row) for key, row in table.items()})


@cache
def ready_made() -> Mapping[str, Circuit]:
    """Every ready-made circuit, by its key."""
    return MappingProxyType({key: equipment.circuit for key, equipment in ready_made_equipment().items()})
