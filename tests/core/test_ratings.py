"""Worked cases of the ratings, each derived by hand from the rule it names.

The rules are the National Electrical Code's, by section number from memory; the arithmetic beside each case is its own
derivation. Cases marked `surprising` are those where the intuitive answer is the wrong one.
"""

from dataclasses import dataclass

import pytest
from tests.core.sums import judged_again, recomputed

from zesty_copper.core.circuit.parts.conductor import Metal
from zesty_copper.core.ratings.inputs.sheet import (
    Box,
    ContactorPlate,
    ControlTransformer,
    Cover,
    Device,
    DeviceSort,
    Disconnector,
    Edition,
    Insulation,
    Joint,
    Measured,
    Motor,
    Plate,
    PullBox,
    Raceway,
    Run,
    Sheet,
    Use,
    Wires,
)
from zesty_copper.core.ratings.rules.check import check
from zesty_copper.core.ratings.rules.finding import Status
from zesty_copper.core.ratings.sizing.sizes import what_it_may_carry, what_matches, what_should_be_there

CU, AL = Metal.COPPER, Metal.ALUMINIUM
MET, NOT_MET, ADVICE, CANNOT = Status.MET, Status.NOT_MET, Status.ADVICE, Status.CANNOT_TELL


def wire(size: int = 10, metal: Metal = CU, **more: object) -> Run:
    """A branch run, THHN on 75 °C terminals unless said otherwise."""
    usual = {"insulation": Insulation.THHN, "terminals_c": 75, "ambient_c": 30, "carrying": 2}
    return Run.model_validate({"name": "branch", "size_awg": size, "metal": metal} | usual | more)


def heat(amps: float, run: Run, device: float, **more: object) -> Sheet:
    """A heater of so many amps."""
    plate = Plate(use=Use.HEAT, heat_amps=amps, least_volts=240)
    return Sheet.model_validate(
        {
            "nominal_volts": 240,
            "legs": 2,
            "plate": plate,
            "runs": (run,),
            "devices": (Device(name="breaker", amps=device),),
        }
        | more
    )


def condenser(run: Run, device: float, mca: float | None = 19, mocp: float | None = 30, **more: object) -> Sheet:
    """A condenser by its plate."""
    plate = Plate(use=Use.COMPRESSOR, mca_amps=mca, mocp_amps=mocp, least_volts=208, most_volts=230)
    return Sheet.model_validate(
        {
            "nominal_volts": 240,
            "legs": 2,
            "plate": plate,
            "runs": (run,),
            "devices": (Device(name="breaker", amps=device),),
        }
        | more
    )


def motors(*amps: float, locked: float | None = None) -> tuple[Motor, ...]:
    """Motors of a plate."""
    return tuple(
        Motor(name=f"motor {i + 1}", amps=a, locked_amps=locked if i == 0 else None) for i, a in enumerate(amps)
    )


def unplated(device: float, *amps: float, run: Run | None = None) -> Sheet:
    """A condenser of which only its motors' amps are known."""
    plate = Plate(use=Use.COMPRESSOR, motors=motors(*amps))
    return Sheet(plate=plate, runs=(run or wire(10),), devices=(Device(name="breaker", amps=device),))


def motor(amps: float, device: float, run: Run, sort: DeviceSort = DeviceSort.BREAKER) -> Sheet:
    """A motor that is no compressor."""
    plate = Plate(use=Use.MOTOR, motors=motors(amps))
    return Sheet(plate=plate, runs=(run,), devices=(Device(name="device", amps=device, sort=sort),))


def two_volts(
    volts: float, device: float, heat_kw: float = 10, heat_volts: float | None = None, measured: Measured | None = None
) -> Sheet:
    """A heater rated 208 and 240 V."""
    plate = Plate(use=Use.HEAT, heat_kw=heat_kw, heat_volts=heat_volts, least_volts=208, most_volts=240)
    breaker = (Device(name="breaker", amps=device),)
    return Sheet(
        nominal_volts=volts, legs=2, plate=plate, runs=(wire(4),), devices=breaker, measured=measured or Measured()
    )


def joint(**more: object) -> Sheet:
    """One terminal or splice."""
    return Sheet(joints=(Joint.model_validate({"name": "splice"} | more),))


def box(**more: object) -> Sheet:
    """One box."""
    edition = more.pop("edition", Edition.NEC_2023)
    return Sheet.model_validate({"edition": edition, "boxes": (Box.model_validate({"name": "box"} | more),)})


@dataclass(frozen=True)
class Case:
    """A sheet, the rule asked, how it comes out, and the numbers found and required."""

    words: str
    sheet: Sheet
    rule: str
    status: Status
    found: float | None = None
    required: float | None = None
    surprising: bool = False


CASES = [
    # 424.4(B), 240.4(D): 18 × 1.25 = 22.5 → 25 A device; 12 AWG copper has 25 A at 75 °C, but is held to 20 A.
    Case("18 A of heat, 12 AWG copper, 25 A", heat(18, wire(12), 25), "device_over_conductor", NOT_MET, 25, 20, surprising=True),
    Case("the same wire's ampacity would do", heat(18, wire(12), 25), "conductor_terminals", MET, 25, 22.5),
    Case("18 A of heat behind 20 A", heat(18, wire(12), 20), "device_for_load", NOT_MET, 20, 22.5, surprising=True),
    Case("18 A of heat, 10 AWG, 25 A", heat(18, wire(10), 25), "device_over_conductor", MET, 25, 30),
    Case("16 A of heat, 12 AWG, 20 A: 16 × 1.25 = 20", heat(16, wire(12), 20), "device_for_load", MET, 20, 20),
    # 440.4(B), 240.4(G): the plate's MOCP takes the place of the small-conductor limit.
    Case("30 A on 12 AWG, MCA 19, MOCP 30", condenser(wire(12), 30), "device_over_conductor", MET, 30, 30, surprising=True),
    Case("and the wire carries the MCA", condenser(wire(12), 30), "conductor_terminals", MET, 25, 19),
    Case("30 A on 12 AWG for a heater", heat(16, wire(12), 30), "device_over_conductor", NOT_MET, 30, 20, surprising=True),
    Case("35 A where the plate says 30", condenser(wire(10), 35), "device_over_plate", NOT_MET, 35, 30),
    Case("a smaller breaker than MOCP will do", condenser(wire(12), 25), "device_over_plate", MET, 25, 30, surprising=True),
    Case("but not smaller than MCA", condenser(wire(12), 15), "device_for_load", NOT_MET, 15, 19),
    Case("14 AWG for MCA 21: 20 A at 75 °C", condenser(wire(14), 30, mca=21), "conductor_terminals", NOT_MET, 20, 21),
    # The plate's arithmetic: MOCP ≤ MCA + MCA ÷ 1.25 = 1.8 × MCA.
    Case("MCA 15, MOCP 40: at most 27", condenser(wire(10), 30, mca=15, mocp=40), "plate_true", ADVICE, 40, 27, surprising=True),
    Case("MCA 19, MOCP 30: at most 34.2", condenser(wire(10), 30), "plate_true", MET, 30, 34.2),
    Case("MOCP below MCA", condenser(wire(8), 30, mca=35, mocp=30), "plate_true", ADVICE, 30, 35),
    Case(
        "RLA 14.1 and fan 1.1 make 18.7, not 24",
        condenser(wire(10), 30, mca=24, mocp=30).model_copy(
            update={"plate": Plate(use=Use.COMPRESSOR, mca_amps=24, mocp_amps=30, motors=motors(14.1, 1.1))}
        ),
        "plate_true",
        ADVICE,
        24,
        1.03 * (1.25 * 14.1 + 1.1),
    ),
    # 110.14(C): the lower of wire and terminal; unmarked terminals to 100 A count as 60 °C.
    Case("75 °C wire on 60 °C terminals: 8 AWG is 40 A", condenser(wire(8, terminals_c=60), 60, mca=45, mocp=60), "conductor_terminals", NOT_MET, 40, 45, surprising=True),
    Case("the same on 75 °C terminals: 50 A", condenser(wire(8), 60, mca=45, mocp=60), "conductor_terminals", MET, 50, 45),
    Case("90 °C wire on 75 °C terminals gains nothing there", condenser(wire(6), 80, mca=70, mocp=80), "conductor_terminals", NOT_MET, 65, 70, surprising=True),
    Case("terminals not read: 40 A at 60 °C, 50 A at 75 °C", condenser(wire(8, terminals_c=None), 60, mca=45, mocp=60), "conductor_terminals", CANNOT, 40, 45, surprising=True),
    Case("not marked, 1/0 for 95 A: larger than 1 AWG is 75 °C, 150 A", condenser(wire(0, terminals_c=None), 125, mca=95, mocp=125), "conductor_terminals", MET, 150, 95, surprising=True),
    Case("not marked, above 100 A: 75 °C, 1 AWG 130 A", condenser(wire(1, terminals_c=None), 150, mca=120, mocp=150), "conductor_terminals", MET, 130, 120),
    Case("NM-B is used at 60 °C: 10 AWG 30 A", heat(26, wire(10, insulation=Insulation.NM_B), 35), "conductor_terminals", NOT_MET, 30, 32.5, surprising=True),
    # 310.15: derating starts from the insulation's own column.
    Case("nine conductors: 40 × 0.7 = 28, from 90 °C", condenser(wire(10, carrying=9), 40, mca=27, mocp=40), "conductor_derated", MET, 28, 27, surprising=True),
    Case("the same from 75 °C: 35 × 0.7 = 24.5", condenser(wire(10, carrying=9, insulation=Insulation.THWN), 40, mca=27, mocp=40), "conductor_derated", NOT_MET, 24.5, 27),
    Case("attic at 50 °C: 40 × 0.82 = 32.8", condenser(wire(10, ambient_c=50), 40, mca=33, mocp=40), "conductor_derated", NOT_MET, 32.8, 33, surprising=True),
    Case("NM-B in an attic is derated from 90 °C: 40 × 0.82", heat(24, wire(10, insulation=Insulation.NM_B, ambient_c=50), 30), "conductor_derated", MET, 32.8, 24, surprising=True),
    Case("roof conduit in sun: 35 + 33 = 68 °C, 40 × 0.58 = 23.2", condenser(wire(10, ambient_c=35, above_roof_mm=10), 40, mca=27, mocp=40), "conductor_derated", NOT_MET, 23.2, 27, surprising=True),
    Case("20 mm up: an adder by the 2017 edition", condenser(wire(10, ambient_c=35, above_roof_mm=20), 40, mca=27, mocp=40, edition=Edition.NEC_2017), "conductor_derated", NOT_MET, 23.2, 27, surprising=True),
    Case("and none by the 2023", condenser(wire(10, ambient_c=35, above_roof_mm=20), 40, mca=27, mocp=40), "conductor_derated", MET, 38.4, 27),
    Case("an inch up, no adder: 40 × 0.96 = 38.4", condenser(wire(10, ambient_c=35, above_roof_mm=25), 40, mca=27, mocp=40), "conductor_derated", MET, 38.4, 27),
    Case("XHHW-2 is spared the adder", condenser(wire(10, ambient_c=35, above_roof_mm=10, insulation=Insulation.XHHW_2), 40, mca=27, mocp=40), "conductor_derated", MET, 38.4, 27),
    Case("heat is compared where it runs as it is, not at 125 %", heat(24, wire(10, carrying=6, insulation=Insulation.THWN), 30), "conductor_derated", MET, 28, 24, surprising=True),
    Case("TW at 60 °C ambient has nothing left", condenser(wire(10, insulation=Insulation.TW, ambient_c=60), 30), "conductor_derated", NOT_MET, 0, 19, surprising=True),
    # 240.4(B): next size up; not over a small conductor's limit.
    Case("8 AWG at 60 °C: 40 A, a 40 A device", heat(32, wire(8, terminals_c=60), 40), "device_over_conductor", MET, 40, 40),
    Case("6 AWG copper 65 A at 75 °C: next size up is 70 A", heat(48, wire(6), 70), "device_over_conductor", MET, 70, 70, surprising=True),
    Case("80 A is one too many", heat(48, wire(6), 80), "device_over_conductor", NOT_MET, 80, 70),
    Case("10 AWG 35 A at 75 °C: no next size for a small conductor", heat(24, wire(10), 35), "device_over_conductor", NOT_MET, 35, 30, surprising=True),
    Case("4 AWG copper 85 A at 75 °C: 90 A", heat(68, wire(4), 90), "device_over_conductor", MET, 90, 90, surprising=True),
    # Aluminium.
    Case("10 AWG aluminium is held to 25 A", heat(20, wire(10, AL), 30), "device_over_conductor", NOT_MET, 30, 25),
    Case("6 AWG aluminium: 50 A at 75 °C", heat(40, wire(6, AL), 50), "conductor_terminals", MET, 50, 50),
    Case("8 AWG aluminium for 38.4 A of heat: 48 asked", heat(38.4, wire(8, AL), 50), "conductor_terminals", NOT_MET, 40, 48),
    Case("12 AWG aluminium behind 20 A", heat(12, wire(12, AL), 20), "device_over_conductor", NOT_MET, 20, 15, surprising=True),
    # 440.22 without a plate: 175 %, 225 % if it will not start, down to a standard size.
    Case("14 A alone: 2.25 × 14 = 31.5 → 30", unplated(35, 14), "device_without_plate", NOT_MET, 35, 30),
    Case("20 and 2 A: 2.25 × 20 + 2 = 47 → 45", unplated(45, 20, 2), "device_without_plate", MET, 45, 45),
    Case("built-up MCA: 1.25 × 20 + 2 = 27", unplated(45, 20, 2), "conductor_terminals", MET, 35, 27),
    Case("a small motor may always have 15 A", unplated(15, 3), "device_without_plate", MET, 15, 15, surprising=True),
    # 430.52, 240.4(G): a motor's breaker may be 250 %, its time-delay fuse 175 %, and up a size; 12 AWG is no limit.
    Case("10 A motor, 12 AWG, 25 A breaker", motor(10, 25, wire(12)), "device_over_conductor", MET, 25, 25, surprising=True),
    Case("12 A motor, 12 AWG: 2.5 × 12 = 30", motor(12, 30, wire(12)), "device_over_conductor", MET, 30, 30, surprising=True),
    Case("12 A motor, 35 A is too much", motor(12, 35, wire(12)), "device_over_conductor", NOT_MET, 35, 30),
    Case("12 A motor, fuses: 1.75 × 12 = 21 → 25", motor(12, 30, wire(12), sort=DeviceSort.FUSE), "device_over_conductor", NOT_MET, 30, 25),
    # Two rated voltages: 10 kW at 240 V is 10 × (208 ÷ 240)² = 7.511 kW at 208 V: 36.11 A, 45.14 asked.
    Case("10 kW of 208/240 V on 208 V", two_volts(208, 45), "device_for_load", NOT_MET, 45, 1.25 * 10000 / 240**2 * 208, surprising=True),
    Case("and on 240 V: 41.67 A, 52.08 asked", two_volts(240, 60), "device_for_load", MET, 60, 1.25 * 10000 / 240),
    Case("the same of 7.5 kW marked at 208 V, on 240 V: 9.985 kW", two_volts(240, 60, heat_kw=7.5, heat_volts=208), "device_for_load", MET, 60, 1.25 * 7500 / 208**2 * 240),
    Case("due at 208 V measured", two_volts(208, 50, measured=Measured(volts=(208,), amps=(36.1,))), "heat_amps", MET, 36.1, 0.9 * 10000 / 240**2 * 208),
    # 246 of 240 V: 20.8 × 1.025 = 21.32 A are no overload.
    Case("an element at 2.5 % more volts", heat(20.8, wire(10), 30, measured=Measured(volts=(246,), amps=(21.3,))), "amps_over_plate", MET, 21.3, 21.32, surprising=True),
    Case("and at 23 A it is one", heat(20.8, wire(10), 30, measured=Measured(volts=(246,), amps=(23.0,))), "amps_over_plate", NOT_MET, 23, 21.32),
    # A plate that does not say its phases stands on three legs: 10 ÷ (√3 × 208) = 27.76 A.
    Case("phases by the supply", Sheet(nominal_volts=208, legs=3, three_phase=True, plate=Plate(use=Use.HEAT, heat_kw=10, least_volts=208), runs=(wire(8),), devices=(Device(name="breaker", amps=35),)), "device_for_load", MET, 35, 34.696, surprising=True),
    # 240.6(A): 6 and 10 A are fuses' sizes alone; 1,000 A is a standard one.
    Case("a 10 A fuse", Sheet(devices=(Device(name="fuse", amps=10, sort=DeviceSort.FUSE),)), "standard_size", MET, surprising=True),
    Case("a 10 A breaker", Sheet(devices=(Device(name="breaker", amps=10),)), "standard_size", ADVICE),
    Case("a 1,000 A device", Sheet(devices=(Device(name="breaker", amps=1000),)), "standard_size", MET),
    # 424.22(B).
    Case("20 kW at 240 V on one circuit: 83.3 A", heat(83.3, wire(1), 110), "heat_subdivided", NOT_MET, 83.3, 48),
    Case("10 kW at 208 V, three legs: 27.76 A, 34.7 asked", Sheet(plate=Plate(use=Use.HEAT, heat_kw=10, least_volts=208, phases=3), runs=(wire(8),), devices=(Device(name="breaker", amps=30),)), "device_for_load", NOT_MET, 30, 34.696, surprising=True),
    Case("10 kW: 41.7 A", heat(41.7, wire(6), 60), "heat_subdivided", MET, 41.7, 48),
    # 440.12, 440.14, 424.19.
    Case("30 A disconnect for 28 A of motors: 32.2 asked", Sheet(plate=Plate(use=Use.COMPRESSOR, motors=motors(28)), disconnects=(Disconnector(amps=30),)), "disconnect_rating", NOT_MET, 30, 32.2, surprising=True),
    Case("60 A for 48 A of heat: 60 asked", Sheet(plate=Plate(use=Use.HEAT, heat_amps=48), disconnects=(Disconnector(amps=60),)), "disconnect_rating", MET, 60, 60),
    Case("held rotor 130 A on a disconnect for 96 A", Sheet(plate=Plate(use=Use.COMPRESSOR, motors=motors(20, locked=130)), disconnects=(Disconnector(amps=60, locked_amps=96),)), "disconnect_locked", NOT_MET, 96, 130),
    Case("lockable but out of sight, condenser", Sheet(plate=Plate(use=Use.COMPRESSOR), disconnects=(Disconnector(in_sight=False, lockable=True),)), "disconnect_sight", NOT_MET, surprising=True),
    Case("lockable but out of sight, heat", Sheet(plate=Plate(use=Use.HEAT), disconnects=(Disconnector(in_sight=False, lockable=True),)), "disconnect_sight", MET, surprising=True),
    Case("the same with a 1/4 hp blower", Sheet(plate=Plate(use=Use.HEAT, motors=motors(3), largest_motor_hp=0.25), disconnects=(Disconnector(in_sight=False, lockable=True),)), "disconnect_sight", NOT_MET, surprising=True),
    Case("the same with a 1/10 hp blower", Sheet(plate=Plate(use=Use.HEAT, motors=motors(1), largest_motor_hp=0.1), disconnects=(Disconnector(in_sight=False, lockable=True),)), "disconnect_sight", MET),
    Case("a blower of unknown size decides it", Sheet(plate=Plate(use=Use.HEAT, motors=motors(3)), disconnects=(Disconnector(in_sight=False, lockable=True),)), "disconnect_sight", CANNOT),
    # Contactors.
    Case("30 A contactor for 22 + 1.5 A", Sheet(plate=Plate(use=Use.COMPRESSOR, motors=motors(22, 1.5)), contactors=(ContactorPlate(motor_amps=30),)), "contactor_amps", MET, 30, 23.5),
    Case("25 A contactor for 28 A", Sheet(plate=Plate(use=Use.COMPRESSOR, motors=motors(28)), contactors=(ContactorPlate(motor_amps=25),)), "contactor_amps", NOT_MET, 25, 28),
    Case("held rotor 145 A on a contactor for 120", Sheet(plate=Plate(use=Use.COMPRESSOR, motors=motors(22, locked=145)), contactors=(ContactorPlate(motor_amps=30, locked_amps=120),)), "contactor_locked", NOT_MET, 120, 145),
    Case("23 A where the plate says 20", Sheet(plate=Plate(use=Use.COMPRESSOR, motors=motors(20)), measured=Measured(amps=(23, 22))), "amps_over_plate", NOT_MET, 23, 20),
    Case("an old breaker without the mark", condenser(wire(), 30, devices=(Device(name="breaker", amps=30, for_ac=False),)), "device_for_ac", ADVICE),
    Case("14 AWG aluminium", heat(10, wire(14, AL), 15), "least_size", NOT_MET),
    Case("one pole of two legs", Sheet(legs=2, contactors=(ContactorPlate(poles=1),)), "contactor_poles", ADVICE, 1, 2),
    Case("coils of 15, 15 and 12 VA on 40 VA", Sheet(transformers=(ControlTransformer(volt_amps=40, coils_va=(15, 15, 12)),)), "transformer", NOT_MET, 105, 100),
    Case("a 24 V coil on 120 V", Sheet(contactors=(ContactorPlate(coil_volts=24, control_volts=120),)), "contactor_coil", NOT_MET, 120, 26.4),
    # 250.122.
    Case("12 AWG ground behind 30 A with 10 AWG", condenser(wire(10, grounding_awg=12), 30), "grounding", NOT_MET, 12, 10),
    Case("12 AWG ground behind 30 A with 12 AWG", condenser(wire(12, grounding_awg=12), 30), "grounding", MET, 12, 12, surprising=True),
    Case("8 AWG behind 100 A", condenser(wire(4, grounding_awg=8), 100, mca=80, mocp=100), "grounding", MET, 8, 8),
    # 250.122(B): MCA 80 asks 4 AWG (41,740 cmil); 3 AWG has 52,620, so 16,510 × 1.2607 = 20,813 cmil: 6 AWG.
    Case("3 AWG where 4 AWG would do grows its ground", condenser(wire(3, grounding_awg=8), 100, mca=80, mocp=100), "grounding", NOT_MET, 8, 6, surprising=True),
    # Drop: 2 × 20 A × 1.24 Ω/kft × 100 ft ÷ 1000 = 4.96 V = 2.07 %.
    Case("20 A, 10 AWG, 100 ft", heat(20, wire(10, length_m=30.48), 25, measured=Measured(amps=(20, 20))), "drop", MET, 100 * 4.96 / 240, 3),
    # The same at 150 ft: 7.44 V = 3.1 %.
    Case("20 A, 10 AWG, 150 ft", heat(20, wire(10, length_m=45.72), 25, measured=Measured(amps=(20, 20))), "drop", ADVICE, 3.1, 3),
    # A branch of 100 ft at 2.07 % with a feeder that loses 6 AWG 0.491 × 2 × 20 × 400 ÷ 1000 = 7.856 V: 12.816 V, 5.34 %.
    Case("and its feeder together over 5 %", heat(20, wire(10, length_m=30.48), 25, runs=(wire(10, length_m=30.48), wire(6, name="feeder", length_m=121.92, feeder=True)), measured=Measured(amps=(20, 20))), "drop", ADVICE, 100 * 12.816 / 240, 5, surprising=True),
    Case("a length that nobody knows is no drop of nothing", heat(20, wire(10, length_m=30.48), 25, runs=(wire(10, length_m=30.48), wire(10, name="whip")), measured=Measured(amps=(20, 20))), "drop", CANNOT, surprising=True),
    # In steel: R 1.2 × 0.85 + X 0.063 × 0.5268 = 1.0532 Ω/kft; 2 × 19 × 1.0532 × 100 ÷ 1000 = 4.002 V.
    Case("MCA 19, 10 AWG in steel, 100 ft", condenser(wire(10, length_m=30.48, raceway=Raceway.STEEL), 30), "drop", MET, 100 * 4.0021 / 240, 3),
    # Volts: 208/230 is 187.2 to 253.
    Case("186 V on 208/230", condenser(wire(), 30, measured=Measured(volts=(186,))), "supply_window", NOT_MET, 186, 187.2),
    Case("208 V on a 230 V-only plate: 207 at least", Sheet(plate=Plate(least_volts=230), measured=Measured(volts=(208,))), "supply_window", MET, 208, 207, surprising=True),
    Case("service at 227 V: 114 ÷ 120 × 240 = 228", Sheet(nominal_volts=240, measured=Measured(service_volts=(227,))), "service_range", ADVICE, 227, 228),
    # Unbalance: mean 231, farthest 9 off, 3.9 %; derating 0.82.
    Case("240, 231, 222 V", Sheet(three_phase=True, measured=Measured(volts=(240, 231, 222))), "volts_unbalance", NOT_MET, 900 / 231, 1),
    Case("208, 207, 206 V: 0.48 %", Sheet(three_phase=True, measured=Measured(volts=(208, 207, 206))), "volts_unbalance", MET, 100 / 207, 1),
    Case("amps 20, 18, 16", Sheet(three_phase=True, measured=Measured(amps=(20, 18, 16))), "amps_unbalance", ADVICE, 200 / 18, 10),
    Case("17 A for hours on 20 A", heat(13.6, wire(12), 20, measured=Measured(amps=(17,))), "load_on_device", ADVICE, 17, 16, surprising=True),
    # 20.8 × 225 ÷ 240 = 19.5; nine tenths 17.55.
    Case("two of three stages", heat(20.8, wire(10), 30, measured=Measured(volts=(225,), amps=(13.0,))), "heat_amps", ADVICE, 13, 17.55),
    Case("few amps, but few volts too", heat(20.8, wire(10), 30, measured=Measured(volts=(208,), amps=(17.9,))), "heat_amps", MET, 17.9, 0.9 * 20.8 * 208 / 240, surprising=True),
    # 314.16: six 12 AWG (13.5), clamps (2.25), one ground (2.25), a strap (4.5) = 22.5 in³.
    Case("a 21 in³ box", box(volume_in3=21, wires=(Wires(size_awg=12, count=6),), grounds=(Wires(size_awg=12, count=3),), clamps=True, yokes=1), "box_volume", NOT_MET, 21, 22.5),
    # Five grounds from 2020 on: 1.25 × 2.5 = 3.125; four 10 AWG 10.0.
    Case("five grounds, 2023", box(volume_in3=13, wires=(Wires(size_awg=10, count=4),), grounds=(Wires(size_awg=10, count=5),)), "box_volume", NOT_MET, 13, 13.125, surprising=True),
    Case("five grounds, 2017", box(volume_in3=13, wires=(Wires(size_awg=10, count=4),), grounds=(Wires(size_awg=10, count=5),), edition=Edition.NEC_2017), "box_volume", MET, 13, 12.5),
    Case("a buried box", box(accessible=False), "box_access", NOT_MET),
    Case("2 in straight through: 16 in", Sheet(pull_boxes=(PullBox(name="pull box", length_in=12, largest_raceway_in=2),)), "pull_box", NOT_MET, 12, 16),
    Case("2 in and 1 in around a corner: 6 × 2 + 1 = 13", Sheet(pull_boxes=(PullBox(name="pull box", length_in=14, largest_raceway_in=2, others_in=(1,), straight=False),)), "pull_box", MET, 14, 13),
    # Joints.
    Case("aluminium under a lug for copper", joint(metals=(AL,), marked_for=(CU,)), "joint_metals", NOT_MET),
    Case("copper on CU/AL", joint(metals=(CU,), marked_for=(CU, AL)), "joint_metals", MET),
    Case("both in one connector, each allowed, not together", joint(metals=(CU, AL), marked_for=(CU, AL), is_splice=True, cover=Cover.LISTED), "joint_metals", NOT_MET, surprising=True),
    Case("an 18 AWG pigtail where 14 is the least", joint(wires=(Wires(size_awg=18, count=1),), least_awg=14, most_awg=10), "joint_range", NOT_MET),
    Case("vinyl alone", joint(is_splice=True, cover=Cover.VINYL), "splice_cover", NOT_MET),
    Case("rubber under vinyl", joint(is_splice=True, cover=Cover.RUBBER_UNDER_VINYL), "splice_cover", MET),
    Case("20 lbf·in where the label says 35", joint(label_lbf_in=35, used_lbf_in=20), "torque", NOT_MET, 20, 31.5),
    Case("no label", joint(used_lbf_in=20), "torque", CANNOT),
    Case("six of seven strands", joint(strands=7, strands_left=6), "lost_section", NOT_MET, 600 / 7, 100),
    # Colours and places.
    Case("white as a leg in conduit, taped", condenser(wire(hot_colours=("black", "white"), marked_again=True), 30), "colour_hot", NOT_MET, surprising=True),
    Case("white as a leg in a cable, taped", condenser(wire(hot_colours=("black", "white"), marked_again=True, in_cable=True), 30), "colour_hot", MET),
    Case("green as a leg, taped", condenser(wire(hot_colours=("black", "green"), marked_again=True, in_cable=True), 30), "colour_hot", NOT_MET),
    Case("high leg not orange", condenser(wire(hot_colours=("black", "red", "blue")), 30, high_leg=True), "colour_high_leg", NOT_MET),
    Case("THHN in wet conduit", condenser(wire(wet=True), 30), "wet_insulation", NOT_MET, surprising=True),
    Case("a breaker where the plate asks for fuses", condenser(wire(), 30).model_copy(update={"plate": Plate(use=Use.COMPRESSOR, mca_amps=19, mocp_amps=30, fuses_only=True)}), "device_sort", NOT_MET, surprising=True),
    Case("a breaker and, behind it, the fuses", condenser(wire(), 30).model_copy(update={"plate": Plate(use=Use.COMPRESSOR, mca_amps=19, mocp_amps=30, fuses_only=True), "devices": (Device(name="breaker", amps=40), Device(name="fuses", amps=30, sort=DeviceSort.FUSE))}), "device_sort", MET),
    Case("a 32 A breaker", condenser(wire(), 32), "standard_size", ADVICE),
    Case("no plate, nothing known", Sheet(runs=(wire(),)), "conductor_terminals", CANNOT),
]  # fmt: skip


@pytest.mark.parametrize("case", CASES, ids=lambda case: case.words)
def test_worked_case(case: Case) -> None:
    holds(case)


def holds(case: Case) -> None:
    """Judge a case, compare how it comes out and its numbers, and do every sum on its sheet again."""
    on_sheet = check(case.sheet)
    for finding in on_sheet:
        judged_again(finding)
    findings = [finding for finding in on_sheet if finding.rule == case.rule]
    statuses = {finding.status for finding in findings}
    assert case.status in statuses, [f.words for f in findings]
    if case.status is MET:
        assert statuses == {MET}
    chosen = [finding for finding in findings if finding.status is case.status]
    if case.found is not None:
        numbers = [(f.found.value, f.required.value) for f in chosen if f.found and f.required]
        assert any(
            found == pytest.approx(case.found, rel=2e-3) and required == pytest.approx(case.required, rel=2e-3)
            for found, required in numbers
        ), numbers
    for finding in chosen:
        assert bool(finding.consequence) == (case.status in (NOT_MET, ADVICE))
        assert bool(finding.missing) == (case.status is CANNOT), finding.words


def test_there_are_enough_of_them() -> None:
    assert len(CASES) >= 60
    assert sum(case.surprising for case in CASES) >= len(CASES) / 3


def test_the_makers_own_wiring_is_not_judged_by_these_tables() -> None:
    inside = condenser(wire(14, inside_equipment=True), 30)
    assert not [f for f in check(inside) if f.rule.startswith("conductor") or f.rule == "device_over_conductor"]


def test_what_should_be_there_for_a_plate() -> None:
    """18 A of heat: 22.5 A asked, a 25 A device, 10 AWG by 240.4(D); four, a clamp and a ground of 10 AWG: 15 in³."""
    wanted = {one.what: one for one in what_should_be_there(heat(18, wire(12), 25))}
    assert wanted["Smallest copper wire"].answer == "10 AWG copper"
    assert wanted["Breaker or fuse"].answer == "25 A"
    assert wanted["Grounding conductor"].answer.startswith("10 AWG copper")
    assert wanted["Disconnect"].answer.startswith("30 A")
    assert wanted["Box for a splice of them"].answer == "15 in³ or more, as a 4 × 1½ round or octagonal box (15.5 in³)"
    # A compressor's plate: MCA 19 needs 14 AWG at 75 °C alone; MOCP 30 stands.
    wanted = {one.what: one for one in what_should_be_there(condenser(wire(12), 30))}
    assert wanted["Smallest copper wire"].answer == "14 AWG copper"
    assert wanted["Largest breaker or fuse"].answer == "30 A"


def test_what_a_circuit_may_carry() -> None:
    """12 AWG behind 25 A is held to 20 A: 16 A for hours, 3.84 kW; 3 % of 240 V at 22.5 A through 1.98 Ω/kft."""
    carries = {one.what: one for one in what_it_may_carry(heat(18, wire(12, length_m=10), 25))}
    assert carries["Most load that lasts"].answer == "16 A"
    assert carries["Most electric heat"].answer == "3.84 kW"
    longest = carries["Longest run for 3 %"].worked
    assert longest is not None
    assert longest.value == pytest.approx(1000 * 7.2 / (2 * 22.5 * 1.98), rel=1e-3)
    for carry in carries.values():
        if carry.worked:
            recomputed(carry.worked)


def test_a_replacement_matches_the_plate_not_what_was_found() -> None:
    over = condenser(wire(10), 40, contactors=(ContactorPlate(poles=1, motor_amps=30, coil_volts=24),))
    matches = {match.what: match.answer for match in what_matches(over)}
    assert matches["Replacement breaker"].startswith("30 A, 30 A at most by the plate")
    assert matches["Replacement contactor"] == "30 A or more, 1 pole or more, 24 V coil"


def test_a_lost_leg_is_no_low_supply() -> None:
    lost = condenser(wire(), 30, measured=Measured(volts=(0.3,)))
    assert not [f for f in check(lost) if f.rule == "supply_window"]
    one_pair = condenser(wire(), 30, measured=Measured(volts=(180.0, 12.0, 230.0)))
    found = [f.found.value for f in check(one_pair) if f.rule == "supply_window" and f.found]
    assert sorted(found) == [180, 230]


def test_what_is_missing_and_what_was_assumed_is_named() -> None:
    bare = Run(name="branch", size_awg=10)
    found = {f.rule: f for f in check(condenser(bare, 30))}
    assumed = " ".join(found["conductor_derated"].assumed)
    for word in ("insulation", "ambient", "current-carrying", "terminals"):
        assert word in assumed
    (unknown,) = [f for f in check(Sheet(disconnects=(Disconnector(amps=60),))) if f.rule == "disconnect_rating"]
    assert unknown.missing == ("the equipment's amps",)


def test_a_size_that_no_table_has_is_said_once_and_stops_no_other_rule() -> None:
    findings = check(heat(10, wire(14, AL), 17))
    (thin,) = [f for f in findings if f.rule == "least_size"]
    assert thin.status is NOT_MET
    assert {f.rule for f in findings} >= {"device_for_load", "standard_size", "heat_subdivided"}
    assert not [f for f in findings if f.rule.startswith("conductor")]


def test_what_can_hurt_somebody_comes_first() -> None:
    order = list(Status)
    findings = check(heat(18, wire(12, hot_colours=("green",)), 25, measured=Measured(volts=(200,))))
    keys = [(order.index(f.status), f.hazard) for f in findings]
    assert keys == sorted(keys)
    assert findings[0].status is NOT_MET
