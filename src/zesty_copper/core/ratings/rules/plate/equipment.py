"""Rules about the equipment: its plate's own arithmetic, disconnect, contactor, and amps against the plate."""

from collections.abc import Iterator, Sequence

from zesty_copper.core.circuit.unbalance import MOST_AMPS_PERCENT
from zesty_copper.core.ratings.formulas import transformer_load
from zesty_copper.core.ratings.inputs.sheet import ContactorPlate, Disconnector, Plate, Sheet, Use
from zesty_copper.core.ratings.inputs.tables import first_from
from zesty_copper.core.ratings.rules.finding import Finding, Relation, Ruling
from zesty_copper.core.ratings.rules.plate.demand import (
    CONTINUOUS,
    LEAST_DEVICE_AMPS,
    heat_of,
    heating_amps,
    is_compressor,
    load_amps,
    marked_amps,
)
from zesty_copper.core.ratings.worked import Worked, asked_amps, computed, given, number
from zesty_copper.core.ratings.worked import share as share_words
from zesty_copper.core.words import say

__all__ = [
    "amps_over_plate",
    "amps_unbalance",
    "contactor_amps",
    "contactor_coil",
    "contactor_locked",
    "contactor_poles",
    "disconnect_amps",
    "disconnect_locked",
    "disconnect_rating",
    "disconnect_sight",
    "heat_amps",
    "plate_true",
    "transformer",
    "transformer_device_amps",
    "transformer_primary",
]

DISCONNECT_SHARE = 1.15
"""Of a motor-compressor's rated amps (NEC 440.12(A)(1))."""
PLATE_SLACK = 0.03
"""By how much a plate's rounding may differ."""
COIL_LEAST, COIL_MOST = 0.85, 1.10
"""Share of its volts that a coil is made for: NEMA ICS 2, from memory."""
EIGHTH_HP = 0.125
HEAT_SLACK = 0.1
"""Elements' own tolerance and their cold start; common practice, no source."""


def plate_true(sheet: Sheet) -> Iterator[Finding]:
    """Judge whether MCA and MOCP can both be true.

    With L the largest motor and O the others, MCA = 1.25·L + O and MOCP ≤ 2.25·L + O = MCA + L. As O is not less than
    nothing, L ≤ MCA/1.25, hence MOCP ≤ 1.8·MCA; and a device that may not carry the MCA cannot serve.
    """
    ruling = Ruling("plate_true", sheet.edition, "plate")
    plate = sheet.plate
    if plate.mca_amps is None or plate.mocp_amps is None:
        return
    mca, mocp = plate.mca_amps, plate.mocp_amps
    step = given("MOCP on the plate", mocp, "A")
    if mocp > LEAST_DEVICE_AMPS and is_compressor(plate):
        most = Worked(
            steps=(
                given("MCA on the plate", mca, "A"),
                computed("the largest motor is at most", f"{number(mca)} ÷ 1.25", mca / CONTINUOUS, "A"),
                computed(
                    "so MOCP is at most", f"{number(mca)} + {number(mca / CONTINUOUS)}", mca + mca / CONTINUOUS, "A"
                ),
            )
        )
        words = say("ratings.mocp_mca_their_own", number=number(mocp), number_2=number(mca), value=most.value)
        yield ruling.at_most(words, step, most)
    if mocp > LEAST_DEVICE_AMPS or mca > LEAST_DEVICE_AMPS:
        least = given("MCA on the plate", mca, "A")
        words = say("ratings.mocp_must_not_less", number=number(mocp), number_2=number(mca))
        yield ruling.at_least(words, step, least)
    yield from _plate_against_motors(sheet, plate, mca)


def _plate_against_motors(sheet: Sheet, plate: Plate, mca: float) -> Iterator[Finding]:
    ruling = Ruling("plate_true", sheet.edition, "plate")
    if not plate.motors or heat_of(plate) is not None or not is_compressor(plate):
        return
    amps = sorted((motor.amps for motor in plate.motors), reverse=True)
    text = " + ".join([f"1.25 × {number(amps[0])}", *map(number, amps[1:])])
    value = CONTINUOUS * amps[0] + sum(amps[1:])
    built = Worked(
        steps=(
            computed("125 % of the largest motor, the others as they are", text, value, "A"),
            computed("and 3 % for rounding", f"1.03 × {number(value)}", (1 + PLATE_SLACK) * value, "A"),
        )
    )
    step = given("MCA on the plate", mca, "A")
    words = say("ratings.mca_motors_plate_make", number=number(mca), number_2=number(value))
    yield ruling.at_most(words, step, built)
    least = Worked(
        steps=(
            built.steps[0],
            computed("less 3 % for rounding", f"0.97 × {number(value)}", (1 - PLATE_SLACK) * value, "A"),
        )
    )
    yield ruling.at_least(words, step, least)


def disconnect_amps(plate: Plate) -> Worked | None:
    """Return the least rating of the disconnect [A]: 115 % of motor-compressors, 125 % of heat with its motors."""
    load = load_amps(plate)
    if load is None:
        return None
    share = CONTINUOUS if heat_of(plate) is not None else DISCONNECT_SHARE
    return load.then(computed(share_words(share), f"{number(share)} × {number(load.value)}", share * load.value, "A"))


def disconnect_rating(sheet: Sheet) -> Iterator[Finding]:
    """Judge the disconnect's amps."""
    need = disconnect_amps(sheet.plate)
    for disconnect in sheet.disconnects:
        ruling = Ruling.on("disconnect_rating", sheet, disconnect)
        missing = [
            words
            for words, lacks in (("its rating", disconnect.amps is None), ("the equipment's amps", need is None))
            if lacks
        ]
        if disconnect.amps is not None and need is None and sheet.plate.mca_amps is not None:
            yield _by_mca_alone(ruling, disconnect.name, disconnect.amps, sheet.plate.mca_amps)
            continue
        if disconnect.amps is None or need is None:
            yield ruling.wants(*missing)
            continue
        step = given(f"{disconnect.name}, marked", disconnect.amps, "A")
        words = asked_amps(disconnect.amps, need)
        yield ruling.at_least(words, step, need)


def _by_mca_alone(ruling: Ruling, name: str, amps: float, mca: float) -> Finding:
    """Judge a disconnect by the MCA where no motor's amps are known.

    With L the largest motor and O the others, MCA = 1.25·L + O, so that 1.15·(L + O) lies between 0.92·MCA, where O is
    nothing, and 1.15·MCA, where L is.
    """
    most = computed("115 % of the MCA, whatever the motors are", f"1.15 × {number(mca)}", DISCONNECT_SHARE * mca, "A")
    share = DISCONNECT_SHARE / CONTINUOUS
    least = computed("92 % of it, if it is one motor alone", f"0.92 × {number(mca)}", share * mca, "A")
    step = given(f"{name}, marked", amps, "A")
    marked = given("MCA on the plate", mca, "A")
    words = say("ratings.disconnect_by_mca", number=number(amps), least=least.value, most=most.value)
    if least.value <= amps < most.value:
        return ruling.wants("the motors’ amps").model_copy(update={"words": words})
    limit = most if amps >= most.value else least
    return ruling.at_least(words, step, Worked(steps=(marked, limit)))


def _locked(plate: Plate) -> Worked | None:
    """Return what all motors together draw held still, or one that is known and the others running [A]."""
    if not plate.motors or all(motor.locked_amps is None for motor in plate.motors):
        return None
    steps = [
        given(f"{m.name}, held", m.locked_amps, "A") if m.locked_amps else given(f"{m.name}, running", m.amps, "A")
        for m in plate.motors
    ]
    if len(steps) == 1:
        return Worked(steps=tuple(steps))
    total = sum(step.value for step in steps)
    return Worked(steps=(*steps, computed("together", " + ".join(number(step.value) for step in steps), total, "A")))


def disconnect_locked(sheet: Sheet) -> Iterator[Finding]:
    """Judge the disconnect's locked-rotor rating."""
    if is_compressor(sheet.plate):
        yield from _held("disconnect_locked", sheet, sheet.disconnects, "its locked-rotor or horsepower rating")


def contactor_locked(sheet: Sheet) -> Iterator[Finding]:
    """Judge the contactor's locked-rotor amps."""
    yield from _held("contactor_locked", sheet, sheet.contactors, "its locked-rotor rating")


def _held(key: str, sheet: Sheet, switches: Sequence[Disconnector | ContactorPlate], missing: str) -> Iterator[Finding]:
    """Judge what must break or carry the current of a held rotor."""
    need = _locked(sheet.plate)
    for switch in switches:
        ruling = Ruling.on(key, sheet, switch)
        if need is None:
            continue
        if switch.locked_amps is None:
            yield ruling.wants(missing)
            continue
        step = given(f"{switch.name}, locked-rotor rating", switch.locked_amps, "A")
        words = say("ratings.held_are_asked", number=number(switch.locked_amps), value=need.value)
        yield ruling.at_least(words, step, need)


def disconnect_sight(sheet: Sheet) -> Iterator[Finding]:
    """Judge whether the disconnect is in sight of the equipment.

    A heater's may be lockable instead, unless it has a motor over 1/8 hp (NEC 424.19(A), (B)).
    """
    for disconnect in sheet.disconnects:
        ruling = Ruling.on("disconnect_sight", sheet, disconnect)
        if disconnect.in_sight is None:
            yield ruling.wants("whether it is in sight")
            continue
        locked = sheet.plate.use is Use.HEAT and bool(disconnect.lockable)
        small = sheet.plate.largest_motor_hp
        if not disconnect.in_sight and locked and sheet.plate.motors and small is None:
            missing = "the horsepower of its largest motor (1/8 hp decides)"
            yield ruling.wants(missing)
            continue
        motor = bool(sheet.plate.motors) and small is not None and small > EIGHTH_HP
        if motor and not disconnect.in_sight:
            words = say("ratings.not_sight_heater_has")
            yield ruling.stated(words, is_met=False)
            continue
        words = say("ratings.sight_within_reach") if disconnect.in_sight else say("ratings.not_sight_equipment")
        if not disconnect.in_sight and locked:
            words = say("ratings.not_sight_but_can")
        yield ruling.stated(words, is_met=disconnect.in_sight or locked)


def contactor_amps(sheet: Sheet) -> Iterator[Finding]:
    """Judge the contactor's running amps against what it switches: motors inductive, heat resistive."""
    plate = sheet.plate
    for contactor in sheet.contactors:
        ruling = Ruling.on("contactor_amps", sheet, contactor)
        load = load_amps(plate)
        needed = contactor.switches_amps or (None if load is None else load.value)
        resistive = contactor.switches_heat or (heat_of(plate) is not None and not plate.motors)
        marked = contactor.heat_amps or contactor.motor_amps if resistive else contactor.motor_amps
        sort = "resistive" if resistive else "full-load"
        if marked is None or needed is None:
            missing = [w for w, lacks in (("its rating", marked is None), ("the load's amps", needed is None)) if lacks]
            yield ruling.wants(*missing)
            continue
        step = given(f"{contactor.name}, {sort} rating", marked, "A")
        need = given("what it switches", needed, "A")
        words = say("ratings.contactor_against_switched", number=number(marked), sort=sort, needed=needed)
        yield ruling.at_least(words, step, need)


def contactor_poles(sheet: Sheet) -> Iterator[Finding]:
    """Judge whether every leg is switched."""
    for contactor in sheet.contactors:
        ruling = Ruling.on("contactor_poles", sheet, contactor)
        if contactor.poles is None or sheet.legs is None:
            continue
        step = given(f"{contactor.name}, poles", contactor.poles, "poles")
        need = given("legs of the supply", sheet.legs, "poles")
        words = say("ratings.legs_are_switched", poles=contactor.poles, legs=sheet.legs)
        if contactor.poles < sheet.legs:
            words += say("ratings.out_what_hangs_other")
        yield ruling.at_least(words, step, need)


def contactor_coil(sheet: Sheet) -> Iterator[Finding]:
    """Judge the coil's volts against the control circuit's."""
    for contactor in sheet.contactors:
        ruling = Ruling.on("contactor_coil", sheet, contactor)
        if contactor.coil_volts is None or contactor.control_volts is None:
            continue
        step = given("control volts", contactor.control_volts, "V")
        for share, relation in ((COIL_LEAST, Relation.AT_LEAST), (COIL_MOST, Relation.AT_MOST)):
            text = f"{number(share)} × {number(contactor.coil_volts)}"
            need = computed(f"{share_words(share)} of the coil's volts", text, share * contactor.coil_volts, "V")
            words = say(
                "ratings.v_control_coil_v",
                number=number(contactor.control_volts),
                number_2=number(contactor.coil_volts),
            )
            yield ruling.compared(words, step, relation, need)


def transformer(sheet: Sheet) -> Iterator[Finding]:
    """Judge a control transformer's plate against all coils that it feeds."""
    for plate in sheet.transformers:
        ruling = Ruling.on("transformer", sheet, plate)
        if not plate.coils_va:
            yield ruling.wants("the coils' VA")
            continue
        load = transformer_load(plate.volt_amps, plate.coils_va)
        words = say("ratings.coils_take_va_va", value=load.steps[-2].value, number=number(plate.volt_amps))
        most = given("all of its plate", 100.0, "%")
        yield ruling.at_most(words, load, most)


def transformer_primary(sheet: Sheet) -> Iterator[Finding]:
    """Judge the device ahead of a control transformer's primary, by its own amps (NEC 450.3(B))."""
    for plate in sheet.transformers:
        ruling = Ruling.on("transformer_primary", sheet, plate)
        if plate.primary_device_amps is None or plate.class_2:
            continue  # a Class 2 transformer limits itself (NEC 725)
        if plate.primary_volts is None:
            yield ruling.wants("its primary's volts")
            continue
        most = transformer_device_amps(plate.volt_amps, plate.primary_volts)
        words = say(
            "ratings.device_against_maximum", number=number(plate.primary_device_amps), number_2=number(most.value)
        )
        yield ruling.at_most(words, given("device ahead", plate.primary_device_amps, "A"), most)


def transformer_device_amps(volt_amps: float, primary_volts: float) -> Worked:
    """Return the largest device ahead of a transformer protected on its primary alone [A] (NEC 450.3(B))."""
    amps = volt_amps / primary_volts
    share = float(first_from("transformer_protection", amps, "share") or 125)
    return Worked(
        steps=(
            computed("primary amps", f"{number(volt_amps)} ÷ {number(primary_volts)}", amps, "A"),
            computed(f"{number(share)} %", f"{number(share / 100)} × {number(amps)}", share / 100 * amps, "A"),
        )
    )


def amps_over_plate(sheet: Sheet) -> Iterator[Finding]:
    """Judge the most of any leg against what the plate says flows."""
    load = marked_amps(sheet.plate)
    if not sheet.measured.amps or load is None:
        return
    amps = max(sheet.measured.amps)
    step = given("most of any leg, measured", amps, "A")
    words = say("ratings.flowed_plate_says", number=number(amps), value=load.value)
    heat, plate = heat_of(sheet.plate), sheet.plate
    rated = plate.heat_volts or plate.most_volts or plate.least_volts
    if heat is not None and sheet.measured.volts and rated is not None and max(sheet.measured.volts) > rated:
        # An element draws more at more volts, and is not overloaded for that.
        volts = max(sheet.measured.volts)
        more = heat.value * (volts / rated - 1)
        text = f"{number(heat.value)} × ({number(volts)} ÷ {number(rated)} − 1)"
        load = load.then(
            computed("what the heat draws more at these volts", text, more, "A"),
            computed("together", f"{number(load.value)} + {number(more)}", load.value + more, "A"),
        )
        words = say("ratings.flowed_v_plate_makes", number=number(amps), number_2=number(volts), value=load.value)
    yield Ruling("amps_over_plate", sheet.edition, "equipment").at_most(words, step, load)


def heat_amps(sheet: Sheet) -> Iterator[Finding]:
    """Judge measured amps of heat against its plate's at the volts measured, within a tenth."""
    ruling = Ruling("heat_amps", sheet.edition, "heat")
    plate, measured = sheet.plate, sheet.measured
    load = heating_amps(plate) if heat_of(plate) is not None else None
    if plate.use is not Use.HEAT or load is None or not measured.amps:
        return
    if not measured.volts or plate.least_volts is None:
        missing = "the volts at it while it runs" if not measured.volts else "the plate's volts"
        yield ruling.wants(missing)
        return
    volts, amps = min(measured.volts), max(measured.amps)
    rated = plate.heat_volts or plate.most_volts or plate.least_volts
    text = f"{number(load.value)} × {number(volts)} ÷ {number(rated)}"
    due = load.then(computed("at the volts measured", text, load.value * volts / rated, "A"))
    step = given("most of any leg, measured", amps, "A")
    words = say("ratings.flowed_v_are_due", number=number(amps), number_2=number(volts), value=due.value)
    for share, relation in ((1 - HEAT_SLACK, Relation.AT_LEAST), (1 + HEAT_SLACK, Relation.AT_MOST)):
        side = f"{number(share)} × {number(due.value)}"
        need = due.then(computed("to a tenth", side, share * due.value, "A"))
        yield ruling.compared(words, step, relation, need)


def amps_unbalance(sheet: Sheet) -> Iterator[Finding]:
    """Judge how far one leg's amps stand from the mean of three."""
    amps = sheet.measured.amps
    if len(amps) != 3 or not sheet.three_phase or not any(amps):
        return
    unbalanced = unbalance(amps, "A")
    need = given("usual most", MOST_AMPS_PERCENT, "%")
    words = say("ratings.amps_differ_from_their", value=unbalanced.value)
    yield Ruling("amps_unbalance", sheet.edition, "equipment").at_most(words, unbalanced, need)


def unbalance(values: tuple[float, ...], unit: str) -> Worked:
    """Return 100·max|x − mean|/mean of three legs [%] (NEMA MG 1 14.36)."""
    mean = sum(values) / 3
    far = max(values, key=lambda value: abs(value - mean))
    text = " + ".join(map(number, values))
    return Worked(
        steps=(
            computed("mean", f"({text}) ÷ 3", mean, unit),
            computed("farthest from it", f"abs({number(far)} − {number(mean)})", abs(far - mean), unit),
            computed(
                "unbalance", f"100 × {number(abs(far - mean))} ÷ {number(mean)}", 100 * abs(far - mean) / mean, "%"
            ),
        )
    )
