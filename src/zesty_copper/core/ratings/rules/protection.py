"""Rules about breakers and fuses: against the conductors, the plate, the load, and each other."""

from collections.abc import Iterator

from zesty_copper.core.circuit.parts.conductor import gauge_words
from zesty_copper.core.ratings.inputs.sheet import Device, DeviceSort, Edition, Run, Sheet, Use
from zesty_copper.core.ratings.inputs.tables import exactly, first_from, last_to, table
from zesty_copper.core.ratings.rules.finding import Finding, Ruling, Status, as_worked, unless_unread, unless_worse
from zesty_copper.core.ratings.rules.plate.demand import (
    LEAST_DEVICE_AMPS,
    circuit_amps,
    device_most_amps,
    heat_of,
    is_compressor,
    load_amps,
)
from zesty_copper.core.ratings.rules.wires.ampacity import (
    at_best,
    at_worst,
    unread_marks,
    unread_surroundings,
    usable,
    what_was_assumed,
)
from zesty_copper.core.ratings.worked import Step, Worked, asked_amps, computed, given, number
from zesty_copper.core.words import say

__all__ = [
    "device_ahead",
    "device_for_ac",
    "device_for_load",
    "device_over_conductor",
    "device_over_plate",
    "device_sort",
    "device_without_plate",
    "heat_subdivided",
    "least_device",
    "load_on_device",
    "most_ahead",
    "most_by_conductor",
    "standard_size",
]

ELEMENT_AMPS, ELEMENT_DEVICE_AMPS = 48.0, 60.0
"""Most that one subdivided circuit of elements may draw, and be protected at (NEC 424.22(B))."""
NEXT_SIZE_UP_TO_AMPS = 800.0
FIRST_SHARE, LAST_SHARE = 1.75, 2.25
CONTINUOUS_SHARE = 0.8
MOTOR_SHARE = {DeviceSort.BREAKER: 2.5, DeviceSort.FUSE: 1.75}
"""Inverse-time breaker and time-delay fuse ahead of a motor (NEC Table 430.52(C)(1), from memory)."""
FAST_FUSE_SHARE = 3.0
"""Fuse without time delay ahead of a motor (the same)."""


def _ahead(sheet: Sheet) -> list[Device]:
    """Devices that are there for this equipment alone, ahead of its own wiring."""
    return [device for device in sheet.devices if not device.protects_elements and not device.feeder]


def _protected(sheet: Sheet) -> Iterator[tuple[Device, Run]]:
    """Every run with the device ahead of it."""
    for run in sheet.runs:
        device = None if run.inside_equipment else device_ahead(sheet, run)
        if device is not None:
            yield device, run


def device_ahead(sheet: Sheet, run: Run) -> Device | None:
    """Return the device that protects a run: the one that is named, or the only one there is; else nobody knows."""
    devices = [device for device in sheet.devices if not device.protects_elements]
    if run.behind is not None:
        return next((device for device in devices if device.part == run.behind), None)
    # A run that the circuit draws ahead of every device has none; one that was typed is behind the only one.
    return devices[0] if len(devices) == 1 and run.part is None else None


def _rating(device: Device) -> Worked:
    return as_worked(given(f"{device.name}, marked", device.amps, "A"))


def device_over_conductor(sheet: Sheet) -> Iterator[Finding]:
    """Judge the device against what the conductors may carry.

    Up to 800 A the next standard size above the ampacity will do, small conductors excepted; for motor-compressor
    equipment neither binds, where the device is within the plate's maximum (NEC 240.4(B), (D), (G)).
    """
    plate = sheet.plate
    for run in sheet.runs:
        if sheet.devices and not run.inside_equipment and device_ahead(sheet, run) is None:
            yield Ruling.on("device_over_conductor", sheet, run).wants("which breaker or fuse is ahead of it")
    for device, run in _protected(sheet):
        ruling = Ruling("device_over_conductor", sheet.edition, f"{device.name} ahead of {run.name}", device.part)
        if plate.use is None:
            yield ruling.wants("what the circuit feeds: compressor, heat or motor")
            continue
        most = most_ahead(sheet, run, device)
        words = say(
            "ratings.device_ahead_of_wire",
            number=number(device.amps),
            gauge=gauge_words(run.size_awg),
            metal=run.metal,
            value=most.value,
        )
        finding = ruling.at_most(words, _rating(device), most, assumed=what_was_assumed(run))
        would = device.amps <= most_ahead(sheet, at_best(run), device).value
        if finding.status is Status.NOT_MET and would:
            finding = unless_unread(finding, *unread_marks(run))
        elif finding.status is Status.MET and device.amps > most_ahead(sheet, at_worst(run), device).value:
            finding = unless_worse(finding, *unread_surroundings(run))
        yield finding


def most_ahead(sheet: Sheet, run: Run, device: Device) -> Worked:
    """Return the largest device ahead of a run: by the plate of a motor-compressor, else by the conductors [A]."""
    plate = sheet.plate
    own = is_compressor(plate) and not run.feeder
    if plate.use is Use.MOTOR and plate.motors and not run.feeder and heat_of(plate) is None:
        return _most_ahead_of_motors(sheet, run, device)
    asked = circuit_amps(plate)
    most = most_by_conductor(run, asked.value if asked else device.amps, sheet.edition)
    if own and plate.mocp_amps is not None:
        # What the wire allows of its own right it allows beside a smaller plate too, which another rule judges.
        by_plate = given("the plate's maximum, which takes the place of 240.4(D)", plate.mocp_amps, "A")
        return as_worked(by_plate) if plate.mocp_amps >= most.value else most
    built = device_most_amps(plate, LAST_SHARE) if own else None
    return built if built is not None and built.value > most.value else most


def _most_ahead_of_motors(sheet: Sheet, run: Run, device: Device) -> Worked:
    """Return the largest device ahead of motors [A]: 250 % for a breaker, 175 % for a time-delay fuse, and up a size.

    That is for one motor (NEC 430.52(C)(1), Table 430.52). The amps of others are added, and the sum goes down to a
    standard size (430.62(A)), but to no less than 240.4(B) gives the conductors (430.53(C)(4)). Article 430 takes the
    place of the small-conductor limits, as 440 does (240.4(G)).
    """
    first, *others = sorted((motor.sizing_amps for motor in sheet.plate.motors), reverse=True)
    fast = device.sort is DeviceSort.FUSE and device.time_delay is False
    share = FAST_FUSE_SHARE if fast else MOTOR_SHARE[device.sort]
    words, text = f"{number(100 * share)} % of the largest motor", f"{number(share)} × {number(first)}"
    steps = [computed(words, text, share * first, "A")]
    if (up := first_from("standard_sizes", share * first)) is not None:
        steps.append(given("next standard size", float(up), "A"))
    if not others:
        return Worked(steps=tuple(steps))
    together = steps[-1].value + sum(others)
    added = " + ".join(map(number, (steps[-1].value, *others)))
    down = max(last_to("standard_sizes", together) or LEAST_DEVICE_AMPS, LEAST_DEVICE_AMPS)
    steps += [computed("with the others as they are", added, together, "A")]
    steps += [given("down to a standard size", down, "A")]
    may = usable(run, first, sheet.edition)
    by_wire = float(first_from("standard_sizes", may.value) or may.value)
    if by_wire <= down:
        return Worked(steps=tuple(steps))
    return Worked(steps=(*steps, *may.steps, given("next standard size above the wire", by_wire, "A")))


def most_by_conductor(run: Run, amps: float, edition: Edition) -> Worked:
    """Return the largest device that conductors of their own right allow [A]."""
    may = usable(run, amps, edition)
    steps: list[Step] = list(may.steps)
    up = first_from("standard_sizes", may.value)
    most = may.value
    if up is not None and may.value <= NEXT_SIZE_UP_TO_AMPS:
        most = float(up)
        steps.append(given("next standard size", most, "A"))
    small = exactly("small_conductors", "device", run.metal, run.size_awg)
    if small is not None:
        steps.append(given(f"limit of a small conductor, {gauge_words(run.size_awg)} {run.metal}", small, "A"))
        most = min(most, small)
        steps.append(computed("the lower", f"min({number(steps[-2].value)}, {number(small)})", most, "A"))
    return Worked(steps=tuple(steps))


def device_over_plate(sheet: Sheet) -> Iterator[Finding]:
    """Judge the device against the plate's maximum."""
    most = sheet.plate.mocp_amps
    if most is None:
        if sheet.plate.use is Use.COMPRESSOR and not sheet.plate.motors:
            for device in _ahead(sheet):
                ruling = Ruling.on("device_over_plate", sheet, device)
                yield ruling.wants("the plate's MOCP")
        return
    for device in _ahead(sheet):
        ruling = Ruling.on("device_over_plate", sheet, device)
        yield ruling.at_most(
            say("ratings.device_against_maximum", number=number(device.amps), number_2=number(most)),
            _rating(device),
            given("maximum overcurrent protection on the plate", most, "A"),
        )


def device_without_plate(sheet: Sheet) -> Iterator[Finding]:
    """Judge the device by the motors where no plate gives a maximum: 175 %, to 225 % if it will not start."""
    plate = sheet.plate
    if plate.mocp_amps is not None or not is_compressor(plate):
        return
    most, first = device_most_amps(plate, LAST_SHARE), device_most_amps(plate, FIRST_SHARE)
    if most is None or first is None:
        return
    for device in _ahead(sheet):
        ruling = Ruling.on("device_without_plate", sheet, device)
        words = say("ratings.begin_only_if_will", number=number(device.amps), value=first.value, value_2=most.value)
        yield ruling.at_most(words, _rating(device), most)


def device_for_load(sheet: Sheet) -> Iterator[Finding]:
    """Judge whether the device may carry what lasts: 125 % of heat with its fan; a compressor's MCA."""
    plate = sheet.plate
    asked, load = circuit_amps(plate), load_amps(plate)
    for device in _ahead(sheet):
        ruling = Ruling.on("device_for_load", sheet, device)
        # A device listed for all of its rating need not have the 125 % (NEC 210.20(A), exception).
        need = load if device.full_rated and plate.mca_amps is None and heat_of(plate) is not None else asked
        if need is None:
            yield ruling.wants("the plate's MCA, or its amps")
            continue
        if plate.mocp_amps is not None and need.value > plate.mocp_amps:
            continue  # the plate contradicts itself, which another rule says
        yield ruling.at_least(asked_amps(device.amps, need), _rating(device), need)


def standard_size(sheet: Sheet) -> Iterator[Finding]:
    """Judge whether the rating is one of the standard ones."""
    sizes = [row[0] for row in table("standard_sizes").rows]
    of_fuses = [row[0] for row in table("fuse_sizes").rows]
    for device in sheet.devices:
        ruling = Ruling.on("standard_size", sheet, device)
        fits = device.amps in sizes or (device.sort is DeviceSort.FUSE and device.amps in of_fuses)
        words = say("ratings.is_standard_rating", number=number(device.amps), what="" if fits else "not ")
        yield ruling.stated(words, is_met=fits)


def device_sort(sheet: Sheet) -> Iterator[Finding]:
    """Judge whether fuses are there where the plate asks for them, or a HACR breaker where that will do."""
    if sheet.plate.fuse_or_hacr and not sheet.plate.fuses_only:
        yield from _fuse_or_hacr(sheet)
    if not sheet.plate.fuses_only:
        return
    fits = any(device.sort is DeviceSort.FUSE for device in _ahead(sheet))
    words = say("ratings.fuses_are_ahead_plate") if fits else say("ratings.plate_asks_fuses_only")
    yield Ruling("device_sort", sheet.edition, "equipment").stated(words, is_met=fits)


def _fuse_or_hacr(sheet: Sheet) -> Iterator[Finding]:
    for device in _ahead(sheet):
        ruling = Ruling.on("device_sort", sheet, device)
        if device.sort is DeviceSort.FUSE:
            yield ruling.stated(say("ratings.fuses_are_ahead_plate"), is_met=True)
        elif device.for_ac is None:
            yield ruling.wants("whether the breaker is marked HACR")
        else:
            words = say("ratings.marked_air_conditioning_equipment", what="" if device.for_ac else "not ")
            yield ruling.stated(words, is_met=device.for_ac)


def device_for_ac(sheet: Sheet) -> Iterator[Finding]:
    """Judge the mark for air-conditioning equipment."""
    if not is_compressor(sheet.plate):
        return
    for device in _ahead(sheet):
        ruling = Ruling.on("device_for_ac", sheet, device)
        if device.sort is DeviceSort.BREAKER and device.for_ac is not None:
            words = say("ratings.marked_air_conditioning_equipment", what="" if device.for_ac else "not ")
            yield ruling.stated(words, is_met=device.for_ac)


def heat_subdivided(sheet: Sheet) -> Iterator[Finding]:
    """Judge whether heat of more than 48 A is subdivided, and each part behind 60 A at most."""
    plate = sheet.plate
    heat = heat_of(plate)
    if heat is None:
        return
    devices = [device for device in sheet.devices if device.protects_elements]
    most = given("most behind one device", ELEMENT_DEVICE_AMPS, "A")
    for device in devices:
        ruling = Ruling.on("heat_subdivided", sheet, device)
        words = say("ratings.ahead_elements_60_most", number=number(device.amps))
        yield ruling.at_most(words, _rating(device), most)
    drawn = plate.limit_of_elements_amps if devices or plate.limit_of_elements_amps else heat.value
    ruling = Ruling("heat_subdivided", sheet.edition, "elements")
    if drawn is None:
        yield ruling.wants("the amps of the largest bank")
        return
    words = say("ratings.elements_one_circuit_draw", drawn=drawn)
    step = given("elements on one circuit", drawn, "A")
    yield ruling.at_most(words, step, given("most on one circuit", ELEMENT_AMPS, "A"))


def load_on_device(sheet: Sheet) -> Iterator[Finding]:
    """Judge amps measured against 80 % of the device: what lasts three hours must not be more."""
    if not sheet.measured.amps or is_compressor(sheet.plate):
        return
    amps = max(sheet.measured.amps)
    for device in _ahead(sheet):
        ruling = Ruling.on("load_on_device", sheet, device)
        most = CONTINUOUS_SHARE * device.amps
        steps = (
            given(f"{device.name}, marked", device.amps, "A"),
            computed("80 % of it", f"0.8 × {number(device.amps)}", most, "A"),
        )
        yield ruling.at_most(
            say("ratings.flowed_may_hours", number=number(amps), number_2=number(most)),
            given("most of any leg, measured", amps, "A"),
            Worked(steps=steps),
        )


def least_device(need: Worked) -> Worked:
    """Return the least standard device for what lasts [A]; the caller has put the 125 % into the need."""
    up = first_from("standard_sizes", need.value)
    return need if up is None else need.then(given("up to a standard size", float(up), "A"))
