"""Rules about conductors: carrying the load, insulation, colour, and the grounding conductor beside them."""

from collections.abc import Callable, Iterator

from zesty_copper.core.circuit.parts.conductor import gauge_words
from zesty_copper.core.ratings.inputs.as_written import GAUGES
from zesty_copper.core.ratings.inputs.sheet import Run, Sheet, Use
from zesty_copper.core.ratings.inputs.tables import exactly, first_from, table
from zesty_copper.core.ratings.rules.finding import (
    Finding,
    Relation,
    Ruling,
    Status,
    as_worked,
    unless_unread,
    unless_worse,
)
from zesty_copper.core.ratings.rules.plate.demand import circuit_amps, is_compressor, load_amps
from zesty_copper.core.ratings.rules.protection import most_by_conductor
from zesty_copper.core.ratings.rules.wires.ampacity import (
    at_best,
    at_terminals,
    at_worst,
    derated,
    is_rateable,
    unread_marks,
    unread_surroundings,
    what_was_assumed,
)
from zesty_copper.core.ratings.worked import Step, Worked, computed, given, number
from zesty_copper.core.words import say

__all__ = ["colours", "conductor_derated", "conductor_terminals", "grounding", "least_size", "wet_insulation"]


SLACK = 1e-4
"""One digit in ten thousand is no difference."""


def _runs(sheet: Sheet) -> list[Run]:
    """Runs that these rules judge: the maker's own wiring inside equipment is not."""
    return [run for run in sheet.runs if not run.inside_equipment]


def _size(run: Run) -> str:
    return f"{gauge_words(run.size_awg)} {run.metal.words}"


def least_size(sheet: Sheet) -> Iterator[Finding]:
    """Judge runs thinner than any power conductor may be; the other rules leave them out."""
    for run in _runs(sheet):
        ruling = Ruling.on("least_size", sheet, run)
        if not is_rateable(run):
            words = say("ratings.power_conductors_begin_14", size=_size(run))
            yield ruling.stated(words, is_met=False)


def conductor_terminals(sheet: Sheet) -> Iterator[Finding]:
    """Judge what terminals allow a conductor against the MCA, or 125 % of what lasts."""
    need = circuit_amps(sheet.plate)
    amps = 0.0 if need is None else need.value
    yield from _carrying("conductor_terminals", sheet, need, lambda run: at_terminals(run, amps), "at its terminals")


def conductor_derated(sheet: Sheet) -> Iterator[Finding]:
    """Judge what its surroundings allow a conductor against the MCA, or against heat as it is.

    The 125 % of a lasting load are asked of the terminals, before any derating (NEC 210.19(A)(1)).
    """
    plate = sheet.plate
    lasting = plate.use is Use.HEAT and plate.mca_amps is None
    need = load_amps(plate) if lasting else circuit_amps(plate)
    yield from _carrying("conductor_derated", sheet, need, lambda run: derated(run, sheet.edition), "where it runs")


def _carrying(
    key: str, sheet: Sheet, need: Worked | None, may_carry: Callable[[Run], Worked], where: str
) -> Iterator[Finding]:
    """Judge every run by what it may carry somewhere; what hangs on unread marks is not told."""
    for run in _runs(sheet):
        ruling = Ruling.on(key, sheet, run)
        if need is None:
            yield ruling.wants("the plate's MCA, or its amps")
            continue
        carries = may_carry(run)
        finding = ruling.at_least(
            say("ratings.may_carry_are_asked", size=_size(run), value=carries.value, where=where, value_2=need.value),
            carries,
            need,
            assumed=what_was_assumed(run),
        )
        would = may_carry(at_best(run)).value >= need.value
        if finding.status is Status.NOT_MET and would:
            finding = unless_unread(finding, *unread_marks(run))
        elif finding.status is Status.MET and may_carry(at_worst(run)).value < need.value * (1 - SLACK):
            finding = unless_worse(finding, *unread_surroundings(run))
        yield finding


def wet_insulation(sheet: Sheet) -> Iterator[Finding]:
    """Judge the insulation of runs that lie in the wet."""
    for run in _runs(sheet):
        ruling = Ruling.on("wet_insulation", sheet, run)
        if not run.wet:
            continue
        if run.insulation is None:
            yield ruling.wants("the mark on the insulation")
            continue
        from_table = next(row for row in table("insulation").rows if row[0] == run.insulation)
        fits = from_table[3] == "wet"
        words = say("ratings.insulation_for_wet", insulation=run.insulation, what="" if fits else "not ")
        yield ruling.stated(words, is_met=fits)


def grounding(sheet: Sheet) -> Iterator[Finding]:
    """Judge the grounding conductor by the device ahead; it need not be larger than the circuit's own."""
    devices = [device for device in sheet.devices if not device.protects_elements]
    for run in _runs(sheet):
        ruling = Ruling.on("grounding", sheet, run)
        if run.grounding_awg is None:
            continue
        named = [device.amps for device in devices if run.behind is not None and device.part == run.behind]
        ahead = max(named or [device.amps for device in devices if not device.feeder], default=None)
        if ahead is None:
            yield ruling.wants("the device ahead")
            continue
        wanted = first_from("grounding", ahead, run.grounding_metal)
        if wanted is None:
            yield ruling.wants("a table for so large a device")
            continue
        steps: list[Step] = [given("device ahead", ahead, "A"), given("least by the table", float(wanted), "AWG")]
        least = float(wanted)
        if (upsized := _upsized(sheet, run, ahead)) is not None:
            size, needed_awg = upsized
            area, own_area, asked_area = (_cmil(each_number) for each_number in (int(least), run.size_awg, needed_awg))
            grown = area * own_area / asked_area
            steps += [
                given(f"the circuit asks only {gauge_words(needed_awg)}", asked_area, "cmil"),
                given(f"it has {gauge_words(size)}", own_area, "cmil"),
                computed(
                    "so the ground grows alike",
                    f"{number(area)} × {number(own_area)} ÷ {number(asked_area)}",
                    grown,
                    "cmil",
                ),
            ]
            least = float(next((awg for awg in GAUGES if _cmil(awg) >= grown - 1), GAUGES[-1]))
            steps.append(given("next size", least, "AWG"))
        if run.metal == run.grounding_metal and run.size_awg > least:
            least = float(run.size_awg)
            steps.append(given("need not be larger than the circuit's own", least, "AWG"))
        conductor = as_worked(given("grounding conductor", run.grounding_awg, "AWG"))
        is_met = run.grounding_awg <= least
        own, asked = gauge_words(run.grounding_awg), gauge_words(int(least))
        finding = ruling.stated(
            say(
                "ratings.ground_thicker_asked_behind",
                own=own,
                grounding_metal=run.grounding_metal,
                asked=asked,
                ahead=ahead,
            ),
            is_met=is_met,
        )
        needed = as_worked(steps[0]).then(*steps[1:])
        # A thicker wire has the smaller gauge number.
        yield finding.model_copy(update={"found": conductor, "required": needed, "relation": Relation.AT_MOST})


def _upsized(sheet: Sheet, run: Run, device_amps: float) -> tuple[int, int] | None:
    """Return a run's size and the least that would do, where it is thicker than that; None where it is not, or unknown.

    What its surroundings ask of it is no upsizing (NEC 250.122(B)).
    """
    need = circuit_amps(sheet.plate)
    if need is None or unread_marks(run):
        return None
    sizes = [awg for awg in GAUGES if is_rateable(run.model_copy(update={"size_awg": awg}))]
    for awg in sizes:
        resized = run.model_copy(update={"size_awg": awg})
        suits = is_compressor(sheet.plate) or most_by_conductor(resized, need.value, sheet.edition).value >= device_amps
        if (
            at_terminals(resized, need.value).value >= need.value
            and derated(resized, sheet.edition).value >= need.value
            and suits
        ):
            return (run.size_awg, awg) if _cmil(run.size_awg) > _cmil(awg) else None
    return None


def _cmil(awg: int) -> float:
    area = exactly("conductors", "area", awg)
    assert area is not None  # every gauge has its row
    return area


def colours(sheet: Sheet) -> Iterator[Finding]:
    """Judge what white, gray and green are used for, and the high leg's mark."""
    for run in _runs(sheet):
        if not run.hot_colours:
            continue
        green = [c for c in run.hot_colours if c in ("green", "bare", "green-yellow")]
        white = [c for c in run.hot_colours if c in ("white", "gray")]
        if green:
            words = say("ratings.conductor_carries_leg_color", green=green[0])
            yield Ruling.on("colour_hot", sheet, run).stated(words, is_met=False)
        elif white:
            fits = run.marked_again and run.in_cable
            how = "is marked again at both ends, in a cable" if fits else "carries a leg and must be marked again"
            words = f"A {white[0]} conductor {how}."
            if not fits and not run.in_cable:
                words = say("ratings.conductor_carries_leg_only", white=white[0])
            yield Ruling.on("colour_hot", sheet, run).stated(words, is_met=fits)
        else:
            words = say("ratings.no_leg_white_gray")
            yield Ruling.on("colour_hot", sheet, run).stated(words, is_met=True)
        if sheet.high_leg:
            fits = "orange" in run.hot_colours
            words = say("ratings.high_leg_orange") if fits else say("ratings.no_conductor_orange_high")
            yield Ruling.on("colour_high_leg", sheet, run).stated(words, is_met=fits)
