"""What a kind of observation must say of itself.

A kind is one file of `kinds/`: where it is read, on what scale and how far it strays, what each fault would make it
show, which tests of it are worth asking, how they are taken and said. Nothing outside asks for a unit to tell these.
"""

from abc import ABC, abstractmethod
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Any, ClassVar, Generic, Literal, Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part, Zone
from zesty_copper.core.circuit.point import Point
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.modes import Tool
from zesty_copper.core.observations.slips import digits_slipped
from zesty_copper.core.words import say

if TYPE_CHECKING:
    from zesty_copper.core.observations.measurement import Measurement, Reading

__all__ = ["AnyObservation", "Observation", "Phasor", "Picks", "Settled", "Word"]

Picks = Literal["jaws", "legs", "point", "pole", "part"]
"""Conductors the clamp closes around; the three legs behind a part; a point; a part on one conductor, or as a whole."""

_Array = NDArray[np.float64]
_P = TypeVar("_P", bound=Frozen)
"""The class of the places that a kind is read at."""


class Settled(Protocol):
    """A network where its contacts rest, in every row and sample: what senses read from."""

    @property
    def circuit(self) -> Circuit:
        """The circuit."""
        ...

    def volts_at(self, *points: Point) -> NDArray[np.complex128]:
        """Volts of points to the panel's ground, (points, rows, samples) [V]."""
        ...

    def amps_in(self, part: Part, lane: str | None = None) -> NDArray[np.complex128]:
        """Amps in each branch of a part, or in one conductor of it, (branches, rows, samples) [A]."""
        ...

    def is_open(self, switch: str | None) -> NDArray[np.bool_]:
        """Where a switch is open, (rows, samples)."""
        ...

    def stands(self, part: Part) -> NDArray[np.bool_]:
        """Where a motor stands though it is fed, (rows, samples)."""
        ...

    def is_swapped_ahead(self, part: Part) -> NDArray[np.bool_]:
        """In which rows two legs are swapped at a part or ahead of it, (rows, 1)."""
        ...


class Observation(ABC, Generic[_P]):
    """One kind of observation.

    Attributes
    ----------
    unit
        In what it is read.
    sign, after
        What stands beside a number being typed, and behind one that is said.
    label, says
        How it is chosen on a page: on the button, and in full.
    picks
        What a touch of the strip picks for it; none for two probes, which are placed one by one.
    touch
        What it does there, before the place; and what to touch, where nothing is picked.
    value_names, asks
        Its values in words, the usual one first, and how they are asked for, where it is no number.
    place
        The class of the places it is read at; `is_dead` tells apart kinds that share one.
    unit_words
        How its unit is asked for.
    digit
        The last digit of what reads it, in its unit.
    steps
        Its values, where it is no number.
    least_reach
        By how much a band of values reaches beyond what is predicted at least, on its scale.
    minutes, further_minutes
        What one reading takes, and another at the same spot; the benchmark counts by the same times. Common practice,
        no source.
    tool
        What must be at hand for it to be asked; none for what every technician carries.
    at_a_glance
        Whether one look at a box shows all of them there.
    tells_legs
        Whether an instrument says by it what the legs do while they are fed.
    """

    unit: ClassVar[Any]
    sign: ClassVar[str] = ""
    after: ClassVar[str] = ""
    label: ClassVar[str] = ""
    says: ClassVar[str] = ""
    picks: ClassVar["Picks | None"] = None
    touch: ClassVar[tuple[str, str]] = ("", "")
    value_names: ClassVar[dict[int, str]] = {}
    asks: ClassVar[str] = ""
    place: ClassVar[type[Frozen]]
    is_dead: ClassVar[bool] = False
    is_linear: ClassVar[bool] = False
    unit_words: ClassVar[str]
    digit: ClassVar[float] = 1.0
    steps: ClassVar[tuple[int, ...]] = ()
    least_reach: ClassVar[float] = 0.0
    minutes: ClassVar[float]
    further_minutes: ClassVar[float]
    tool: ClassVar[Tool | None] = None
    at_a_glance: ClassVar[bool] = False
    tells_legs: ClassVar[bool] = False

    @property
    def kind(self) -> str:
        """The name of its kind of place."""
        return str(self.place.model_fields["kind"].default)

    # Where it is read

    @abstractmethod
    def check_place(self, circuit: Circuit, place: _P, measurement: "Measurement") -> None:
        """Raise BadInput where the circuit has no such place, or the state takes it away."""

    def check_value(self, value: float) -> None:
        """Raise BadInput for a value that no meter shows."""
        if value < 0:
            raise BadInput(say("circuit.reading_has_no_minus"), "value")

    def nearest_possible(self, value: float) -> float:
        """Return the value nearest to one that was computed, as a meter would show it."""
        return max(value, 0.0)

    def doubt(self, circuit: Circuit, reading: "Reading") -> str:
        """Ask about a value that is possible but strange; empty when there is nothing to ask."""
        return ""

    def zone(self, circuit: Circuit, place: _P) -> Zone:
        """Which cover must be open for it."""
        return self.part_at(circuit, place).zone

    @abstractmethod
    def part_at(self, circuit: Circuit, place: _P) -> Part:
        """The part it is read at; of two the one nearer the source."""

    def asked(self, circuit: Circuit, within: Sequence[Part], open_switches: frozenset[str]) -> Iterator[_P]:
        """Places worth asking about in a state of the switches; those of probes and clamp are listed by the planner."""
        yield from ()

    def is_read_at(self, circuit: Circuit, part: Part) -> bool:
        """Whether it is read at a part, by whatever it picks there."""
        return True

    # How it is said

    @abstractmethod
    def place_words(self, circuit: Circuit, place: _P) -> str:
        """Say what the probes, the clamp or the eyes are on, the shortest way that leaves no doubt."""

    def value_words(self, value: float) -> str:
        """Say a value with its unit."""
        return f"{value:g} {self.unit}"

    def range_words(self, low: float, high: float) -> str:
        """Say what lies between two values."""
        return f"{low:g} to {high:g} {self.unit}"

    @abstractmethod
    def procedure(self, circuit: Circuit, first: "Measurement", places: Sequence[str]) -> tuple[str, ...]:
        """Return the steps of a test once the switches stand, its places in words."""

    @abstractmethod
    def caution(self, measurement: "Measurement") -> str:
        """Say what can hurt, outside the panel."""

    @abstractmethod
    def written_place(self, circuit: Circuit, place: _P) -> list[str]:
        """The words of a quick-entry line that name the place."""

    def written_value(self, circuit: Circuit, reading: "Reading") -> str:
        """The word of a quick-entry line that holds the value."""
        return f"{reading.value!r}{self.unit}"

    def read_written(self, circuit: Circuit, part: Part, words: Sequence[str]) -> tuple[_P, float] | None:
        """Read place and value from the words of a line behind its part; None where the line is of another kind.

        Raises
        ------
        BadInput
            If it is of this kind and something in it is wrong.
        """
        return None

    def next_words(self, circuit: Circuit, part: Part, words: Sequence[str]) -> Iterator[str]:
        """Words of this kind alone that may follow those typed behind a part."""
        yield from ()

    # On what scale, and how far it strays there

    def on_scale(self, value: _Array | float) -> _Array:
        """Return values on the scale where their spread is about the same wherever they lie."""
        return np.asarray(value, dtype=float)

    def off_scale(self, at: float) -> float:
        """Return the value at a place of its scale."""
        return at

    def typed_step(self, value: float) -> float:
        """Step to which a value was typed, in its unit: a whole number may have been rounded to it."""
        return 1.0 if value == int(value) and value > 0 else self.digit

    @abstractmethod
    def noise_variance(
        self, predicted: NDArray[np.floating], wander: NDArray[np.floating] | float, step: float | None = None
    ) -> NDArray[np.floating]:
        """Variance of one reading about its prediction on its scale, gain apart.

        Parameters
        ----------
        predicted
            What the meter should show, on its scale.
        wander
            Standard deviation of what hangs on stray coupling [V], or of what else strays there.
        step
            Step to which the value was typed; by default the meter's own digit.
        """

    @abstractmethod
    def range_density(self, line_volts: float, rated_amps: float) -> float:
        """Density of a value that could be anything the meter might show on a circuit, on its scale."""

    def unlisted_density(self, circuit: Circuit, value: float) -> float:
        """Density of a value under a fault that is not listed, on its scale: anything, unless a kind knows better."""
        return self.range_density(circuit.highest_volts, circuit.rated_amps)

    def slips(self, value: float) -> list[tuple[float, float]]:
        """Values that a slip may have turned into this one, and the density that each lends to it.

        None of what is said, or chosen with its sign: what goes wrong there is the place or the state.
        """
        return []

    def shown(self, low: float, high: float) -> tuple[float, float]:
        """Ends of a range, from its scale to what the meter would show."""
        low, high = (round(round(max(self.off_scale(end), 0.0) / self.digit) * self.digit, 3) for end in (low, high))
        return low, high

    # What every fault would make it show

    def sense(self, settled: Settled, place: _P) -> _Array:
        """What it would show, (rows, samples) on its scale; of what is linear in volts and amps the network says."""
        raise NotImplementedError

    def sense_chatter(self, circuit: Circuit, place: _P, both: tuple[_Array, _Array], chatters: Any) -> _Array | None:
        """What is seen at once of two positions between which a contact chatters; None where one or the other is."""
        return None


AnyObservation = Observation[Any]
"""A kind, whatever it is read at."""


class Phasor(Observation[_P]):
    """Volts or amps: the magnitude of a sum of unknowns of the network."""

    is_linear = True
    tells_legs = True
    digit = 0.1
    drift: ClassVar[float]
    """Wander of supply and load from one reading to the next, as a share; common practice, no source."""

    def noise_variance(
        self, predicted: NDArray[np.floating], wander: NDArray[np.floating] | float, step: float | None = None
    ) -> NDArray[np.floating]:
        """The meter's three digits are taken as two standard deviations; rounding is uniform over the step [V², A²]."""
        digits = _ACCURACY_DIGITS * self.digit / 2
        rounding = (step or self.digit) ** 2 / 12
        return np.asarray(digits**2 + rounding + (self.drift * predicted) ** 2 + np.square(wander))

    def slips(self, value: float) -> list[tuple[float, float]]:
        """A slipped decimal, or two neighbouring digits swapped."""
        return digits_slipped(value, self.digit)


_ACCURACY_DIGITS = 3


class Word(Observation[_P]):
    """What is seen or heard, and is no number: each value has a word."""

    deviation: ClassVar[float]
    """How far it strays on its scale; common practice, no source."""

    def check_value(self, value: float) -> None:
        """Raise BadInput for what is none of its values."""
        if value not in self.steps:
            steps = ", ".join(map(str, self.steps))
            raise BadInput(say("circuit.not_a_word_of_the_unit", unit_words=self.unit_words, map=steps), "value")

    def nearest_possible(self, value: float) -> float:
        """Return the same: words are computed as words."""
        return value

    def value_words(self, value: float) -> str:
        """Say the value nearest."""
        return self.value_names[max(self.steps[0], min(round(value), self.steps[-1]))]

    def range_words(self, low: float, high: float) -> str:
        """Say one word or the other."""
        return " or ".join(dict.fromkeys(self.value_words(end) for end in (low, high)))

    def noise_variance(
        self, predicted: NDArray[np.floating], wander: NDArray[np.floating] | float, step: float | None = None
    ) -> NDArray[np.floating]:
        """The same wherever it lies."""
        return np.full(np.shape(predicted), self.deviation**2) + np.square(wander)

    def range_density(self, line_volts: float, rated_amps: float) -> float:
        """One of its words, whichever."""
        return 1 / len(self.steps)

    def shown(self, low: float, high: float) -> tuple[float, float]:
        """Return the words at both ends."""
        low, high = (round(min(max(end, self.steps[0]), self.steps[-1])) for end in (low, high))
        return low, high
