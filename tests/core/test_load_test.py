"""Volts and amps over time: signals whose starts, slopes, stages and ohms are known, noise included."""

from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import signal, stats

from zesty_copper.core.errors import BadInput
from zesty_copper.core.load_test.bins import envelope
from zesty_copper.core.load_test.report import LoadReport, analysed
from zesty_copper.core.load_test.steadiness import CLIMB_SHARE, HEAT_CLIMB_SHARE, Drift, slope_of
from zesty_copper.core.load_test.steps import StepKind
from zesty_copper.core.load_test.tell import Mark
from zesty_copper.core.load_test.trace import Channel, Series, Trace, trace_of

VOLTS = Channel(kind="volts", lanes=("L1", "L2"))
AMPS = Channel(kind="amps", lanes=("L1",))
HEAT = Channel(kind="amps", lanes=("L1",), heats=True)


def motor(
    seconds: np.ndarray, at: float, *, level: float = 18.0, peak: float = 92.0, constant: float = 0.25
) -> np.ndarray:
    """Amps of a motor that starts: its inrush decays by an exponential, as a locked rotor's current does."""
    after = seconds - at
    return np.where(after < 0, 0.0, level + (peak - level) * np.exp(-np.maximum(after, 0) / constant))


def seen(amps: np.ndarray, seconds: np.ndarray, *, ohm: float = 0.3, rest: float = 241.0, noise: float = 0.2) -> Trace:
    """A trace of volts that fall by so many ohms, and of amps, with a meter's noise."""
    rng = np.random.default_rng(7)
    volts = rest - ohm * amps + rng.normal(0, noise, len(seconds))
    return trace_of([VOLTS, AMPS], seconds, np.array([volts, np.abs(amps + rng.normal(0, 0.05, len(seconds)))]))


@pytest.mark.parametrize("rate", [20, 50, 200])
def test_a_start_is_measured_as_it_was_made(rate: int) -> None:
    """(92 − 18)·exp(−t/0.25) falls below a tenth of 18 A after 0.25·ln(74/1.8) = 0.929 s."""
    seconds = np.arange(0, 180, 1 / rate)
    report = analysed(seen(motor(seconds, 30.0), seconds))
    (start,) = report.starts
    assert start.at_s == pytest.approx(30.0, abs=2 / rate)
    assert start.peak_amps == pytest.approx(92.0, rel=0.01)
    assert start.settles_s == pytest.approx(0.25 * np.log(74 / 1.8), abs=2 / rate)
    assert start.level_amps == pytest.approx(18.0, abs=0.1)
    assert start.sees_peak
    assert [finding.mark for finding in report.findings if finding.title == "Start at 0:30"] == [Mark.GOOD]


def test_a_start_that_stalls_or_is_sampled_too_slowly_is_said_to_be_so() -> None:
    seconds = np.arange(0, 120, 0.1)
    slow = analysed(seen(motor(seconds, 30.0, constant=1.6), seconds))
    assert slow.starts[0].settles_s == pytest.approx(1.6 * np.log(74 / 1.8), abs=0.3)
    assert "Slow" in slow.findings[0].says
    stalled = np.where((seconds > 30) & (seconds < 41), 92.0 + 9 * np.sin(seconds * 3), 0.0)
    plated = Channel(kind="amps", lanes=("L1",), rated_amps=18.0)
    report = analysed(trace_of([plated], seconds, np.asarray([stalled], dtype=np.float64)))
    assert Mark.LOOK in marked(report, "does not turn")
    coarse = np.arange(0, 600, 2.0)
    told = analysed(seen(motor(coarse, 60.0), coarse))
    assert "too far apart to see the peak" in told.findings[0].says


@pytest.mark.parametrize("ohm", [0.08, 0.25, 0.9])
def test_ohms_ahead_of_the_load_are_those_that_were_put_there(ohm: float) -> None:
    """Against a least-squares line through all settled samples by SciPy, and the number itself."""
    seconds = np.arange(0, 600, 0.25)
    amps = sum(motor(seconds, at) * (seconds < at + 60) for at in (30.0, 180.0, 400.0))
    trace = seen(np.asarray(amps), seconds, ohm=ohm)
    (sag,) = analysed(trace).sags
    assert sag.steps == 6
    assert abs(sag.ohm - ohm) < sag.uncertainty_ohm < 0.02
    line = stats.linregress(trace.values[1], trace.values[0])
    assert sag.ohm == pytest.approx(-line.slope, abs=0.01)
    (told,) = (finding for finding in analysed(trace, {("L1", "L2"): 0.1}).findings if "Ω" in finding.title)
    assert told.mark is (Mark.LOOK if ohm > 0.15 else Mark.GOOD)
    assert ("high-resistance connection" in told.says) is (ohm > 0.15)


def test_a_supply_that_wanders_is_not_taken_for_a_joint() -> None:
    """The interval covers the true ohms although the supply itself drifts by volts over minutes."""
    rng = np.random.default_rng(3)
    inside = 0
    for _ in range(60):
        seconds = np.arange(0, 400, 0.5)
        wander = np.cumsum(rng.normal(0, 0.12, len(seconds)))
        amps = motor(seconds, 60.0) * (seconds < 300)
        volts = 240 + wander - 0.3 * amps + rng.normal(0, 0.2, len(seconds))
        (sag,) = analysed(trace_of([VOLTS, AMPS], seconds, np.array([volts, amps]))).sags
        inside += abs(sag.ohm - 0.3) < sag.uncertainty_ohm
    assert inside >= 51


def noises(rng: np.random.Generator, count: int) -> dict[str, Series]:
    """Noise of several kinds, each with a standard deviation of one."""
    white = rng.normal(0, 1, count)
    slow = signal.lfilter([1], [1, -0.9], rng.normal(0, np.sqrt(1 - 0.81), count))
    hum = np.sqrt(2) * np.sin(2 * np.pi * (0.37 * np.arange(count) + rng.uniform()))
    kinds = {"white": white, "correlated": slow, "hum": hum, "last digit": np.round(white)}
    return {kind: np.asarray(noise, dtype=np.float64) for kind, noise in kinds.items()}


@pytest.mark.parametrize("share", [HEAT_CLIMB_SHARE, CLIMB_SHARE])
def test_flat_and_noisy_traces_are_hardly_ever_said_to_climb(share: float) -> None:
    """Fewer than one in a hundred, for each kind of noise, at a length and a rate that loggers have."""
    rng = np.random.default_rng(11)
    wrong = dict.fromkeys(noises(rng, 8), 0)
    tries = 600
    for _ in range(tries):
        count = int(rng.choice([6, 40, 240, 2400]))
        seconds = np.arange(count) * (600 / count)
        size = float(rng.choice([0.05, 0.3, 1.0]))
        for kind, noise in noises(rng, count).items():
            if count == 6 and kind in ("correlated", "hum"):
                continue  # numbers typed by hand lie minutes apart
            slope = slope_of(seconds.astype(np.float64), (20.0 + size * noise).astype(np.float64), share)
            assert slope is not None
            wrong[kind] += slope.drift is Drift.CLIMBS
    assert all(count < tries / 100 for count in wrong.values()), wrong


@given(climb=st.floats(-0.06, 0.06), noise=st.floats(0.001, 0.01), seed=st.integers(0, 2**32 - 1))
@settings(max_examples=60, deadline=None)
def test_a_slope_is_that_of_a_least_squares_line(climb: float, noise: float, seed: int) -> None:
    """Against SciPy's fit of all samples; and what climbs clearly is said to."""
    rng = np.random.default_rng(seed)
    seconds = np.arange(0, 600, 0.5)
    values = 20 * (1 + climb * seconds / 600) + rng.normal(0, 20 * noise, len(seconds))
    slope = slope_of(seconds, values, HEAT_CLIMB_SHARE)
    assert slope is not None
    line = stats.linregress(seconds, values)
    assert slope.per_minute / 60 == pytest.approx(line.slope, abs=3 * line.stderr + 1e-9)
    assert slope.uncertainty / 60 > 1.5 * line.stderr
    if climb > 0.02 + 3 * noise:
        assert slope.drift is Drift.CLIMBS
    if climb < -0.02 - 3 * noise:
        assert slope.drift is Drift.FALLS


def staged(seconds: np.ndarray) -> np.ndarray:
    """Two banks of heat, one after the other, both off again."""
    return 20.8 * ((seconds >= 40) & (seconds < 400)) + 20.6 * ((seconds >= 85) & (seconds < 360))


def test_stages_come_and_go_when_they_were_made_to() -> None:
    seconds = np.arange(0, 480, 0.5)
    rng = np.random.default_rng(5)
    values = np.array([staged(seconds) + rng.normal(0, 0.1, len(seconds))])
    report = analysed(trace_of([HEAT], seconds, values))
    assert [stage.kind for stage in report.stages] == [
        StepKind.START,
        StepKind.STAGE_ON,
        StepKind.STAGE_OFF,
        StepKind.STOP,
    ]
    assert [one.at_s for one in report.stages] == pytest.approx([40, 85, 360, 400], abs=1.0)
    assert [one.amps for one in report.stages] == pytest.approx([20.8, 20.6, -20.6, -20.8], abs=0.2)
    assert report.starts == (), "an element has no inrush"
    both = max((level for level in report.levels), key=lambda one: one.level)
    assert both.level == pytest.approx(41.4, abs=0.1)
    assert both.slope is not None
    assert both.slope.drift is Drift.STEADY


def marked(report: LoadReport, words: str) -> list[Mark]:
    return [finding.mark for finding in report.findings if words in finding.title + finding.says]


def test_an_element_that_climbs_is_told_and_one_that_falls_a_little_is_not() -> None:
    seconds = np.arange(0, 900, 1.0)
    rng = np.random.default_rng(9)
    for change, words, mark in ((0.03, "never climbs", Mark.LOOK), (-0.006, "Steady", Mark.GOOD)):
        amps = 20.8 * (1 + change * seconds / 900) + rng.normal(0, 0.05, len(seconds))
        assert mark in marked(analysed(trace_of([HEAT], seconds, amps[None])), words)


def test_three_legs_are_compared_under_load() -> None:
    """NEMA MG 1: 206, 210 and 202 V are 1.94 % apart; 18, 22 and 20 A 10 %."""
    seconds = np.arange(0, 300, 1.0)
    on = seconds >= 60
    legs = [("L1", "L2"), ("L1", "L3"), ("L2", "L3")]
    volts = [212 - (212 - level) * on for level in (206.0, 210.0, 202.0)]
    amps = [level * on for level in (18.0, 23.0, 19.0)]
    channels = [Channel(kind="volts", lanes=leg) for leg in legs]
    channels += [Channel(kind="amps", lanes=(one,)) for one in ("L1", "L2", "L3")]
    report = analysed(trace_of(channels, seconds, np.array([*volts, *amps])))
    assert report.volts_unbalance_percent == pytest.approx(100 * 4 / 206)
    assert report.amps_unbalance_percent == pytest.approx(15.0)
    assert marked(report, "Volts of the legs") == [Mark.GOOD]
    assert marked(report, "Amps of the legs") == [Mark.LOOK]


def test_legs_at_rest_are_not_compared() -> None:
    """Five minutes of rest and one of load: what a clamp shows of nothing is no unbalance; 18, 23 and 19 A are 15 %."""
    rng = np.random.default_rng(6)
    seconds = np.arange(0, 360, 0.5)
    on = seconds >= 300
    idle = np.abs(rng.normal(0, 0.05, (3, len(seconds))))
    amps = np.array([level * on for level in (18.0, 23.0, 19.0)]) + idle
    channels = [Channel(kind="amps", lanes=(one,)) for one in ("L1", "L2", "L3")]
    assert analysed(trace_of(channels, seconds, amps)).amps_unbalance_percent == pytest.approx(15.0, abs=0.3)
    assert analysed(trace_of(channels, seconds, idle)).amps_unbalance_percent is None


def test_gaps_and_short_losses_are_told_apart() -> None:
    seconds = np.arange(0, 300, 0.5)
    volts = np.full(len(seconds), 240.0)
    amps = np.full(len(seconds), 18.0)
    volts[200:204] = 3.0
    amps[400:403] = 0.0
    amps[480:500] = np.nan
    kept = (seconds < 60) | (seconds > 72)
    report = analysed(trace_of([VOLTS, AMPS], seconds[kept], np.array([volts, amps])[:, kept]))
    told = [(gap.what, gap.channel, round(gap.at_s)) for gap in report.gaps]
    assert told == [("no data", None, 60), ("volts lost", 0, 100), ("amps lost", 1, 200), ("no data", 1, 240)]
    assert report.gaps[0].lasts_s == pytest.approx(13.0)
    assert marked(report, "intermittent connection") == [Mark.LOOK]


def test_a_contactor_that_chatters_is_heard() -> None:
    seconds = np.arange(0, 120, 0.05)
    amps: Series = np.asarray([18.0 * ((seconds > 30) & ((seconds < 40) | (seconds % 4 < 2.5)))], dtype=np.float64)
    assert Mark.LOOK in marked(analysed(trace_of([AMPS], seconds, amps)), "chatters")


def test_a_few_typed_numbers_tell_what_they_can() -> None:
    """Seven numbers typed by hand: rest, then a level that climbs by a quarter."""
    seconds = np.array([0.0, 30.0, 60.0, 180.0, 300.0, 480.0, 660.0])
    volts = np.array([242.0, 242.0, 236.4, 236.0, 235.6, 235.0, 234.6])
    amps = np.array([0.0, 0.0, 18.2, 19.1, 20.1, 21.4, 22.9])
    report = analysed(trace_of([VOLTS, AMPS], seconds, np.array([volts, amps])))
    (sag,) = report.sags
    assert sag.ohm == pytest.approx(5.6 / 18.2, rel=0.02)
    assert Mark.LOOK in marked(report, "Climbs by")
    # One number at rest is a level too.
    shortest = analysed(trace_of([VOLTS, AMPS], seconds[1:], np.array([volts, amps])[:, 1:]))
    assert next(level.level for level in shortest.levels if level.channel == 0) == 242.0


@pytest.mark.parametrize(
    ("change", "field"),
    [
        (lambda c, s, v: (c, s[::-1], v), "seconds"),
        (lambda c, s, v: (c, s[:2], v[:, :2]), "seconds"),
        (lambda c, s, v: ([c[0], c[0]], s, v), "channels"),
        (lambda c, s, v: (c, s, v * np.nan), "values"),
        (lambda c, s, v: (c, s, v[:1]), "values"),
        (lambda _, s, v: ([], s, v), "channels"),
    ],
)
def test_what_is_no_trace_is_refused(change: Callable[..., tuple[list[Channel], Series, Series]], field: str) -> None:
    seconds = np.arange(0, 10, 1.0)
    channels, times, values = change([VOLTS, AMPS], seconds, np.ones((2, 10)))
    with pytest.raises(BadInput) as told:
        trace_of(channels, times, values)
    assert told.value.field == field


@given(st.integers(3, 4000), st.integers(2, 500), st.integers(0, 2**32 - 1))
@settings(max_examples=40, deadline=None)
def test_what_a_chart_draws_leaves_no_peak_out(count: int, stretches: int, seed: int) -> None:
    rng = np.random.default_rng(seed)
    values = rng.normal(0, 1, (2, count))
    values[:, rng.integers(0, count, max(1, count // 5))] = np.nan
    drawn = envelope(np.arange(count, dtype=float), values, values, stretches)
    assert len(drawn.seconds) <= max(stretches, min(count, stretches))
    for i in range(2):
        if np.isfinite(values[i]).any():
            assert np.nanmax(drawn.high[i]) == np.nanmax(values[i])
            assert np.nanmin(drawn.low[i]) == np.nanmin(values[i])
