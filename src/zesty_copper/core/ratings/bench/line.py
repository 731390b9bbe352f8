"""One line of the bench: what is filled in, what comes out, and how a calculation takes its place among them."""

from collections.abc import Callable, Mapping
from enum import StrEnum
from typing import Literal

from pydantic import Field

from zesty_copper.core.circuit.parts.conductor import gauge_words
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.ratings.inputs.as_written import (
    celsius_from,
    gauge_from,
    insulation_from,
    metal_from,
    raceway_from,
)
from zesty_copper.core.ratings.worked import Worked, number
from zesty_copper.core.words import say

__all__ = [
    "BenchAnswer",
    "BenchField",
    "BenchTool",
    "Values",
    "Written",
    "bench_of",
    "may_be_empty",
    "number_field",
    "tool",
    "tools",
]

Values = Mapping[str, float | str]


class Written(StrEnum):
    """Choices that people write in more ways than one."""

    GAUGE = "gauge"
    METAL = "metal"
    RACEWAY = "raceway"
    INSULATION = "insulation"


class BenchField(Frozen):
    """One thing to fill in: a number with its unit, or one of some choices."""

    key: str
    label: str
    unit: str = ""
    choices: tuple[str, ...] = Field(default=(), description="of a choice, not a number")
    usual: float | str | None = Field(default=None, description="what stands there at first")
    least: float = 0.0
    most: float = 1e6
    may_be_empty: bool = False
    written: Written | None = Field(default=None, description="what people write for it, read before it is checked")


class BenchAnswer(Frozen):
    """What comes out."""

    words: str
    worked: Worked
    tone: Literal["plain", "good", "doubtful", "bad"] = "plain"


class BenchTool(Frozen):
    """One line of the bench."""

    key: str
    label: str
    group: str
    fields: tuple[BenchField, ...]
    source: str


_Work = Callable[[Values], BenchAnswer]
_TOOLS: dict[str, tuple[BenchTool, _Work]] = {}


def tool(key: str, label: str, group: str, source: str, *fields: BenchField) -> Callable[[_Work], _Work]:
    """Put a calculation on the bench."""

    def put(work: _Work) -> _Work:
        _TOOLS[key] = (BenchTool(key=key, label=label, group=group, fields=fields, source=source), work)
        return work

    return put


def tools() -> tuple[BenchTool, ...]:
    """Every calculation there is."""
    return tuple(tool for tool, _ in _TOOLS.values())


def bench_of(key: str, told: Mapping[str, float | str | None]) -> BenchAnswer:
    """Do one calculation; its values carry their units.

    Raises
    ------
    BadInput
        If there is no such calculation, something is not filled in, or lies out of range.
    """
    if key not in _TOOLS:
        raise BadInput(say("ratings.there_no_such_calculation"), "key")
    tool, work = _TOOLS[key]
    values: dict[str, float | str] = {}
    for field in tool.fields:
        value = told.get(field.key)
        if value is None or value == "":
            if field.may_be_empty:
                continue
            raise BadInput(f"Fill in: {field.label}.", field.key)
        values[field.key] = _checked(field, value)
    return work(values)


def _as_written(written: Written, value: float | str) -> object:
    match written:
        case Written.GAUGE:
            size = gauge_from(int(value) if isinstance(value, float) and value == int(value) else value)
            return gauge_words(size) if isinstance(size, int) else size
        case Written.METAL:
            return metal_from(value)
        case Written.RACEWAY:
            return raceway_from(value)
        case Written.INSULATION:
            return insulation_from(value)


def _with_unit(field: BenchField, value: float | str) -> float | str:
    """Read a number that was written with its unit: 122 °F, 65 ft, 20 A."""
    text = str(value).strip()
    if field.unit == "°F" and text.upper().endswith("C"):
        celsius = celsius_from(text)
        return round(float(celsius) * 1.8 + 32, 2) if isinstance(celsius, float) else value
    bare = text.removesuffix(field.unit).rstrip(" °").replace(",", ".") if field.unit else text
    try:
        return float(bare)
    except ValueError:
        return value


def _checked(field: BenchField, value: float | str) -> float | str:
    if field.written is not None:
        try:
            value = str(_as_written(field.written, value))
        except ValueError as error:
            raise BadInput(f"{field.label}: {error}", field.key) from None
    elif not field.choices and isinstance(value, str):
        value = _with_unit(field, value)
    if field.choices:
        if str(value) not in field.choices:
            raise BadInput(say("ratings.choose_one_of", label=field.label, choices=", ".join(field.choices)), field.key)
        return str(value)
    if isinstance(value, str) or not field.least <= value <= field.most:
        unit = f" {field.unit}" if field.unit else ""
        raise BadInput(
            say(
                "ratings.between_two_numbers",
                label=field.label,
                least=number(field.least),
                most=number(field.most),
                unit=unit,
            ),
            field.key,
        )
    return value


def number_field(
    key: str, label: str, unit: str, usual: float | None = None, *, least: float = 1e-6, most: float = 1e5
) -> BenchField:
    """A number that has to be filled in."""
    return BenchField(key=key, label=label, unit=unit, usual=usual, least=least, most=most)


def may_be_empty(key: str, label: str, unit: str) -> BenchField:
    """A number that may stay empty."""
    return BenchField(key=key, label=label, unit=unit, least=1e-6, most=1e5, may_be_empty=True)
