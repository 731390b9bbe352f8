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
    by_key = {}
    for path in sorted(files(__package__).joinpath("tables").iterdir(), key=lambda read_table: read_table.name):
        if not path.name.endswith(".toml"):
            continue
        key = path.name.removesuffix(".toml")
        read_table = Table.model_validate({"key": key, **tomllib.loads(path.read_text("utf-8"))})
        if any(len(row) != len(read_table.columns) for row in read_table.rows) or len(read_table.units) != len(
            read_table.columns
        ):
            raise ValueError(f"{path.name}: a row is not as long as the header.")
        by_key[key] = read_table
    return by_key


def table(key: str) -> Table:
    """One table."""
    return tables()[key]


def exactly(key: str, column: str, *row: Cell) -> float | None:
    """Return the cell of the row that begins so, in its column's unit; None where there is no such row, or nothing."""
    entries = table(key)
    at = entries.column(column)
    value = next((r[at] for r in entries.rows if r[: len(row)] == row), NOTHING)
    return None if isinstance(value, str) else value


def first_from(key: str, value: float, column: str | None = None) -> Cell | None:
    """Return a cell of the first row whose first is at least a value, in its column's unit; by default that first."""
    entries = table(key)
    at = 0 if column is None else entries.column(column)
    for row in entries.rows:
        if isinstance(row[0], int | float) and row[0] >= value - 1e-9:
            return None if row[at] == NOTHING else row[at]
    return None


def last_to(key: str, value: float) -> float | None:
    """Return the largest first cell that is at most a value, in the same unit."""
    fitting = [row[0] for row in table(key).rows if isinstance(row[0], int | float) and row[0] <= value + 1e-9]
    return float(max(fitting)) if fitting else None
