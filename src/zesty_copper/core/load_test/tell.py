"""What a load test found, said: each thing with what it means."""

from collections.abc import Iterator, Mapping, Sequence
from enum import StrEnum

from pydantic import Field

from zesty_copper.core.circuit.unbalance import MOST_AMPS_PERCENT, MOST_VOLTS_PERCENT
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.load_test.gaps import Gap
from zesty_copper.core.load_test.measured import Level, Stage, TraceMeasured
from zesty_copper.core.load_test.sag import Sag
from zesty_copper.core.load_test.starts import Start
from zesty_copper.core.load_test.steadiness import Drift
from zesty_copper.core.load_test.steps import StepKind
from zesty_copper.core.load_test.trace import Channel
from zesty_copper.core.words import say

__all__ = ["OVER_PLATE", "SETTLES_S", "Mark", "TraceFinding", "findings_of"]

LEVEL_S = 20.0
"""A shorter stretch says nothing of steadiness [s]."""
SETTLES_S = 2.0
"""A start takes no longer; common practice, no source."""
LOCKED_TIMES = 3.0
"""Amps that stay so many times the plate's are those of a rotor that does not turn; common practice, no source."""
OVER_PLATE = 1.10
"""A load may carry this much of its plate's amps; common practice, no source."""
JOINT_TIMES, JOINT_OHM = 1.5, 0.05
"""So many times the ohms of new wire and joints, and so many more, are too many; common practice, no source."""
CHATTER_TIMES, CHATTER_S = 3, 15.0
"""Amps lost so often within so many seconds are a contactor that chatters; common practice, no source."""


class Mark(StrEnum):
    """How a finding is to be taken."""

    GOOD = "good"
    LOOK = "look"
    TELLS = "tells"


class TraceFinding(Frozen):
    """One thing that a trace says."""

    mark: Mark
    title: str
    says: str
    at_s: float | None = Field(default=None, description="where on the chart; none: all of it")


def findings_of(measured: TraceMeasured, expected_ohm: Mapping[tuple[str, str], float]) -> tuple[TraceFinding, ...]:
    """Say everything that was measured, in the order in which a technician asks.

    Parameters
    ----------
    expected_ohm
        Volts that wire and joints as new lose for each ampere, by the two conductors [ohm].
    """
    return (
        *_say_starts(measured.starts, _rated(measured.channels)),
        *_say_levels(measured.channels, measured.levels),
        *_say_sags(measured.sags, expected_ohm),
        *_say_unbalance(measured.volts_unbalance_percent, measured.amps_unbalance_percent),
        *_say_stages(measured.stages),
        *_say_gaps(measured.channels, measured.gaps),
    )


def _rated(channels: Sequence[Channel]) -> float | None:
    return next((channel.rated_amps for channel in channels if channel.kind == "amps"), None)


def _say_starts(starts: Sequence[Start], rated: float | None) -> Iterator[TraceFinding]:
    for start in starts:
        title = say("load_test.start", at=_clock(start.at_s))
        if start.settles_s is None:
            words, mark = say("load_test.never_settles", peak=start.peak_amps, level=start.level_amps), Mark.LOOK
        else:
            words = say("load_test.settles", peak=start.peak_amps, seconds=start.settles_s, level=start.level_amps)
            mark = Mark.GOOD if start.settles_s <= SETTLES_S else Mark.LOOK
            if mark is Mark.LOOK:
                words += " " + say("load_test.settles_late")
        if rated is not None and start.level_amps > LOCKED_TIMES * rated:
            words, mark = say("load_test.locked", level=start.level_amps, rated=rated), Mark.LOOK
        if not start.sees_peak:
            words += " " + say("load_test.peak_unseen")
        yield TraceFinding(mark=mark, title=title, says=words, at_s=start.at_s)


def _say_levels(channels: Sequence[Channel], levels: Sequence[Level]) -> Iterator[TraceFinding]:
    for level in levels:
        channel, slope = channels[level.channel], level.slope
        if channel.kind == "volts" or slope is None or level.to_s - level.from_s < LEVEL_S or level.level < 1.0:
            continue
        percent, about = slope.change_percent, slope.change_uncertainty_percent
        minutes = (level.to_s - level.from_s) / 60
        title = say("load_test.level", label=channel.label, level=level.level)
        match slope.drift:
            case Drift.CLIMBS:
                why = say("load_test.heat_climbs") if channel.heats else say("load_test.motor_climbs")
                words, mark = (
                    say("load_test.climbs", percent=percent, about=about, minutes=minutes) + " " + why,
                    Mark.LOOK,
                )
            case Drift.FALLS:
                words, mark = say("load_test.falls", percent=percent, about=about, minutes=minutes), Mark.LOOK
            case Drift.UNCLEAR:
                words, mark = say("load_test.unclear", percent=percent, about=about, minutes=minutes), Mark.TELLS
            case Drift.STEADY:
                words, mark = say("load_test.steady", percent=percent, about=about, minutes=minutes), Mark.GOOD
        if channel.rated_amps is not None and level.level > OVER_PLATE * channel.rated_amps:
            words += " " + say("load_test.over_plate", rated=channel.rated_amps)
            mark = Mark.LOOK
        yield TraceFinding(mark=mark, title=title, says=words, at_s=level.from_s)


def _say_sags(sags: Sequence[Sag], expected: Mapping[tuple[str, str], float]) -> Iterator[TraceFinding]:
    for sag in sags:
        title = say("load_test.sag", a=sag.lanes[0], b=sag.lanes[1], ohm=sag.ohm, about=sag.uncertainty_ohm)
        words = say("load_test.sag_at", volts=sag.ohm * sag.amps, amps=sag.amps)
        new = expected.get((sag.lanes[0], sag.lanes[1]))
        mark = Mark.TELLS
        if new is not None:
            too_many = sag.ohm - new
            words += " " + say("load_test.sag_expected", ohm=new)
            poor = too_many - sag.uncertainty_ohm > max(JOINT_OHM, (JOINT_TIMES - 1) * new)
            mark = Mark.LOOK if poor else Mark.GOOD
            if poor:
                words += " " + say("load_test.sag_joint", ohm=too_many, watts=too_many * sag.amps**2)
        yield TraceFinding(mark=mark, title=title, says=words)


def _say_unbalance(volts: float | None, amps: float | None) -> Iterator[TraceFinding]:
    if volts is not None:
        good = volts <= MOST_VOLTS_PERCENT
        words = say("load_test.volts_alike") if good else say("load_test.volts_apart", limit=MOST_VOLTS_PERCENT)
        title = say("load_test.volts_unbalance", percent=volts)
        yield TraceFinding(mark=Mark.GOOD if good else Mark.LOOK, title=title, says=words)
    if amps is not None:
        good = amps <= MOST_AMPS_PERCENT
        words = say("load_test.amps_alike") if good else say("load_test.amps_apart", limit=MOST_AMPS_PERCENT)
        title = say("load_test.amps_unbalance", percent=amps)
        yield TraceFinding(mark=Mark.GOOD if good else Mark.LOOK, title=title, says=words)


def _say_stages(stages: Sequence[Stage]) -> Iterator[TraceFinding]:
    staged = [stage for stage in stages if stage.kind in (StepKind.STAGE_ON, StepKind.STAGE_OFF)]
    if not staged:
        return
    words = "; ".join(
        say("load_test.stage_on", at=_clock(each_stage.at_s), amps=each_stage.amps)
        if each_stage.amps > 0
        else say("load_test.stage_off", at=_clock(each_stage.at_s), amps=-each_stage.amps)
        for each_stage in staged[:12]
    )
    yield TraceFinding(
        mark=Mark.TELLS, title=say("load_test.stages", count=len(staged)), says=words, at_s=staged[0].at_s
    )


def _say_gaps(channels: Sequence[Channel], gaps: Sequence[Gap]) -> Iterator[TraceFinding]:
    times = [gap.at_s for gap in gaps if gap.what == "amps lost"]
    chattering = [a for a, b in zip(times, times[CHATTER_TIMES - 1 :], strict=False) if b - a <= CHATTER_S]
    if chattering:
        title, words = say("load_test.chatters"), say("load_test.chatters_why")
        yield TraceFinding(mark=Mark.LOOK, title=title, says=words, at_s=chattering[0])
    for text, title, why in (
        ("no data", say("load_test.no_data"), say("load_test.no_data_why")),
        ("volts lost", say("load_test.volts_lost"), say("load_test.volts_lost_why")),
        ("amps lost", say("load_test.amps_lost"), say("load_test.amps_lost_why")),
    ):
        own_gaps = [each_gap for each_gap in gaps if each_gap.what == text]
        if own_gaps:
            first = own_gaps[0]
            label = "" if first.channel is None else channels[first.channel].label
            words = say("load_test.times", count=len(own_gaps), at=_clock(first.at_s), label=label, lasts=first.lasts_s)
            mark = Mark.TELLS if text == "no data" else Mark.LOOK
            yield TraceFinding(mark=mark, title=title, says=f"{words} {why}", at_s=first.at_s)


def _clock(seconds: float) -> str:
    """Minutes and seconds since the trace began."""
    minutes, seconds_over = divmod(round(seconds), 60)
    return f"{minutes}:{seconds_over:02d}"
