"""Rules about how conductors are run: what may be the grounding path, and several in parallel."""

from collections.abc import Iterator

from zesty_copper.core.circuit.parts.conductor import FEET_PER_METRE, gauge_words
from zesty_copper.core.ratings.inputs.sheet import Method, Run, Sheet
from zesty_copper.core.ratings.rules.finding import Finding, Ruling, Status
from zesty_copper.core.ratings.worked import given, number
from zesty_copper.core.words import say

__all__ = ["grounding_path", "parallel_size"]

LONGEST_FLEXIBLE_FT = 6.0
"""Of all flexible conduit in one return path together (NEC 250.118)."""
SMALL_LIQUIDTIGHT_IN, LARGE_LIQUIDTIGHT_IN = 0.5, 1.25
LOW_AMPS, HIGH_AMPS = 20.0, 60.0
"""Most ahead of flexible metal conduit and of liquidtight to ½ in; of liquidtight from ¾ to 1¼ in (NEC 250.118)."""
LEAST_PARALLEL_AWG = 0


def grounding_path(sheet: Sheet) -> Iterator[Finding]:
    """Judge whether a run without a ground wire has another grounding path (NEC 250.118)."""
    for run in sheet.runs:
        if run.inside_equipment or run.method is None:
            continue
        ruling = Ruling.on("grounding_path", sheet, run)
        if run.grounding_awg is not None:
            yield ruling.stated(say("ratings.ground_wire_runs_along"), is_met=True)
            continue
        match run.method:
            case Method.METAL_CONDUIT:
                yield ruling.stated(say("ratings.conduit_is_the_path"), is_met=True)
            case Method.FLEXIBLE_METAL | Method.LIQUIDTIGHT_METAL:
                yield _flexible(ruling, sheet, run)
            case Method.NONMETALLIC:
                yield ruling.stated(say("ratings.plastic_is_no_path"), is_met=False)
            case Method.METAL_CLAD | Method.CABLE:
                yield ruling.wants("the ground wire in the cable")


def _flexible(ruling: Ruling, sheet: Sheet, run: Run) -> Finding:
    """Judge by what was read; what was not is taken at its best, and passes nothing."""
    ahead = _ahead(sheet, run)
    missing = [
        words
        for words, lacks in (
            ("the device ahead", ahead is None),
            ("its length", run.flexible_m is None),
            ("its trade size", run.trade_size_in is None),
            ("whether it bends or shakes in use", run.moves is None),
        )
        if lacks
    ]
    size_in = run.trade_size_in or (
        SMALL_LIQUIDTIGHT_IN if run.method is Method.FLEXIBLE_METAL else LARGE_LIQUIDTIGHT_IN
    )
    finding = _flexible_of(ruling, run, size_in, ahead)
    return finding if finding.status is not Status.MET or not missing else ruling.wants(*missing)


def _flexible_of(ruling: Ruling, run: Run, size_in: float, ahead: float | None) -> Finding:
    if run.moves:
        return ruling.stated(say("ratings.what_moves_wants_wire"), is_met=False)
    feet = (run.flexible_m or 0.0) * FEET_PER_METRE
    if feet > LONGEST_FLEXIBLE_FT + 1e-6:
        words = say("ratings.flexible_too_long", number=number(round(feet, 2)))
        return ruling.at_most(words, given("flexible conduit", feet, "ft"), given("at most", LONGEST_FLEXIBLE_FT, "ft"))
    most = _most_amps(run, size_in)
    if most is None:
        return ruling.stated(say("ratings.liquidtight_too_large"), is_met=False)
    amps = ahead or 0.0
    words = say("ratings.device_ahead_of_flexible", number=number(amps), number_2=number(most))
    return ruling.at_most(words, given("device ahead", amps, "A"), given("most ahead of it", most, "A"))


def _most_amps(run: Run, size_in: float) -> float | None:
    """Return the largest device ahead of flexible conduit that is to be the path [A]; None where it may not be one."""
    if size_in > LARGE_LIQUIDTIGHT_IN:
        return None
    return LOW_AMPS if run.method is Method.FLEXIBLE_METAL or size_in <= SMALL_LIQUIDTIGHT_IN else HIGH_AMPS


def _ahead(sheet: Sheet, run: Run) -> float | None:
    devices = [device for device in sheet.devices if not device.protects_elements]
    named = [device.amps for device in devices if run.behind is not None and device.part == run.behind]
    return max(named or [device.amps for device in devices if not device.feeder], default=None)


def parallel_size(sheet: Sheet) -> Iterator[Finding]:
    """Judge whether conductors in parallel are large enough to be (NEC 310.10(G)(1))."""
    for run in sheet.runs:
        if run.parallel == 1 or run.inside_equipment:
            continue
        is_met = run.size_awg <= LEAST_PARALLEL_AWG
        words = say("ratings.parallel_from", count=run.parallel, size=gauge_words(run.size_awg))
        yield Ruling.on("parallel_size", sheet, run).stated(words, is_met=is_met)
