"""What a rule finds: met or not, required against found, the arithmetic, the source, and what follows."""

import tomllib
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from importlib.resources import files
from typing import Protocol, TypeAlias

from pydantic import Field

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.ratings.inputs.sheet import Edition, Sheet
from zesty_copper.core.ratings.worked import Step, Worked
from zesty_copper.core.words import say

__all__ = [
    "Failing",
    "Finding",
    "Relation",
    "Ruling",
    "Status",
    "Who",
    "as_worked",
    "rules",
    "unless_unread",
    "unless_worse",
]


Assumed: TypeAlias = tuple[str, ...]
"""What was taken for granted, a sentence each."""


class Status(StrEnum):
    """How a rule comes out."""

    NOT_MET = "not_met"
    ADVICE = "advice"
    CANNOT_TELL = "cannot_tell"
    MET = "met"


class Relation(StrEnum):
    """How what is found must stand to what is required."""

    AT_LEAST = "at_least"
    AT_MOST = "at_most"


class Who(StrEnum):
    """Who may put it right, within their licence."""

    TECHNICIAN = "technician"
    ELECTRICIAN = "electrician"
    UTILITY = "utility"


class Failing(StrEnum):
    """How a part fails that is not as it should be."""

    JOINT = "joint"
    CONTACT = "contact"
    TRIP = "trip"


class Weight(StrEnum):
    """Whether a rule binds."""

    REQUIRED = "required"
    ADVICE = "advice"


class Rule(Frozen):
    """One entry of `rules.toml`; the fields are explained in its head."""

    label: str
    clause: str | dict[Edition, str]
    weight: Weight = Weight.REQUIRED
    hazard: int = Field(ge=1, le=3)
    consequence: str
    who: Who
    likelier: dict[Failing, float] = Field(default_factory=dict)


class Finding(Frozen):
    """How one rule comes out for one thing.

    Attributes
    ----------
    found, required
        With all their arithmetic; none where a rule compares words, or cannot be told.
    """

    rule: str
    label: str
    about: str = Field(description="which conductor, device, …")
    part: str | None = Field(default=None, description="id of the circuit's part")
    edition: Edition
    source: str
    status: Status
    found: Worked | None = None
    required: Worked | None = None
    relation: Relation | None = None
    words: str = Field(description="the answer in one sentence")
    consequence: str = Field(default="", description="if it is left; empty where it is met")
    who: Who
    hazard: int
    missing: tuple[str, ...] = Field(default=(), description="what would have to be known")
    assumed: tuple[str, ...] = Field(default=(), description="what was taken for granted")


@cache
def rules() -> dict[str, Rule]:
    """Every rule by key, read once."""
    text = files(__package__).joinpath("rules.toml").read_text("utf-8")
    return {key: Rule.model_validate(row) for key, row in tomllib.loads(text).items()}


class Named(Protocol):
    """What a sheet lists by name: a run, a device, a joint …, perhaps a part of the circuit."""

    @property
    def name(self) -> str:
        """What it is called on the screen."""

    @property
    def part(self) -> str | None:
        """Id of the circuit's part."""


@dataclass(frozen=True)
class Ruling:
    """One rule applied to one thing: every way in which it may come out.

    Raises
    ------
    KeyError
        By every way out, for a rule that `rules.toml` does not list.
    """

    rule: str
    edition: Edition
    about: str
    part: str | None = None

    @classmethod
    def on(cls, rule: str, sheet: Sheet, thing: Named) -> "Ruling":
        """Apply a rule to what the sheet lists."""
        return cls(rule, sheet.edition, thing.name, thing.part)

    def at_least(self, words: str, found: Worked | Step, need: Worked | Step, assumed: Assumed = ()) -> Finding:
        """Ask that what is found is not less than what is needed, in the same unit."""
        return self.compared(words, found, Relation.AT_LEAST, need, assumed)

    def at_most(self, words: str, found: Worked | Step, most: Worked | Step, assumed: Assumed = ()) -> Finding:
        """Ask that what is found is not more than what is allowed, in the same unit."""
        return self.compared(words, found, Relation.AT_MOST, most, assumed)

    def compared(
        self, words: str, found: Worked | Step, relation: Relation, limit: Worked | Step, assumed: Assumed = ()
    ) -> Finding:
        """Compare a number found with its limit, in the same unit; one digit in ten thousand is no difference."""
        found, limit = as_worked(found), as_worked(limit)
        slack = 1e-4 * abs(limit.value)
        is_low = found.value < limit.value - slack
        is_high = found.value > limit.value + slack
        is_met = not (is_low if relation is Relation.AT_LEAST else is_high)
        finding = self.stated(words, is_met=is_met, assumed=assumed)
        return finding.model_copy(update={"found": found, "required": limit, "relation": relation})

    def stated(self, words: str, *, is_met: bool, assumed: Assumed = ()) -> Finding:
        """Say how a rule comes out that compares no numbers."""
        rule = rules()[self.rule]
        missed = Status.ADVICE if rule.weight is Weight.ADVICE else Status.NOT_MET
        return Finding(
            rule=self.rule,
            label=rule.label,
            about=self.about,
            part=self.part,
            edition=self.edition,
            source=rule.clause if isinstance(rule.clause, str) else rule.clause[self.edition],
            status=Status.MET if is_met else missed,
            words=words,
            consequence="" if is_met else rule.consequence,
            who=rule.who,
            hazard=rule.hazard,
            assumed=assumed,
        )

    def wants(self, *missing: str) -> Finding:
        """Say what is missing for a rule."""
        finding = self.stated(f"Wanted: {' and '.join(missing)}.", is_met=True)
        return finding.model_copy(update={"status": Status.CANNOT_TELL, "missing": missing})


def unless_unread(finding: Finding, *marks: str) -> Finding:
    """Turn a finding that hangs on marks that nobody read into one that cannot be told yet."""
    words = say("ratings.lowest_marks_read", words=finding.words, marks=" and ".join(marks))
    return finding.model_copy(
        update={"status": Status.CANNOT_TELL, "words": words, "consequence": "", "missing": marks}
    )


def unless_worse(finding: Finding, *facts: str) -> Finding:
    """Turn a finding that is met as assumed, and not at the worst that is plausible, into one that cannot be told."""
    words = say("ratings.met_only_as_assumed", words=finding.words, facts=" and ".join(facts))
    return finding.model_copy(update={"status": Status.CANNOT_TELL, "words": words, "missing": facts})


def as_worked(value: Worked | Step) -> Worked:
    """Return a value with its arithmetic, also where that is a single step."""
    return value if isinstance(value, Worked) else Worked(steps=(value,))
