"""The published tables: data files beside this module, read once and checked."""

import tomllib
from functools import cache
from importlib.resources import files

from pydantic import Field

from zesty_copper.core.frozen import Frozen

__all__ = ["Cell", "Table", "first_from", "table", "tables"]

Cell = float | str
NOTHING = "-"
"""A cell in which the table gives no value."""


class Table(Frozen):
    """One published table.

    Its rows are as printed, a gauge of 1/0 to 4/0 written as 0 to -3, 250 to 500 kcmil as -4 to -8, and a dash where
    the table is empty.
    """

    key: str
    title: str
    source: str
    standing: str = Field(description="published and checked here, from memory, or common practice")
    columns: tuple[str, ...]
    units: tuple[str, ...]
    rows: tuple[tuple[Cell, ...], ...] = Field(min_length=1)

    def column(self, name: str) -> int:
        """Return the number of a column."""
        return self.columns.index(name)


@cache
def tables() -> dict[str, Table]:
    """Every table, by key.

    Raises
    ------
    ValueError
        If a row is not as long as its header.
    """
    found = {}
    for path in sorted(files(__package__).joinpath("tables").iterdir(), key=lambda one: one.name):
        if not path.name.endswith(".toml"):
            continue
        key = path.name.removesuffix(".toml")
        one = Table.model_validate({"key": key, **tomllib.loads(path.read_text("utf-8"))})
        if any(len(row) != len(one.columns) for row in one.rows) or len(one.units) != len(one.columns):
            raise ValueError(f"{path.name}: a row is not as long as the header.")
        found[key] = one
    return found


def table(key: str) -> Table:
    """One table."""
    return tables()[key]


def exactly(key: str, column: str, *row: Cell) -> float | None:
    """Return the cell of the row that begins so, in its column's unit; None where there is no such row, or nothing."""
    one = table(key)
    at = one.column(column)
    found = next((r[at] for r in one.rows if r[: len(row)] == row), NOTHING)
    return None if isinstance(found, str) else found


def first_from(key: str, value: float, column: str | None = None) -> Cell | None:
    """Return a cell of the first row whose first is at least a value, in its column's unit; by default that first."""
    one = table(key)
    at = 0 if column is None else one.column(column)
    for row in one.rows:
        if isinstance(row[0], int | float) and row[0] >= value - 1e-9:
            return None if row[at] == NOTHING else row[at]
    return None


def last_to(key: str, value: float) -> float | None:
    """Return the largest first cell that is at most a value, in the same unit."""
    fitting = [row[0] for row in table(key).rows if isinstance(row[0], int | float) and row[0] <= value + 1e-9]
    return float(max(fitting)) if fitting else None
