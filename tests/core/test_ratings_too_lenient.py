"""What the ratings must not pass: each case derived by hand from its clause (NEC 2023, section numbers from memory)."""

import itertools

import pytest
from tests.core.test_ratings import CANNOT, MET, NOT_MET, condenser, heat, motors, wire

from zesty_copper.core.circuit.parts.conductor import Metal
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.ratings.inputs.from_circuit import sheets_of
from zesty_copper.core.ratings.inputs.sheet import (
    Cover,
    Device,
    DeviceSort,
    Insulation,
    Joint,
    Method,
    Plate,
    Run,
    Sheet,
    Use,
    Wires,
)
from zesty_copper.core.ratings.rules.check import check
from zesty_copper.core.ratings.rules.finding import Finding, Status
from zesty_copper.core.ratings.sizing.sizes import what_matches, what_should_be_there

BOTH = (Metal.COPPER, Metal.ALUMINIUM)


def finding(sheet: Sheet, rule: str) -> Finding:
    return next(one for one in check(sheet) if one.rule == rule)


def joint(**more: object) -> Sheet:
    return condenser(wire(10), 30, joints=(Joint.model_validate({"name": "lug"} | more),))


def fans(device: float, *amps: float, sort: DeviceSort = DeviceSort.BREAKER, run: Run | None = None) -> Sheet:
    """Motors on one circuit without a group plate."""
    plate = Plate(use=Use.MOTOR, least_volts=240, motors=motors(*amps))
    devices = (Device(name="device", amps=device, sort=sort),)
    return Sheet(nominal_volts=240, legs=2, plate=plate, runs=(run or wire(14),), devices=devices)


def flexible(device: float = 30, **more: object) -> Sheet:
    """Four feet of ¾ in liquidtight metal conduit without a ground wire."""
    usual = {"method": Method.LIQUIDTIGHT_METAL, "flexible_m": 1.2, "trade_size_in": 0.75}
    return condenser(wire(10).model_copy(update=usual | more), device)


@pytest.mark.parametrize(
    ("sheet", "rule", "status"),
    [
        # 110.14: dissimilar metals are not intermixed in a terminal unless it is identified for it; CU-AL means
        # either one.
        (joint(metals=BOTH, marked_for=BOTH), "joint_metals", NOT_MET),
        (joint(metals=BOTH, marked_for=BOTH, marked_for_mixing=True), "joint_metals", MET),
        # 110.14(A): a terminal for more than one conductor is identified for it.
        (joint(wires=(Wires(size_awg=10, count=2),)), "joint_range", CANNOT),
        (joint(wires=(Wires(size_awg=10, count=2),), least_awg=14, most_awg=4), "joint_range", CANNOT),
        (joint(wires=(Wires(size_awg=10, count=2),), most_wires=1), "joint_range", NOT_MET),
        (joint(wires=(Wires(size_awg=10, count=2),), most_wires=2), "joint_range", MET),
        # 430.52: 2.5 × 17 = 42.5, up to 45; 430.62(A): + 8 = 53, down to 50. 14 AWG gives no more.
        (fans(60, 17, 8), "device_over_conductor", NOT_MET),
        (fans(50, 17, 8), "device_over_conductor", MET),
        # 2.5 × 10 = 25; + 2 + 2 = 29, down to 25.
        (fans(30, 10, 2, 2), "device_over_conductor", NOT_MET),
        (fans(25, 10, 2, 2), "device_over_conductor", MET),
        # 430.53(C)(4): no less than 240.4(B) gives the conductors: 6 AWG, 65 A at 75 °C, up to 70.
        (fans(70, 17, 8, run=wire(6)), "device_over_conductor", MET),
        # One motor alone goes up a size: 2.5 × 11 = 27.5, up to 30.
        (fans(30, 11), "device_over_conductor", MET),
        # 440.22(A) binds: 2.25 × 40 = 90.
        (condenser(wire(4), 100, mca=None, mocp=None).model_copy(
            update={"plate": Plate(use=Use.COMPRESSOR, least_volts=240, motors=motors(40))}
        ), "device_without_plate", NOT_MET),
        # 110.14(C)(1): a terminal marked 90 °C in equipment that is not: 10 AWG 35 A at 75 °C, not 40.
        (condenser(wire(10, terminals_c=90), 40, mca=38, mocp=40), "conductor_terminals", NOT_MET),
        # 250.118(5), (6): flexible where flexibility is needed after installation is no path, unread is not no.
        (flexible(), "grounding_path", CANNOT),
        (flexible(moves=True), "grounding_path", NOT_MET),
        (flexible(moves=False), "grounding_path", MET),
        (flexible(20, method=Method.FLEXIBLE_METAL, trade_size_in=1.5, moves=False), "grounding_path", NOT_MET),
        (flexible(method=Method.NONMETALLIC), "grounding_path", NOT_MET),
    ],
)  # fmt: skip
def test_what_the_code_forbids_or_nobody_read_is_not_passed(sheet: Sheet, rule: str, status: Status) -> None:
    assert finding(sheet, rule).status is status, finding(sheet, rule).words


def test_a_run_is_judged_by_the_device_ahead_of_it_alone() -> None:
    """A feeder's run with nothing drawn ahead of it is behind no breaker further down."""
    ahead = wire(10, part="feeder", name="feeder")
    branch = wire(10, part="branch", behind="breaker")
    sheet = heat(20, branch, 30).model_copy(
        update={"runs": (ahead, branch), "devices": (Device(name="breaker", part="breaker", amps=30),)}
    )
    found = {one.about: one.status for one in check(sheet) if one.rule == "device_over_conductor"}
    assert found == {"feeder": CANNOT, "breaker ahead of branch": MET}


def test_heat_with_motors_is_offered_a_device_that_passes() -> None:
    """45 A of heat and a fan of 2.4 A last: 1.25 × 47.4 = 59.25, up to 60; of the motor alone it would be 50."""
    plate = Plate(use=Use.COMPRESSOR, least_volts=240, most_volts=240, heat_amps=45, motors=motors(2.4))
    sheet = Sheet(nominal_volts=240, legs=2, plate=plate, runs=(wire(4),), devices=(Device(name="breaker", amps=60),))
    offered = next(one for one in what_should_be_there(sheet) if one.what == "Largest breaker or fuse")
    assert offered.answer == "60 A"
    assert {one.rule: one.status for one in check(sheet)}["device_for_load"] is MET
    assert {one.rule: one.status for one in check(sheet)}["device_without_plate"] is MET


def test_a_replacement_never_repeats_what_was_over_fused() -> None:
    """60 A found ahead of 12 A of heat on 12 AWG: the wire allows 20. Of nothing known, nothing is repeated."""
    known = what_matches(heat(12, wire(12), 60))
    assert known[0].answer.startswith("20 A, 20 A at most by the wire")
    plated = what_matches(condenser(wire(10), 60))
    assert plated[0].answer.startswith("30 A, 30 A at most by the plate")
    nothing = Sheet(devices=(Device(name="fuse", amps=60, sort=DeviceSort.FUSE),))
    assert "which was not read (the old one says 60 A)" in what_matches(nothing)[0].answer


@pytest.mark.parametrize("key", ready_made())
def test_findings_do_not_hang_on_names(key: str) -> None:
    circuit = ready_made()[key]
    renamed = circuit.model_copy(
        update={
            "parts": tuple(
                part.model_copy(update={"name": f"part {i}"}) if part.load else part
                for i, part in enumerate(circuit.parts)
            )
        }
    )

    def judged(of: dict[str, Sheet]) -> list[tuple[str, str, Status]]:
        return [(one.rule, one.part or "", one.status) for sheet in of.values() for one in check(sheet)]

    assert judged(sheets_of(renamed)) == judged(sheets_of(circuit))


# What nobody may have read, with values that are plausible.
FACTS: dict[str, tuple[tuple[str, ...], tuple[object, ...]]] = {
    "insulation": (("runs", "insulation"), (Insulation.TW, Insulation.THWN, Insulation.THHN)),
    "terminals": (("runs", "terminals_c"), (60, 75)),
    "ambient": (("runs", "ambient_c"), (20.0, 30.0, 50.0)),
    "carrying": (("runs", "carrying"), (2, 3, 6)),
    "moves": (("runs", "moves"), (True, False)),
    "flexible": (("runs", "flexible_m"), (1.0, 3.0)),
    "trade size": (("runs", "trade_size_in"), (0.5, 0.75, 1.5)),
    "ground wire": (("runs", "grounding_awg"), (14, 10)),
    "length": (("runs", "length_m"), (5.0, 60.0)),
    "time delay": (("devices", "time_delay"), (True, False)),
    "HACR": (("devices", "for_ac"), (True, False)),
    "interrupting": (("devices", "interrupting_ka"), (5.0, 22.0)),
    "SCCR": (("plate", "sccr_ka"), (5.0, 22.0)),
    "MOCP": (("plate", "mocp_amps"), (25.0, 60.0)),
    "MCA": (("plate", "mca_amps"), (15.0, 45.0)),
    "wires it takes": (("joints", "most_wires"), (1, 3)),
    "cover": (("joints", "cover"), (Cover.NONE, Cover.LISTED)),
    "strands left": (("joints", "strands_left"), (3, 7)),
}
OPTIONAL = {("grounding", "ground wire"), ("grounding_path", "ground wire")}
"""A ground wire that is not there is no unread one: another path is asked for then."""

WHOLE = {"method": Method.LIQUIDTIGHT_METAL, "flexible_m": 1.0, "trade_size_in": 0.75, "moves": False, "length_m": 12.0}
JOINTS = (
    Joint(name="lug", wires=(Wires(size_awg=10, count=2),), most_wires=3, strands=7, strands_left=7),
    Joint(name="splice", is_splice=True, metals=(Metal.COPPER,), cover=Cover.LISTED),
)
SHEETS = {
    "condenser": condenser(wire(10).model_copy(update=WHOLE), 30, joints=JOINTS, available_ka=10.0),
    "heater": heat(20, wire(10).model_copy(update=WHOLE), 30, joints=JOINTS, available_ka=10.0),
    "fan": fans(30, 11, run=wire(12).model_copy(update=WHOLE)).model_copy(
        update={"joints": JOINTS, "available_ka": 10.0}
    ),
    "fused": fans(20, 11, sort=DeviceSort.FUSE, run=wire(12).model_copy(update=WHOLE)),
}


def with_fact(sheet: Sheet, path: tuple[str, ...], value: object) -> Sheet:
    where, name = path
    if where == "plate":
        return sheet.model_copy(update={"plate": sheet.plate.model_copy(update={name: value})})
    things = getattr(sheet, where)
    return sheet.model_copy(update={where: tuple(one.model_copy(update={name: value}) for one in things)})


# Where the plate's own amps are known its MCA follows from them, so another is not plausible.
ASKED = [(key, fact) for key, fact in itertools.product(SHEETS, FACTS) if fact != "MCA" or key == "condenser"]


@pytest.mark.parametrize(("key", "fact"), ASKED)
def test_leaving_a_fact_out_never_passes_what_a_plausible_value_would_not(key: str, fact: str) -> None:
    path, plausible = FACTS[fact]
    unread = {(one.rule, one.about): one for one in check(with_fact(SHEETS[key], path, None))}
    for value in plausible:
        read = {(one.rule, one.about): one.status for one in check(with_fact(SHEETS[key], path, value))}
        for thing, one in unread.items():
            if one.status is Status.MET and (thing[0], fact) not in OPTIONAL:
                assert read.get(thing, MET) in (MET, Status.ADVICE), (thing, value, one.words)
