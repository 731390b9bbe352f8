"""How likely each fault is before anything is read: the tables of `priors.toml`."""

import tomllib
from functools import cache
from importlib.resources import files

from zesty_copper.core.frozen import Frozen

__all__ = ["Priors", "priors"]


class Priors(Frozen):
    """The tables of `priors.toml`."""

    whole: dict[str, float]
    weight: dict[str, float]
    conductor: dict[str, float]
    way: dict[str, tuple[float, float, float]]


@cache
def priors() -> Priors:
    """The prior tables, read once.

    Raises
    ------
    ValueError
        If the ways in which a part fails do not sum to one.
    """
    table = Priors.model_validate(tomllib.loads(files(__package__).joinpath("priors.toml").read_text("utf-8")))
    for kind, shares in table.way.items():
        if abs(sum(shares) - 1) > 1e-9:
            raise ValueError(f"priors.toml: the ways of {kind} sum to {sum(shares)}, not to 1.")
    return table
