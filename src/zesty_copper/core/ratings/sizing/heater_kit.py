"""Electric heat to be replaced: what the old heater is, which kit matches it, and what its circuit then asks.

What a kit must match is common practice, no source, where no other is named; above all the kit has to be one that the
air handler's maker lists for it (NEC 110.3(B)).
"""

import math
from collections.abc import Iterator
from enum import StrEnum
from typing import Self

from pydantic import Field, StrictBool, model_validator

from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Count, Figure, Frozen
from zesty_copper.core.ratings.formulas import BTU_PER_KWH, SEA_LEVEL_FACTOR, transformer_load, unmarked_heater
from zesty_copper.core.ratings.inputs.sheet import Sheet, Use
from zesty_copper.core.ratings.rules.check import check
from zesty_copper.core.ratings.rules.finding import Finding, Status
from zesty_copper.core.ratings.sizing.sizes import Wanted, what_should_be_there
from zesty_copper.core.ratings.worked import Worked, computed, given, number
from zesty_copper.core.words import say

__all__ = ["Airflow", "HeaterAnswer", "HeaterKit", "HeaterMatch", "HeaterWanted", "OldHeater", "heater_answer"]

KW_SLACK = 0.1
"""Share by which the old heater's watts and a kit's may differ and be the same size."""
VOLT_SLACK = 0.1
"""Share of its rated volts within which a heater is on its own voltage."""


class Airflow(StrEnum):
    """Which way the air goes through the air handler."""

    UP = "up"
    DOWN = "down"
    LEFT = "left"
    RIGHT = "right"


class Control(StrEnum):
    """What calls the heat."""

    LOW_VOLTAGE = "24 V"
    LINE_120 = "120 V"
    LINE = "line voltage"


class OldHeater(Frozen):
    """What is known of the heater that is there; its plate, or ohms, or volts and amps while it ran."""

    kw: Figure | None = Field(default=None, ge=0.01, le=200, description="on its plate, kilowatt")
    rated_volts: Figure | None = Field(default=None, ge=1, le=1000)
    ohm: Figure | None = Field(default=None, ge=0.01, le=10000, description="of one element, cold, its leads off")
    volts: Figure | None = Field(default=None, ge=1, le=1000, description="across it while it ran")
    amps: Figure | None = Field(default=None, ge=0.01, le=500, description="through one element then")
    elements: Count = Field(default=1, ge=1, le=12, description="alike")

    @model_validator(mode="after")
    def _told(self) -> Self:
        if (self.volts is None) != (self.amps is None):
            raise ValueError("Volts and amps belong together: read both while it heats, or leave both out.")
        return self


class HeaterWanted(Frozen):
    """What the air handler, its circuit and its controls ask of a kit."""

    supply_volts: Figure = Field(ge=1, le=1000)
    phases: Count = Field(default=1, ge=1, le=3)
    stages: Count = Field(default=1, ge=1, le=6, description="calls for heat that the thermostat makes")
    control: Control = Control.LOW_VOLTAGE
    spare_va: Figure | None = Field(default=None, ge=0, le=1000, description="what the control transformer has left")
    airflow: Airflow | None = None
    cfm: Figure | None = Field(default=None, ge=1, le=20000, description="what the blower moves in heating")
    rise_limit_f: Figure | None = Field(default=None, ge=1, le=150, description="largest rise on the plate, °F")
    opening_width_in: Figure | None = Field(default=None, ge=0.01, le=100)
    opening_height_in: Figure | None = Field(default=None, ge=0.01, le=100)
    depth_in: Figure | None = Field(default=None, ge=0.01, le=100)


class HeaterKit(Frozen):
    """A kit that is offered."""

    name: str = Field(default="kit", min_length=1, max_length=60)
    kw: Figure = Field(ge=0.01, le=200, description="at its rated volts")
    rated_volts: Figure = Field(ge=1, le=1000)
    phases: Count = Field(default=1, ge=1, le=3)
    stages_kw: tuple[Figure, ...] = Field(default=(), max_length=6, description="of each stage")
    circuits_kw: tuple[Figure, ...] = Field(default=(), max_length=6, description="of each supply circuit")
    control: Control = Control.LOW_VOLTAGE
    control_va: Figure | None = Field(default=None, ge=0.01, le=500, description="of its coils together")
    airflow: tuple[Airflow, ...] = Field(default=(), description="ways of air that it is listed for")
    least_cfm: Figure | None = Field(default=None, ge=1, le=20000)
    width_in: Figure | None = Field(default=None, ge=0.01, le=100)
    height_in: Figure | None = Field(default=None, ge=0.01, le=100)
    depth_in: Figure | None = Field(default=None, ge=0.01, le=100)
    listed_for_it: StrictBool | None = Field(default=None, description="on the air handler maker's list")

    @model_validator(mode="after")
    def _adds_up(self) -> Self:
        for parts, words in ((self.stages_kw, "stages"), (self.circuits_kw, "circuits")):
            if parts and not math.isclose(sum(parts), self.kw, rel_tol=0.03):
                sum_words = f"{sum(parts):g} kW together, not {self.kw:g}"
                raise ValueError(f"Its {words} make {sum_words}: look at the plate again.")
        return self


class HeaterMatch(Frozen):
    """How the kit matches in one respect."""

    label: str
    status: Status
    words: str
    worked: Worked | None = None


class HeaterAnswer(Frozen):
    """The old heater's size, how the kit matches, and its circuit with the kit in place."""

    old: Worked | None = Field(description="the old heater, all elements together [kW]")
    old_words: str
    matches: tuple[HeaterMatch, ...]
    sheet: Sheet | None = Field(description="the circuit's sheet with the kit on it; none without a kit")
    findings: tuple[Finding, ...]
    wanted: tuple[Wanted, ...]


def heater_answer(old: OldHeater, wanted: HeaterWanted, kit: HeaterKit | None, sheet: Sheet | None) -> HeaterAnswer:
    """Size the old heater, hold a kit against what is wanted, and check the circuit with it.

    Raises
    ------
    BadInput
        If ohms are told without the volts that the heater is for.
    """
    size = _size(old)
    matches = tuple(_matches(size, wanted, kit)) if kit else ()
    with_kit = _with_kit(sheet, kit, wanted) if kit and sheet else None
    return HeaterAnswer(
        old=size,
        old_words=say("ratings.old_heater", kw=size.value) if size else say("ratings.old_heater_unknown"),
        matches=matches,
        sheet=with_kit,
        findings=check(with_kit) if with_kit else (),
        wanted=what_should_be_there(with_kit) if with_kit else (),
    )


def _size(old: OldHeater) -> Worked | None:
    """Return the kilowatts of the heater that is there, at its rated volts where those are known [kW]."""
    if old.kw is not None:
        return Worked(steps=(given("on its plate", old.kw, "kW"),))
    if old.ohm is not None:
        if old.rated_volts is None:
            raise BadInput(say("ratings.volts_for_ohms"), "old.rated_volts")
        return _together(unmarked_heater(old.ohm, old.rated_volts), old.elements)
    if old.volts is None or old.amps is None:
        return None
    kw = old.volts * old.amps / 1000
    ran = Worked(steps=(computed("while it ran", f"{number(old.volts)} × {number(old.amps)} ÷ 1000", kw, "kW"),))
    if old.rated_volts is not None:
        text = _squared(kw, old.rated_volts, old.volts)
        ran = ran.then(computed("at its rated volts", text, kw * (old.rated_volts / old.volts) ** 2, "kW"))
    return _together(ran, old.elements)


def _squared(kw: float, volts: float, of: float) -> str:
    return f"{number(kw)} × {number(volts)} × {number(volts)} ÷ ({number(of)} × {number(of)})"


def _together(one: Worked, elements: int) -> Worked:
    if elements == 1:
        return one
    return one.then(computed("all elements", f"{elements} × {number(one.value)}", elements * one.value, "kW"))


def at_supply(kit: HeaterKit, volts: float) -> Worked:
    """Return what a kit gives on a supply [kW]: watts go with the square of the volts."""
    kw = kit.kw * (volts / kit.rated_volts) ** 2
    steps = [given("kit, at its rated volts", kit.kw, "kW")]
    if not math.isclose(volts, kit.rated_volts):
        steps.append(computed(f"on {number(volts)} V", _squared(kit.kw, volts, kit.rated_volts), kw, "kW"))
    return Worked(steps=tuple(steps))


def _matches(size: Worked | None, wanted: HeaterWanted, kit: HeaterKit) -> Iterator[HeaterMatch]:
    yield _listed(kit)
    gives = at_supply(kit, wanted.supply_volts)
    yield _volts(wanted, kit, gives)
    yield _phases(wanted, kit)
    yield _kilowatts(size, gives)
    yield from _air(wanted, kit, gives)
    yield _stages(wanted, kit)
    yield from _controls(wanted, kit)
    yield _fits(wanted, kit)


def _told(label: str, status: Status, words: str, worked: Worked | None = None) -> HeaterMatch:
    return HeaterMatch(label=label, status=status, words=words, worked=worked)


def _listed(kit: HeaterKit) -> HeaterMatch:
    label = "Listed for this air handler"
    if kit.listed_for_it is None:
        return _told(label, Status.CANNOT_TELL, say("ratings.kit_list_unread"))
    if kit.listed_for_it:
        return _told(label, Status.MET, say("ratings.kit_listed"))
    return _told(label, Status.NOT_MET, say("ratings.kit_unlisted"))


def _volts(wanted: HeaterWanted, kit: HeaterKit, gives: Worked) -> HeaterMatch:
    rated, supply = kit.rated_volts, wanted.supply_volts
    share = supply / rated
    if share > 1 + VOLT_SLACK:
        words = say("ratings.kit_overvolted", rated=rated, supply=supply, share=share**2)
        return _told("Voltage", Status.NOT_MET, words, gives)
    if share < 1 - VOLT_SLACK:
        words = say("ratings.kit_undervolted", rated=rated, supply=supply, kw=gives.value)
        return _told("Voltage", Status.ADVICE, words, gives)
    return _told("Voltage", Status.MET, say("ratings.kit_volts", rated=rated, supply=supply))


def _phases(wanted: HeaterWanted, kit: HeaterKit) -> HeaterMatch:
    if kit.phases > wanted.phases:
        return _told("Phases", Status.NOT_MET, say("ratings.kit_needs_three_phase"))
    if kit.phases < wanted.phases:
        return _told("Phases", Status.ADVICE, say("ratings.kit_on_two_legs"))
    phases = "three-phase" if kit.phases == 3 else "single-phase"
    return _told("Phases", Status.MET, say("ratings.kit_phases", phases=phases))


def _kilowatts(size: Worked | None, gives: Worked) -> HeaterMatch:
    kw = gives.value
    if size is None:
        return _told("Size", Status.CANNOT_TELL, say("ratings.kit_size_unknown", kw=kw), gives)
    if kw > size.value * (1 + KW_SLACK):
        return _told("Size", Status.NOT_MET, say("ratings.kit_larger", kw=kw, old=size.value), gives)
    if kw < size.value * (1 - KW_SLACK):
        return _told("Size", Status.ADVICE, say("ratings.kit_smaller", kw=kw, old=size.value), gives)
    return _told("Size", Status.MET, say("ratings.kit_same_size", kw=kw, old=size.value), gives)


def least_air(kw: float, rise_limit_f: float) -> Worked:
    """Return the least air that keeps heat within a rise [cfm]: 3412·kW/(1.08·ΔT) at sea level (ASHRAE)."""
    cfm = BTU_PER_KWH * kw / (SEA_LEVEL_FACTOR * rise_limit_f)
    text = f"3412 × {number(kw)} ÷ (1.08 × {number(rise_limit_f)})"
    return Worked(steps=(computed("least air", text, cfm, "cfm"),))


def _air(wanted: HeaterWanted, kit: HeaterKit, gives: Worked) -> Iterator[HeaterMatch]:
    questions = []
    if wanted.rise_limit_f is not None:
        questions.append(gives.then(*least_air(gives.value, wanted.rise_limit_f).steps))
    if kit.least_cfm is not None:
        questions.append(Worked(steps=(given("least air on the kit's plate", kit.least_cfm, "cfm"),)))
    if not questions or wanted.cfm is None:
        missing = "the blower's cfm in heating" if questions else "the rise limit, or the kit's least cfm"
        yield _told("Airflow", Status.CANNOT_TELL, say("ratings.kit_air_unknown", missing=missing))
    else:
        least = max(questions, key=lambda one: one.value)
        status = Status.MET if wanted.cfm >= least.value else Status.NOT_MET
        yield _told("Airflow", status, say("ratings.kit_air", cfm=wanted.cfm, least=least.value), least)
    if wanted.airflow is None or not kit.airflow:
        yield _told("Direction of air", Status.CANNOT_TELL, say("ratings.kit_direction_unknown"))
    elif wanted.airflow in kit.airflow:
        yield _told("Direction of air", Status.MET, say("ratings.kit_direction", way=wanted.airflow.value))
    else:
        yield _told("Direction of air", Status.NOT_MET, say("ratings.kit_wrong_direction", way=wanted.airflow.value))


def _stages(wanted: HeaterWanted, kit: HeaterKit) -> HeaterMatch:
    stages, calls = len(kit.stages_kw) or 1, wanted.stages
    if stages < calls:
        return _told("Stages", Status.ADVICE, say("ratings.kit_fewer_stages", stages=stages, calls=calls))
    if stages > calls:
        return _told("Stages", Status.ADVICE, say("ratings.kit_more_stages", stages=stages, calls=calls))
    return _told("Stages", Status.MET, say("ratings.kit_stages", stages=stages))


def _controls(wanted: HeaterWanted, kit: HeaterKit) -> Iterator[HeaterMatch]:
    if kit.control is wanted.control:
        yield _told("Control", Status.MET, say("ratings.kit_control", kit=kit.control.value))
    else:
        words = say("ratings.kit_other_control", kit=kit.control.value, wanted=wanted.control.value)
        yield _told("Control", Status.NOT_MET, words)
    if kit.control_va is None or wanted.spare_va is None:
        return
    load = transformer_load(wanted.spare_va, [kit.control_va]) if wanted.spare_va > 0 else None
    status = Status.MET if load is not None and load.value <= 100 else Status.NOT_MET
    words = say("ratings.kit_va", va=kit.control_va, spare=wanted.spare_va)
    yield _told("Control transformer", status, words, load)


def _fits(wanted: HeaterWanted, kit: HeaterKit) -> HeaterMatch:
    pairs = (
        ("wide", kit.width_in, wanted.opening_width_in),
        ("high", kit.height_in, wanted.opening_height_in),
        ("deep", kit.depth_in, wanted.depth_in),
    )
    measured_pairs = [(words, mine, room) for words, mine, room in pairs if mine is not None and room is not None]
    if not measured_pairs:
        return _told("Opening", Status.CANNOT_TELL, say("ratings.kit_opening_unknown"))
    over = [
        f"{number(mine)} in {words}, {number(room)} in of room" for words, mine, room in measured_pairs if mine > room
    ]
    if over:
        return _told("Opening", Status.NOT_MET, say("ratings.kit_too_large", over="; ".join(over)))
    return _told(
        "Opening", Status.MET, say("ratings.kit_fits", told=", ".join(words for words, _, _ in measured_pairs))
    )


def _with_kit(sheet: Sheet, kit: HeaterKit, wanted: HeaterWanted) -> Sheet:
    """Return the sheet with the kit as its heat: of a kit with several circuits the largest, which asks most."""
    kw = max(kit.circuits_kw, default=kit.kw)
    plate = sheet.plate.model_copy(
        update={
            "use": Use.HEAT,
            "heat_kw": kw,
            "heat_amps": None,
            "heat_volts": kit.rated_volts,
            "least_volts": min(kit.rated_volts, wanted.supply_volts),
            "most_volts": max(kit.rated_volts, wanted.supply_volts),
            "phases": kit.phases,
            # These are of the heater that goes.
            "mca_amps": None,
            "mocp_amps": None,
            "limit_of_elements_amps": None,
        }
    )
    return sheet.model_copy(update={"plate": plate})
