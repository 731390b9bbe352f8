"""Further worked cases of the ratings, each derived by hand from the rule it names; section numbers from memory."""

import pytest
from tests.core.test_ratings import ADVICE, AL, CANNOT, CASES, MET, NOT_MET, Case, condenser, heat, holds, motors, wire

from zesty_copper.core.ratings.inputs.sheet import (
    Barrel,
    ControlTransformer,
    Cord,
    Device,
    DeviceSort,
    Disconnector,
    Measured,
    Method,
    Motor,
    Plate,
    PlateColumn,
    Raceway,
    Run,
    Runs,
    Sheet,
    SmallWire,
    Use,
)
from zesty_copper.core.ratings.rules.finding import rules


def dual(volts: float, device: float) -> Sheet:
    """A unit whose plate gives MCA, MOCP and kW at 208 and at 240 V."""
    columns = (
        PlateColumn(volts=208, mca_amps=46, mocp_amps=50, heat_kw=7.2),
        PlateColumn(volts=240, mca_amps=53, mocp_amps=60, heat_kw=9.6),
    )
    plate = Plate(use=Use.HEAT, least_volts=208, most_volts=240, at_volts=columns)
    return Sheet(
        nominal_volts=volts, legs=2, plate=plate, runs=(wire(6),), devices=(Device(name="breaker", amps=device),)
    )


def apart(device: float, *, never: bool = True) -> Sheet:
    """Compressor 20 A and its fan 2 A in cooling; 10 kW at 240 V, 41.67 A, in heating; a blower of 4 A in both."""
    moving = (
        Motor(name="compressor", amps=20, runs=Runs.COOLING),
        Motor(name="fan", amps=2, runs=Runs.COOLING),
        Motor(name="blower", amps=4),
    )
    plate = Plate(use=Use.HEAT, heat_kw=10, least_volts=240, motors=moving, never_together=never)
    return Sheet(
        nominal_volts=240, legs=2, plate=plate, runs=(wire(3),), devices=(Device(name="breaker", amps=device),)
    )


def turning(hp: float, device: float, size: int = 12, volts: float = 240, **more: object) -> Sheet:
    """A motor marked in horsepower, its plate's amps 7."""
    phases = more.pop("phases", 1)
    motor = Motor.model_validate(
        {"name": "blower", "amps": 7, "hp": hp}
        | {k: more.pop(k) for k in ("overload_amps", "service_factor") if k in more}
    )
    plate = Plate.model_validate({"use": Use.MOTOR, "motors": (motor,), "phases": phases})
    ahead = Device.model_validate({"name": "device", "amps": device} | more)
    return Sheet(nominal_volts=volts, legs=2, plate=plate, runs=(wire(size),), devices=(ahead,))


def flexible(method: Method, device: float, **more: object) -> Sheet:
    """A whip without a ground wire."""
    run = Run.model_validate({**wire(10).model_dump(), "method": method, **more})
    return Sheet(
        plate=Plate(use=Use.COMPRESSOR, mca_amps=18), runs=(run,), devices=(Device(name="breaker", amps=device),)
    )


def plugged(
    amps: float, device: float, plug: str = "6-20", receptacle: str = "6-20", volts: float = 240, **more: object
) -> Sheet:
    """A through-the-wall unit on a cord."""
    cord = Cord.model_validate({"plug": plug, "receptacle": receptacle, "protected": True} | more)
    plate = Plate(use=Use.COMPRESSOR, motors=motors(amps))
    return Sheet(
        nominal_volts=volts, legs=2, plate=plate, devices=(Device(name="breaker", amps=device),), cords=(cord,)
    )


def lead(**more: object) -> Sheet:
    """One lead inside equipment."""
    return Sheet(small_wires=(SmallWire.model_validate({"name": "lead", "size_awg": 16} | more),))


def control(va: float, device: float, volts: float | None = 240, **more: object) -> Sheet:
    """A control transformer and the fuse ahead of it."""
    return Sheet(
        transformers=(
            ControlTransformer.model_validate(
                {"volt_amps": va, "primary_volts": volts, "primary_device_amps": device} | more
            ),
        )
    )


def opened_by(amps: float, mca: float) -> Sheet:
    """A disconnect of which only the plate's MCA is known."""
    return Sheet(plate=Plate(use=Use.COMPRESSOR, mca_amps=mca), disconnects=(Disconnector(amps=amps),))


def available(**more: object) -> Sheet:
    """A breaker of 10 kA on equipment of 5 kA."""
    device = Device(name="breaker", amps=30, interrupting_ka=10)
    return Sheet.model_validate({"plate": Plate(use=Use.COMPRESSOR, sccr_ka=5), "devices": (device,)} | more)


DAILY = [
    # Two-voltage plates: 46 and 50 A at 208 V, 53 and 60 A at 240 V.
    Case("208 V: a 60 A breaker is above its column's 50", dual(208, 60), "device_over_plate", NOT_MET, 60, 50, surprising=True),
    Case("240 V: the same breaker is right", dual(240, 60), "device_over_plate", MET, 60, 60),
    Case("208 V: 46 A asked of 6 AWG at 75 °C, 65 A", dual(208, 50), "conductor_terminals", MET, 65, 46),
    Case("240 V: 50 A cannot carry the MCA of 53", dual(240, 50), "device_for_load", NOT_MET, 50, 53),
    # 7.2 kW at 208 V: 34.6 A, under 48.
    Case("208 V: elements of 7.2 kW draw 34.6 A", dual(208, 50), "heat_subdivided", MET, 7200 / 208, 48),
    Case("240 V: 9.6 kW draw 40 A", dual(240, 60), "heat_subdivided", MET, 40, 48),
    # 220.60: cooling 1.25 × 20 + 2 + 4 = 31; heating 1.25 × (41.67 + 4) = 57.08; the larger counts.
    Case("never together: 57.1 A, not 84.6", apart(60), "device_for_load", MET, 60, 1.25 * (10000 / 240 + 4), surprising=True),
    Case("together: 1.25 × 67.67 = 84.6", apart(60, never=False), "device_for_load", NOT_MET, 60, 1.25 * (10000 / 240 + 26)),
    Case("never together, behind 50 A", apart(50), "device_for_load", NOT_MET, 50, 1.25 * (10000 / 240 + 4)),
    # 430.6(A)(1): wire and device by the table, 1 hp at 230 V 8 A, not by the plate's 7.
    Case("1 hp: wire for 1.25 × 8 = 10 A", turning(1, 20, 14), "conductor_terminals", MET, 20, 10),
    Case("1 hp: 2.5 × 8 = 20 A breaker", turning(1, 20), "device_over_conductor", MET, 20, 20),
    Case("1 hp: 25 A is too much", turning(1, 25), "device_over_conductor", NOT_MET, 25, 20),
    Case("3 hp at 240 V: 17 A by the table, 2.5 × 17 = 42.5 → 45", turning(3, 45, 10), "device_over_conductor", MET, 45, 45, surprising=True),
    Case("3 hp: a time-delay fuse 1.75 × 17 = 29.75 → 30", turning(3, 35, 10, sort=DeviceSort.FUSE, time_delay=True), "device_over_conductor", NOT_MET, 35, 30),
    Case("3 hp: a fast fuse 3 × 17 = 51 → 60", turning(3, 60, 10, sort=DeviceSort.FUSE, time_delay=False), "device_over_conductor", MET, 60, 60, surprising=True),
    Case("½ hp at 208 V: 5.4 A, 1.25 × 5.4 = 6.75", turning(0.5, 15, 14, 208), "conductor_terminals", MET, 20, 6.75),
    Case("5 hp three phase at 480 V: 7.6 A, 1.25 × 7.6 = 9.5", turning(5, 20, 14, 480, phases=3), "conductor_terminals", MET, 20, 9.5),
    Case("7½ hp three phase at 208 V: 24.2 A, 30.25 asked of 12 AWG", turning(7.5, 60, 12, 208, phases=3), "conductor_terminals", NOT_MET, 25, 30.25),
    # 430.6(A)(2), 430.32: the overload by the plate's 7 A, never by the table's 8.
    Case("overload 8.1 A: 1.15 × 7 = 8.05", turning(1, 20, overload_amps=8.1), "overload", NOT_MET, 8.1, 8.05, surprising=True),
    Case("service factor 1.15: 1.25 × 7 = 8.75", turning(1, 20, overload_amps=8.7, service_factor=1.15), "overload", MET, 8.7, 8.75),
    Case("service factor 1.0: 8.05 again", turning(1, 20, overload_amps=8.7, service_factor=1.0), "overload", NOT_MET, 8.7, 8.05),
    # By its own plate's 7 A it draws too much at 7.5, though the table says 8.
    Case("7.5 A in a motor of 7 A by its plate", turning(1, 20).model_copy(update={"measured": Measured(amps=(7.5,))}), "amps_over_plate", NOT_MET, 7.5, 7, surprising=True),
    # In heating alone 41.67 + 4 = 45.67 A are due, whatever cooling would draw.
    Case("never together: 45 A while it heats", apart(60).model_copy(update={"measured": Measured(volts=(240,), amps=(45,))}), "heat_amps", MET, 45, 0.9 * (10000 / 240 + 4)),
    # 110.9, 110.10: what is available against what is marked.
    Case("10 kA breaker, 14 kA available", available(available_ka=14), "interrupting", NOT_MET, 10, 14),
    Case("10 kA breaker, 9 kA available", available(available_ka=9), "interrupting", MET, 10, 9),
    Case("nobody knows what is available", available(), "interrupting", CANNOT),
    Case("5 kA equipment, 9 kA available: the breaker's 10 do not help it", available(available_ka=9), "short_circuit_rating", NOT_MET, 5, 9, surprising=True),
    Case("5 kA equipment, 5 kA available", available(available_ka=5), "short_circuit_rating", MET, 5, 5),
    Case("a fast fuse ahead of a motor", turning(1, 15, sort=DeviceSort.FUSE, time_delay=False), "fuse_delay", ADVICE),
    Case("a dual-element fuse ahead of a motor", turning(1, 15, sort=DeviceSort.FUSE, time_delay=True), "fuse_delay", MET),
    # 210.20(A), exception: a device listed for all of its rating carries the load as it is.
    Case("24 A of heat behind a full-rated 25 A", heat(24, wire(10), 25, devices=(Device(name="breaker", amps=25, full_rated=True),)), "device_for_load", MET, 25, 24, surprising=True),
    Case("the same behind a usual one: 30 asked", heat(24, wire(10), 25), "device_for_load", NOT_MET, 25, 30),
    Case("max fuse or HACR breaker: marked", condenser(wire(), 30).model_copy(update={"plate": Plate(use=Use.COMPRESSOR, mca_amps=19, mocp_amps=30, fuse_or_hacr=True), "devices": (Device(name="breaker", amps=30, for_ac=True),)}), "device_sort", MET),
    Case("max fuse or HACR breaker: not marked", condenser(wire(), 30).model_copy(update={"plate": Plate(use=Use.COMPRESSOR, mca_amps=19, mocp_amps=30, fuse_or_hacr=True), "devices": (Device(name="breaker", amps=30, for_ac=False),)}), "device_sort", NOT_MET),
    Case("max fuse or HACR breaker: nobody looked", condenser(wire(), 30).model_copy(update={"plate": Plate(use=Use.COMPRESSOR, mca_amps=19, mocp_amps=30, fuse_or_hacr=True)}), "device_sort", CANNOT),
    # 440.12 from the MCA alone: between 0.92 and 1.15 of it, as the motors are.
    Case("30 A disconnect, MCA 26: 1.15 × 26 = 29.9 will do", opened_by(30, 26), "disconnect_rating", MET, 30, 29.9),
    Case("30 A disconnect, MCA 34: 0.92 × 34 = 31.28 at least", opened_by(30, 34), "disconnect_rating", NOT_MET, 30, 31.28),
    Case("30 A disconnect, MCA 30: between 27.6 and 34.5", opened_by(30, 30), "disconnect_rating", CANNOT, surprising=True),
    # 250.118: flexible metal conduit to 20 A and 6 ft, liquidtight to 60 A from ¾ in on.
    Case("4 ft of flexible metal behind 20 A", flexible(Method.FLEXIBLE_METAL, 20, flexible_m="4 ft", trade_size_in=0.75, moves=False), "grounding_path", MET, 20, 20),
    Case("the same behind 30 A", flexible(Method.FLEXIBLE_METAL, 30, flexible_m="4 ft"), "grounding_path", NOT_MET, 30, 20, surprising=True),
    Case("8 ft of it", flexible(Method.FLEXIBLE_METAL, 20, flexible_m="8 ft"), "grounding_path", NOT_MET, 8, 6),
    Case("¾ in liquidtight behind 60 A", flexible(Method.LIQUIDTIGHT_METAL, 60, flexible_m="6 ft", trade_size_in=0.75, moves=False), "grounding_path", MET, 60, 60),
    Case("½ in liquidtight behind 30 A", flexible(Method.LIQUIDTIGHT_METAL, 30, flexible_m="3 ft", trade_size_in=0.5), "grounding_path", NOT_MET, 30, 20, surprising=True),
    Case("1½ in liquidtight", flexible(Method.LIQUIDTIGHT_METAL, 60, flexible_m="3 ft", trade_size_in=1.5), "grounding_path", NOT_MET),
    Case("it shakes with the unit", flexible(Method.LIQUIDTIGHT_METAL, 20, flexible_m="3 ft", trade_size_in=0.5, moves=True), "grounding_path", NOT_MET, surprising=True),
    Case("liquidtight nonmetallic without a wire", flexible(Method.NONMETALLIC, 20), "grounding_path", NOT_MET),
    Case("and with one", flexible(Method.NONMETALLIC, 20, grounding_awg=12), "grounding_path", MET),
    Case("EMT", flexible(Method.METAL_CONDUIT, 60), "grounding_path", MET),
    Case("MC, its ground not looked at", flexible(Method.METAL_CLAD, 30), "grounding_path", CANNOT),
    # 440.62: 80 % of the circuit alone on it, 50 % with others; 440.65.
    Case("15 A unit alone on 20 A: 16 at most", plugged(15, 20), "cord_share", MET, 15, 16),
    Case("17 A unit alone on 20 A", plugged(17, 20), "cord_share", NOT_MET, 17, 16),
    Case("12 A unit on 20 A with other loads: 10", plugged(12, 20, alone=False), "cord_share", NOT_MET, 12, 10, surprising=True),
    Case("a 6-15 plug goes into 6-20", plugged(11, 20, plug="6-15"), "cord_pattern", MET),
    Case("a 6-20 plug does not go into 6-15", plugged(11, 15, receptacle="6-15"), "cord_pattern", NOT_MET),
    Case("7-20 is for 277 V, not 240", plugged(11, 20, plug="7-20", receptacle="7-20"), "cord_pattern", NOT_MET),
    Case("and it is at 277", plugged(11, 20, plug="7-20", receptacle="7-20", volts=277), "cord_pattern", MET),
    Case("30 A ahead of a 20 A receptacle", plugged(11, 30), "cord_pattern", NOT_MET, 30, 20),
    Case("no LCDI in its cord", plugged(11, 20, protected=False), "cord_protection", NOT_MET),
    # 310.10(G), Table 310.16: 250 kcmil copper 255 A at 75 °C; two of 1/0, 2 × 150.
    Case("250 kcmil copper: 255 A at 75 °C", condenser(wire(-4), 300, mca=250, mocp=300), "conductor_terminals", MET, 255, 250),
    Case("500 kcmil aluminum: 310 A", condenser(wire(-8, AL), 350, mca=320, mocp=350), "conductor_terminals", NOT_MET, 310, 320),
    Case("two of 1/0 copper: 300 A", condenser(wire(0, parallel=2), 350, mca=290, mocp=350), "conductor_terminals", MET, 300, 290),
    Case("two of 2 AWG may not be", condenser(wire(2, parallel=2), 200, mca=180, mocp=200), "parallel_size", NOT_MET, surprising=True),
    Case("two of 1/0 may", condenser(wire(0, parallel=2), 350, mca=290, mocp=350), "parallel_size", MET),
    # 450.3(B): 75 VA at 240 V is 0.3125 A, under 2 A: 300 %.
    Case("75 VA behind 1 A: 0.9375", control(75, 1), "transformer_primary", NOT_MET, 1, 0.9375),
    Case("150 VA at 480 V behind 0.9 A: 0.9375", control(150, 0.9, 480), "transformer_primary", MET, 0.9, 0.9375),
    Case("1000 VA at 240 V: 4.167 A, 167 %: 6.96", control(1000, 7), "transformer_primary", NOT_MET, 7, 1.67 * 1000 / 240),
    Case("3000 VA at 240 V: 12.5 A, 125 %: 15.625", control(3000, 15), "transformer_primary", MET, 15, 15.625),
    Case("its primary's volts are not known", control(75, 1, None), "transformer_primary", CANNOT),
    # Drop with the load's own power factor, 10 AWG in steel, 100 ft, 18 A: Z = 1.2·pf + 0.063·sin.
    Case("pf 0.6: 2 × 18 × (1.2 × 0.6 + 0.063 × 0.8) ÷ 10 = 2.773 V of 240", Sheet(nominal_volts=240, plate=Plate(use=Use.COMPRESSOR, mca_amps=18, power_factor=0.6), runs=(wire(10, raceway=Raceway.STEEL, length_m=30.48),)), "drop", MET, 100 * 2.7734 / 240, 3),
    Case("two of 250 kcmil in parallel, 200 A, 100 ft: 2 × 200 × 0.0515 ÷ 2 ÷ 10 = 1.03 V", Sheet(nominal_volts=240, plate=Plate(use=Use.HEAT, heat_amps=160, least_volts=240), runs=(wire(-4, parallel=2, length_m=30.48),)), "drop", MET, 100 * 1.03 / 240, 3),
    # Small wire: 402.5 as a guide, sleeves by color, terminals uncut.
    Case("9 A in 16 AWG: 8", lead(amps=9), "lead_amps", ADVICE, 9, 8),
    Case("5 A in 18 AWG: 6", lead(size_awg=18, amps=5), "lead_amps", MET, 5, 6),
    Case("16 AWG where 14 was", lead(was_awg=14), "lead_as_before", NOT_MET),
    Case("105 °C where 150 was", lead(jacket_c=105, was_jacket_c=150), "lead_as_before", NOT_MET, 105, 150),
    Case("a yellow sleeve on 16 AWG", lead(barrel=Barrel.YELLOW), "crimp_barrel", NOT_MET),
    Case("a blue sleeve on 16 AWG", lead(barrel=Barrel.BLUE), "crimp_barrel", MET),
    Case("a red one too", lead(barrel=Barrel.RED), "crimp_barrel", MET, surprising=True),
    Case("a 0.250 spade on a 0.187 tab", lead(tab_in=0.187, spade_in=0.25), "terminal_fits", NOT_MET),
    Case("a ring for 10 on a #10 screw", lead(ring="10", stud="#10"), "terminal_fits", MET),
    Case("a trimmed fork", lead(fork_trimmed=True), "terminal_fits", NOT_MET),
    Case("24 of 26 strands", lead(strands=26, strands_left=24), "lead_strands", NOT_MET, 2400 / 26, 100),
    # 250.122(B): 3/0 for 128 A, which 1 AWG carries at 75 °C; 6 AWG (26,240) × 167,800 ÷ 83,690 = 52,612: 3 AWG (52,620).
    Case("3/0 where 1 AWG would do: the ground grows from 6 to 3 AWG", condenser(wire(-2, grounding_awg=6), 175, mca=128, mocp=175), "grounding", NOT_MET, 6, 3, surprising=True),
]  # fmt: skip


@pytest.mark.parametrize("case", DAILY, ids=lambda case: case.words)
def test_worked_case(case: Case) -> None:
    holds(case)


def test_there_are_sixty_more_and_every_rule_has_one() -> None:
    assert len(DAILY) >= 60
    assert {case.rule for case in (*CASES, *DAILY)} >= set(rules()) - {
        "device_for_ac",
        "contactor_locked",
        "amps_over_plate",
        "least_size",
    }
