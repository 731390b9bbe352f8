"""What a rule finds: met or not, required against found, the arithmetic, the source, and what follows."""

import tomllib
from enum import StrEnum
from functools import cache
from importlib.resources import files

from pydantic import Field

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.ratings.inputs.sheet import Edition
from zesty_copper.core.ratings.worked import Step, Worked

__all__ = [
    "Failing",
    "Finding",
    "Relation",
    "Status",
    "Who",
    "cannot_tell",
    "judged",
    "one_step",
    "rules",
    "stated",
    "unless_unread",
]


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


def judged(
    key: str,
    edition: Edition,
    about: str,
    words: str,
    *,
    found: Worked,
    required: Worked,
    relation: Relation,
    part: str | None = None,
    assumed: tuple[str, ...] = (),
) -> Finding:
    """Compare a number found with one required; one digit in ten thousand is no difference."""
    slack = 1e-4 * abs(required.value)
    fits = (
        found.value >= required.value - slack
        if relation is Relation.AT_LEAST
        else found.value <= required.value + slack
    )
    finding = stated(key, edition, about, words, is_met=fits, part=part, assumed=assumed)
    return finding.model_copy(update={"found": found, "required": required, "relation": relation})


def stated(
    key: str,
    edition: Edition,
    about: str,
    words: str,
    *,
    is_met: bool,
    part: str | None = None,
    assumed: tuple[str, ...] = (),
) -> Finding:
    """Say how a rule comes out that compares no numbers."""
    rule = rules()[key]
    missed = Status.ADVICE if rule.weight is Weight.ADVICE else Status.NOT_MET
    return Finding(
        rule=key,
        label=rule.label,
        about=about,
        part=part,
        edition=edition,
        source=rule.clause if isinstance(rule.clause, str) else rule.clause[edition],
        status=Status.MET if is_met else missed,
        words=words,
        consequence="" if is_met else rule.consequence,
        who=rule.who,
        hazard=rule.hazard,
        assumed=assumed,
    )


def cannot_tell(key: str, edition: Edition, about: str, *missing: str, part: str | None = None) -> Finding:
    """Say what is missing for a rule."""
    words = f"Wanted: {' and '.join(missing)}."
    finding = stated(key, edition, about, words, is_met=True, part=part)
    return finding.model_copy(update={"status": Status.CANNOT_TELL, "missing": missing})


def unless_unread(finding: Finding, *marks: str) -> Finding:
    """Turn a finding that hangs on marks that nobody read into one that cannot be told yet."""
    words = f"{finding.words} That is with the lowest marks: read {' and '.join(marks)}."
    return finding.model_copy(
        update={"status": Status.CANNOT_TELL, "words": words, "consequence": "", "missing": marks}
    )


def one_step(step: Step) -> Worked:
    """Return a value of a single step."""
    return Worked(steps=(step,))
