"""What should be there: the circuit that a plate asks, the load that a circuit may carry, and what matches."""

import math
from collections.abc import Iterator

from pydantic import Field

from zesty_copper.core.circuit.parts.conductor import FEET_PER_METRE, Metal, gauge_words
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.ratings.inputs.sheet import Box, Device, Insulation, Run, Sheet, Use, Wires
from zesty_copper.core.ratings.inputs.tables import exactly, first_from, table
from zesty_copper.core.ratings.rules.plate.demand import (
    as_supplied,
    circuit_amps,
    device_most_amps,
    is_compressor,
    load_amps,
)
from zesty_copper.core.ratings.rules.plate.equipment import disconnect_amps
from zesty_copper.core.ratings.rules.protection import (
    ELEMENT_DEVICE_AMPS,
    FIRST_SHARE,
    device_ahead,
    least_device,
    most_ahead,
    most_by_conductor,
)
from zesty_copper.core.ratings.rules.wires.ampacity import at_terminals, derated, with_rateable_runs
from zesty_copper.core.ratings.rules.wires.boxes import needed_in3
from zesty_copper.core.ratings.rules.wires.drop import BRANCH_PERCENT, ohm_per_kft
from zesty_copper.core.ratings.worked import Worked, computed, given, number
from zesty_copper.core.words import say

__all__ = ["DISCONNECT_STEPS", "Wanted", "smallest_copper", "what_it_may_carry", "what_matches", "what_should_be_there"]

DISCONNECT_STEPS = (30.0, 60.0, 100.0, 200.0, 400.0)
"""Usual ratings of disconnects; common practice, no source."""


class Wanted(Frozen):
    """One thing that should be there, or that would match."""

    what: str
    answer: str
    worked: Worked | None = None
    source: str
    part: str | None = Field(default=None, description="id of the part that it would replace")


def what_should_be_there(sheet: Sheet) -> tuple[Wanted, ...]:
    """Return least conductors, device, disconnect, contactor and grounding conductor for the plate."""
    return tuple(_for_plate(as_supplied(with_rateable_runs(sheet))))


def _for_plate(sheet: Sheet) -> Iterator[Wanted]:
    plate = sheet.plate
    need = circuit_amps(plate)
    if need is None:
        return
    like = next((run for run in sheet.runs if not run.inside_equipment), Run(name="branch", size_awg=12))
    device = _device(sheet)
    for metal in Metal:
        least = _least_run(sheet, like.model_copy(update={"metal": metal}), need.value, device)
        if least is None:
            continue
        size, worked = least
        about = f"{gauge_words(size)} {metal.words}"
        yield Wanted(
            what=f"Smallest {metal.words} wire", answer=about, worked=worked, source="NEC 310.16, 110.14(C), 240.4"
        )
        if metal is Metal.COPPER and (box := _splice_box(sheet, size)) is not None:
            yield box
    if device is not None:
        words = "Largest breaker or fuse" if is_compressor(plate) or plate.mocp_amps else "Breaker or fuse"
        source = "plate, NEC 440.22" if is_compressor(plate) else "NEC 210.20(A), 424.4(B)"
        yield Wanted(what=words, answer=f"{number(device.value)} A", worked=device, source=source)
        ground = first_from("grounding", device.value, "copper")
        if ground is not None:
            answer = f"{gauge_words(int(float(ground)))} copper, or as thick as the circuit's own"
            yield Wanted(what="Grounding conductor", answer=answer, source="NEC 250.122(A)")
    open_at = disconnect_amps(plate) or need
    step = next((s for s in DISCONNECT_STEPS if s >= open_at.value - 1e-9), None)
    if step is not None:
        worked = open_at.then(given("up to a usual rating", step, "A"))
        yield Wanted(
            what="Disconnect", answer=f"{number(step)} A, in sight", worked=worked, source="NEC 440.12, 440.14, 424.19"
        )
    load = load_amps(plate)
    if load is not None and (contactor := first_from("contactor_steps", load.value)) is not None:
        answer = f"{number(float(contactor))} A, {sheet.legs or 2} poles"
        worked = load.then(given("up to a usual rating", float(contactor), "A"))
        yield Wanted(what="Contactor", answer=answer, worked=worked, source="common practice, no source")


def smallest_copper(sheet: Sheet) -> int | None:
    """Return the thinnest copper that the plate asks, as AWG; none where nothing is known of it."""
    supplied = as_supplied(with_rateable_runs(sheet))
    need = circuit_amps(supplied.plate)
    if need is None:
        return None
    like = next((run for run in supplied.runs if not run.inside_equipment), Run(name="branch", size_awg=12))
    least = _least_run(supplied, like.model_copy(update={"metal": Metal.COPPER}), need.value, _device(supplied))
    return None if least is None else least[0]


def _device(sheet: Sheet) -> Worked | None:
    """Return the largest device of a compressor, or the least for what lasts [A]."""
    plate = sheet.plate
    if plate.mocp_amps is not None:
        return Worked(steps=(given("maximum overcurrent protection on the plate", plate.mocp_amps, "A"),))
    if is_compressor(plate):
        return device_most_amps(plate, FIRST_SHARE)
    need = circuit_amps(plate)
    return None if need is None else least_device(need)


def _splice_box(sheet: Sheet, size: int) -> Wanted | None:
    """Return the least box for a splice of such conductors: every leg and neutral in and out, and the grounds."""
    legs = (sheet.legs or 2) + sheet.neutral
    box = Box(
        name="box",
        wires=(Wires(size_awg=size, count=2 * legs),),
        grounds=(Wires(size_awg=size, count=2),),
        clamps=True,
    )
    worked = needed_in3(box, sheet.edition)
    if worked is None:
        return None
    fitting = [(float(row[1]), str(row[0])) for row in table("boxes").rows if float(row[1]) >= worked.value]
    answer = f"{worked.value:.3g} in³ or more"
    if fitting:
        volume, name = min(fitting)
        answer += f", as a {name} box ({number(volume)} in³)"
    return Wanted(what="Box for a splice of them", answer=answer, worked=worked, source="NEC 314.16")


def _least_run(sheet: Sheet, like: Run, amps: float, device: Worked | None) -> tuple[int, Worked] | None:
    """Return the thinnest size that carries the load at its terminals and where it runs, and suits the device."""
    load = load_amps(sheet.plate)
    where = load.value if sheet.plate.use is Use.HEAT and sheet.plate.mca_amps is None and load else amps
    sizes = [int(float(row[1])) for row in table("ampacity").rows if row[0] == like.metal]
    for size in sizes:
        run = like.model_copy(update={"size_awg": size})
        ends, there = at_terminals(run, amps), derated(run, sheet.edition)
        if ends.value < amps - 1e-9 or there.value < where - 1e-9:
            continue
        if device is not None and not is_compressor(sheet.plate):
            most = most_by_conductor(run, amps, sheet.edition)
            if most.value < device.value - 1e-9:
                continue
        return size, Worked(steps=(given("asked", amps, "A"), *there.steps, *ends.steps))
    return None


def what_it_may_carry(sheet: Sheet) -> tuple[Wanted, ...]:
    """Return the most load and heat of the present circuit, and the longest run for 3 %."""
    return tuple(_for_circuit(as_supplied(with_rateable_runs(sheet))))


def _for_circuit(sheet: Sheet) -> Iterator[Wanted]:
    runs = [run for run in sheet.runs if not run.inside_equipment]
    devices = [device for device in sheet.devices if not device.protects_elements]
    if not runs or not devices:
        return
    device = min(devices, key=lambda share_amps: share_amps.amps)
    ends = min((at_terminals(run, device.amps) for run in runs), key=lambda share_amps: share_amps.value)
    there = min((derated(run, sheet.edition) for run in runs), key=lambda share_amps: share_amps.value)
    small = [
        held
        for run in runs
        if sheet.plate.use not in (Use.COMPRESSOR, Use.MOTOR)
        and (held := exactly("small_conductors", "device", run.metal, run.size_awg)) is not None
    ]
    # The 125 % of what lasts are asked of device and terminals; where the wire runs, it carries the load as it is.
    shared = [device.amps, ends.value, *small]
    limits = [0.8 * min(shared), there.value]
    lasting = Worked(
        steps=(
            given(f"{device.name}", device.amps, "A"),
            given("conductors may carry at their terminals", ends.value, "A"),
            *(given("limit of a small conductor", value, "A") for value in small),
            computed(
                "80 % of the lowest, as it lasts",
                f"0.8 × min({', '.join(number(share_amps) for share_amps in shared)})",
                limits[0],
                "A",
            ),
            given("conductors may carry where they run", there.value, "A"),
            computed("the lower", f"min({', '.join(number(limit) for limit in limits)})", min(limits), "A"),
        )
    )
    yield Wanted(
        what="Most load that lasts", answer=f"{lasting.value:.3g} A", worked=lasting, source="NEC 210.19(A), 210.20(A)"
    )
    volts = sheet.nominal_volts
    if volts is None:
        return
    factor, sign = (math.sqrt(3), "√3 × ") if sheet.three_phase else (1.0, "")
    kw = factor * volts * lasting.value / 1000
    heat = lasting.then(computed("as heat", f"{sign}{number(volts)} × {number(lasting.value)} ÷ 1000", kw, "kW"))
    yield Wanted(what="Most electric heat", answer=f"{kw:.3g} kW", worked=heat, source="NEC 424.4(B)")
    asked = circuit_amps(sheet.plate)
    amps = lasting.value if asked is None else asked.value
    if not amps:
        return  # where it is too hot for the insulation it may carry nothing, over any length
    run = max(runs, key=lambda share_amps: share_amps.length_m or 0.0)
    ohm = ohm_per_kft(run, heat=sheet.plate.use is Use.HEAT)
    way, sign = (math.sqrt(3), "√3") if sheet.three_phase else (2.0, "2")
    feet = 1000 * BRANCH_PERCENT / 100 * volts / (way * amps * ohm[-1].value)
    words = f"1000 × 0.03 × {number(volts)} ÷ ({sign} × {number(amps)} × {number(ohm[-1].value)})"
    longest = Worked(steps=(given("amps", amps, "A"), *ohm, computed("longest run for 3 %", words, feet, "ft")))
    metres = feet / FEET_PER_METRE
    yield Wanted(
        what="Longest run for 3 %",
        answer=f"{feet:.3g} ft ({metres:.3g} m)",
        worked=longest,
        source="NEC 210.19(A), informational note",
    )


def _most_of_replacement(sheet: Sheet, device: Device) -> tuple[float | None, str]:
    """The largest device that may be put in again, and what says so; none where nothing that was read does.

    What was found is no measure: it may be what was over-fused. Ahead of elements it is their own limit.
    """
    plate = sheet.plate
    if device.protects_elements:
        return ELEMENT_DEVICE_AMPS, "code"
    if plate.mocp_amps is not None and not device.feeder:
        return plate.mocp_amps, "plate"
    runs = [run for run in with_rateable_runs(sheet).runs if not run.inside_equipment]
    runs = [run for run in runs if device_ahead(sheet, run) == device]
    by_wire = [most_ahead(sheet, run, device).value for run in runs]
    return (min(by_wire), "wire and motors") if by_wire else (None, "")


def what_matches(sheet: Sheet) -> tuple[Wanted, ...]:
    """Return what a replacement must match, part by part."""
    return tuple(_matches(as_supplied(sheet)))


def _matches(sheet: Sheet) -> Iterator[Wanted]:
    volts = f"{number(sheet.nominal_volts)} V" if sheet.nominal_volts else "the system's volts"
    for device in sheet.devices:
        most, by = _most_of_replacement(sheet, device)
        limit = f", {number(most)} A at most by the {by}" if most is not None else ""
        kept = device.amps if most is None else min(device.amps, most)
        if most is None:
            answer = say("ratings.replacement_maximum_unread", amps=number(device.amps), volts=volts)
        elif device.sort == "fuse":
            answer = (
                f"{number(kept)} A{limit}, same class and body, time-delay for motors, {volts} or more, all legs alike"
            )
        else:
            poles = f"{device.poles} poles, " if device.poles else ""
            answer = f"{number(kept)} A{limit}, {poles}{volts}, listed for this panel, interrupting rating kept"
        yield Wanted(
            what=f"Replacement {device.name}", answer=answer, source="NEC 110.3(B), 110.9, 240.60", part=device.part
        )
    load = load_amps(sheet.plate)
    for contactor in sheet.contactors:
        amps = max(value for value in (contactor.motor_amps, load.value if load else None, 0.0) if value is not None)
        step = first_from("contactor_steps", amps) if amps else None
        parts = [
            f"{number(float(step))} A or more" if step is not None else "at least the amps it switches",
            f"{contactor.poles} {'pole' if contactor.poles == 1 else 'poles'} or more"
            if contactor.poles
            else "poles as before or more",
            f"{number(contactor.coil_volts)} V coil" if contactor.coil_volts else "the coil's volts as marked",
        ]
        name, usual = f"Replacement {contactor.name}", "common practice, no source"
        yield Wanted(what=name, answer=", ".join(parts), source=usual, part=contactor.part)
    for run in sheet.runs[:1]:
        metal = run.metal.words
        size, of = gauge_words(run.size_awg), f"{gauge_words(run.size_awg)} {metal}"
        heat = "105 °C or more" if run.insulation in (None, Insulation.THHN) else "the insulation's temperature or more"
        yield Wanted(
            what="Crimp terminal",
            answer=f"for {of}, stud or tab as found, bare or nylon for {heat}, crimped with its own tool",
            source="UL 486A-486B, NEC 110.14(A)",
        )
        yield Wanted(
            what="Connector",
            answer=f"whose range holds {size} and its mates, marked for {metal}, {volts} or more, 90 °C or more",
            source="UL 486C, NEC 110.14(B)",
        )
