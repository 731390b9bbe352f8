"""What comes out of a diagnosis: verdict, suspects, next test, stop, guards."""

from enum import StrEnum

from pydantic import Field

from zesty_copper.core.circuit.part import Zone
from zesty_copper.core.circuit.point import Point
from zesty_copper.core.faults.danger import Leaves, StopKind
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.measurement import Measurement, OpenSwitches

__all__ = [
    "Contradiction",
    "Diagnosis",
    "Evidence",
    "Guard",
    "LaneState",
    "LookAsked",
    "LookPlace",
    "NextTest",
    "PointShown",
    "PointStanding",
    "Predicted",
    "Range",
    "Slip",
    "Stance",
    "Standing",
    "Stop",
    "Suspect",
    "Verdict",
]


class Range(Frozen):
    """What the meter would show, nine times in ten [V or A]."""

    low: float
    high: float


class Slip(StrEnum):
    """How a reading may mislead though nobody mistyped it."""

    TWO_IN_JAWS = "two_in_jaws"
    LOAD_CONNECTED = "load_connected"
    CALL_ENDED = "call_ended"
    OTHER_STATE = "other_state"
    POOR_CONTACT = "poor_contact"
    GHOST = "ghost"
    DECIMAL = "decimal"
    DRIFT = "drift"
    NO_CURRENT = "no_current"
    SILENT_TESTER = "silent_tester"
    START = "start"
    NO_TRIANGLE = "no_triangle"


class Stance(StrEnum):
    """How a reading bears on a suspect."""

    FOR = "for"
    AGAINST = "against"
    NEUTRAL = "neutral"


class Evidence(Frozen):
    """One reading's, or look's, word on one suspect."""

    reading: str = Field(description="id of the reading or look")
    stance: Stance
    bits: float = Field(description="log2 of how much likelier the reading is under this suspect than under all others")
    expected: Range | None = Field(
        description="what this suspect makes the meter show, given all the other readings; none for a look"
    )
    words: str


class Suspect(Frozen):
    """One fault and how sure it is."""

    key: str
    kind: FaultKind
    part: str | None
    leg: str | None
    place: str = Field(description="where a hand finds it; suspects of one place are told apart there")
    words: str
    probability: float
    evidence: tuple[Evidence, ...] = Field(description="by reading; only for suspects worth looking at")
    likelier_by: tuple[str, ...] = Field(default=(), description="what was known beforehand that makes it likelier")


class Predicted(Frozen):
    """What suspects that read alike make each reading of a test show; two ranges where the contact comes and goes."""

    suspects: tuple[str, ...] = Field(description="their keys, the likeliest first")
    words: tuple[str, ...] = Field(description="said, in the same order")
    ranges: tuple[tuple[Range, ...], ...]


class LookPlace(Frozen):
    """One place to look at."""

    part: str
    leg: str | None
    words: str


class LookAsked(Frozen):
    """A box to look over: what is sought, and the places where it would tell something, the likeliest first."""

    zone: Zone
    sign: str
    label: str
    nothing: str = Field(description="what is said where none is found")
    places: tuple[LookPlace, ...]


class NextTest(Frozen):
    """One test: the state to set, where the probes go or the eyes, and what it would settle."""

    measurements: tuple[Measurement, ...] = Field(description="none where eyes do")
    look: LookAsked | None
    words: tuple[str, ...] = Field(description="each measurement, said")
    state: str
    steps: tuple[str, ...] = Field(description="switches to move first, in order")
    procedure: tuple[str, ...] = Field(description="what to do, in order: state, meter proved, probes, number")
    settles: str = Field(description="which suspects it tells apart")
    bits: float = Field(description="expected information about the place of the fault")
    doubt_bits: float = Field(description="how much there is to know")
    minutes: float
    predictions: tuple[Predicted, ...]
    caution: str


class Contradiction(Frozen):
    """Readings that cannot all be right."""

    readings: tuple[str, ...]
    words: str


class Standing(StrEnum):
    """Where the diagnosis stands."""

    SURE = "sure"
    OPEN = "open"
    INSEPARABLE = "inseparable"
    UNEXPLAINED = "unexplained"


class Verdict(Frozen):
    """What can be said now."""

    standing: Standing
    suspects: tuple[str, ...] = Field(description="keys of the suspects it speaks of, the likeliest first")
    part: str | None
    leg: str | None
    probability: float = Field(description="that the fault is in the place named, or among those named")
    words: str
    advice: str


class Stop(Frozen):
    """Going on is dangerous to people or ruins the equipment."""

    kind: StopKind
    suspect: str | None = Field(description="key of the likeliest suspect that makes it so, if any is likely")
    probability: float | None = Field(description="of all such suspects together")
    readings: tuple[str, ...] = Field(description="ids of the readings that say it themselves")
    title: str
    words: str
    clears: str = Field(description="the test that clears it: dead where that is possible")
    leaves: Leaves = Field(description="which tests may still be taken")


class Guard(Frozen):
    """A reading that may not be what it seems, and how to check it."""

    reading: str = Field(description="id of the reading")
    slip: Slip
    words: str
    check: str


class PointStanding(StrEnum):
    """What a probe to ground would meet."""

    LIVE = "live"
    DEAD = "dead"
    FLOATING = "floating"


class PointShown(Frozen):
    """One point under the leading explanation."""

    standing: PointStanding
    volts: float = Field(description="to the ground at hand, meter not connected [V]")


class LaneState(Frozen):
    """Every point in one state of the switches, under the leading explanation."""

    open_switches: OpenSwitches
    points: dict[Point, PointShown]
    pulled_in: tuple[str, ...] = Field(description="switches that follow a coil and are in")
    chatters: bool = Field(description="whether a coil pulls in and lets go again and again")


class Diagnosis(Frozen):
    """The answer: every suspect, the verdict, and the next test."""

    verdict: Verdict
    suspects: tuple[Suspect, ...] = Field(description="the likeliest first; probabilities sum to one")
    planning: bool = Field(default=False, description="whether the next test is still to come")
    next_test: NextTest | None
    handover: NextTest | None = Field(description="where the scope ends: what an electrician should read beyond it")
    stop: Stop | None
    guards: tuple[Guard, ...]
    contradictions: tuple[Contradiction, ...]
    lanes: tuple[LaneState, ...]
