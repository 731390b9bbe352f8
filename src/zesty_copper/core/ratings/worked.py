"""Arithmetic laid out so that it can be followed on paper: each step its words, its sum, its value and unit."""

import math

from pydantic import Field

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.words import say

__all__ = ["Step", "Worked", "asked_amps", "computed", "given", "number", "share"]


class Step(Frozen):
    """One line of arithmetic.

    Attributes
    ----------
    sum
        With × ÷ + − √ and brackets, of numbers alone; empty where the value is looked up or given. A whole number of
        tables' or codes' own is written as they write it.
    """

    words: str
    sum: str = ""
    value: float
    unit: str


class Worked(Frozen):
    """A value and how it came about; the last step's value is it."""

    steps: tuple[Step, ...] = Field(min_length=1)

    @property
    def value(self) -> float:
        """The value, in the unit of its last step."""
        return self.steps[-1].value

    @property
    def unit(self) -> str:
        """Its unit."""
        return self.steps[-1].unit

    def then(self, *steps: Step) -> "Worked":
        """Return the same with further steps."""
        return Worked(steps=(*self.steps, *steps))


def given(words: str, value: float, unit: str) -> Step:
    """Return a value in its unit that was looked up, entered or measured."""
    return Step(words=words, value=float(value), unit=unit)


def computed(words: str, text: str, value: float, unit: str) -> Step:
    """Return a value in its unit that a sum gives."""
    return Step(words=words, sum=text, value=float(value), unit=unit)


def asked_amps(amps: float, need: Worked) -> str:
    """Say what is there [A] and what is asked of it."""
    return say("ratings.amps_against_asked", number=number(amps), value=need.value)


def share(value: float) -> str:
    """Print a share as a percentage.

    >>> share(1.15), share(0.8)
    ('115 %', '80 %')
    """
    return f"{100 * value:.0f} %"


def number(value: float) -> str:
    """Print a number for a sum: five digits, no needless zeros, no exponent.

    >>> number(22.5), number(0.00124), number(12345.678)
    ('22.5', '0.00124', '12346')
    """
    if value == 0:
        return "0"
    digits = max(0, 4 - math.floor(math.log10(abs(value))))
    text = f"{value:.{digits}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text
