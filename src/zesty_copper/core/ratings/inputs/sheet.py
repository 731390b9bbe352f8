"""What is known of a circuit and its equipment: everything optional, each absence named where it counts."""

from enum import StrEnum
from typing import Annotated, Self

from pydantic import BeforeValidator, Field, StrictBool, model_validator

from zesty_copper.core.circuit.model import MOST_PARTS
from zesty_copper.core.circuit.parts.conductor import Metal
from zesty_copper.core.frozen import Count, Figure, Frozen
from zesty_copper.core.ratings.inputs.as_written import (
    celsius_from,
    colour_from,
    gauge_from,
    insulation_from,
    metal_from,
    metres_from,
    raceway_from,
)

__all__ = [
    "Barrel",
    "Box",
    "ContactorPlate",
    "ControlTransformer",
    "Cord",
    "Cover",
    "Device",
    "DeviceSort",
    "Disconnector",
    "Edition",
    "Insulation",
    "Joint",
    "Measured",
    "Method",
    "Motor",
    "Plate",
    "PlateColumn",
    "PullBox",
    "Raceway",
    "Run",
    "Runs",
    "Sheet",
    "SmallWire",
    "Use",
    "Wires",
]

Amps = Annotated[Figure, Field(ge=0.001, le=2000)]
TogetherAmps = Annotated[Figure, Field(ge=0.001, le=1000 * MOST_PARTS)]
"""Of everything that one circuit may hold: whatever circuit is taken in has a sheet."""
Volts = Annotated[Figure, Field(ge=1, le=1000)]
Shown = Annotated[Figure, Field(gt=0, le=1000)]
"""Volts as a meter shows them, which may be next to none."""
Gauge = Annotated[
    Count,
    BeforeValidator(gauge_from),
    Field(
        ge=-8,
        le=18,
        description="AWG, as 10, “#10” or “4/0”; 0 to -3 stand for 1/0 to 4/0, -4 to -8 for 250 to 500 kcmil",
    ),
]
Celsius = Annotated[Figure, BeforeValidator(celsius_from)]
Metres = Annotated[Figure, BeforeValidator(metres_from)]
MetalName = Annotated[Metal, BeforeValidator(metal_from)]
Colour = Annotated[str, BeforeValidator(colour_from)]


class Edition(StrEnum):
    """Edition of the National Electrical Code that is in force."""

    NEC_2017 = "2017"
    NEC_2020 = "2020"
    NEC_2023 = "2023"


class Use(StrEnum):
    """What the circuit is there for, which decides the rules."""

    COMPRESSOR = "compressor"
    HEAT = "heat"
    MOTOR = "motor"


class Insulation(StrEnum):
    """Type marked on the conductor or cable."""

    TW = "TW"
    UF_B = "UF-B"
    NM_B = "NM-B"
    THW = "THW"
    THWN = "THWN"
    RHW = "RHW"
    THHN = "THHN"
    THWN_2 = "THWN-2"
    XHHW = "XHHW"
    XHHW_2 = "XHHW-2"
    SE = "SE"
    RHW_2 = "RHW-2"
    USE_2 = "USE-2"
    FEP = "FEP"
    SIS = "SIS"


class Raceway(StrEnum):
    """What the conductors run in."""

    PLASTIC = "plastic"
    ALUMINIUM = "aluminium"
    STEEL = "steel"


class Runs(StrEnum):
    """When a motor runs."""

    ALWAYS = "always"
    COOLING = "cooling"
    HEATING = "heating"


class Motor(Frozen):
    """A motor or motor-compressor on the plate."""

    name: str = Field(min_length=1, max_length=60)
    amps: Amps = Field(description="RLA, or FLA")
    locked_amps: Figure | None = Field(default=None, ge=0.01, le=10000)
    hp: Figure | None = Field(
        default=None, ge=0.001, le=100, description="horsepower, of a motor that is no compressor"
    )
    runs: Runs = Field(default=Runs.ALWAYS, description="in cooling alone, in heating alone, or whenever")
    overload_amps: Amps | None = Field(default=None, description="at which its overload is set or marked")
    service_factor: Figure | None = Field(default=None, ge=1, le=2)
    table_amps: Amps | None = Field(default=None, description="by the code's table, once its supply is known")

    @property
    def sizing_amps(self) -> float:
        """Amps that conductors and device go by [A]: the table's for a motor marked in horsepower (NEC 430.6(A)(1))."""
        return self.table_amps or self.amps


class PlateColumn(Frozen):
    """What a plate with several voltages says at one of them."""

    volts: Volts
    mca_amps: Amps | None = None
    mocp_amps: Amps | None = None
    heat_kw: Figure | None = Field(default=None, ge=0.001, le=500)


class Plate(Frozen):
    """The equipment's nameplate."""

    use: Use | None = None
    least_volts: Volts | None = Field(default=None, description="lower of two rated voltages, or the one")
    most_volts: Volts | None = Field(default=None, description="higher of two rated voltages")
    phases: Count | None = Field(default=None, ge=1, le=3)
    mca_amps: Amps | None = Field(default=None, description="minimum circuit ampacity")
    mocp_amps: Amps | None = Field(default=None, description="maximum overcurrent protection")
    motors: tuple[Motor, ...] = Field(default=(), max_length=MOST_PARTS, description="the largest first or not")
    heat_amps: TogetherAmps | None = Field(default=None, description="of all elements at rated volts, per conductor")
    heat_kw: Figure | None = Field(
        default=None, ge=0.001, le=500, description="the same in kilowatts; takes precedence"
    )
    heat_volts: Volts | None = Field(
        default=None, description="rated volts that the heat is marked at; by default the higher"
    )
    limit_of_elements_amps: TogetherAmps | None = Field(default=None, description="largest subdivided element circuit")
    largest_motor_hp: Figure | None = Field(default=None, ge=0.001, le=100, description="horsepower; 0.125 is 1/8 hp")
    fuses_only: StrictBool = Field(default=False, description="the plate asks for fuses")
    fuse_or_hacr: StrictBool = Field(default=False, description="the plate asks for fuses or a HACR breaker")
    never_together: StrictBool = Field(
        default=False, description="cooling and electric heat never run at the same time"
    )
    at_volts: tuple[PlateColumn, ...] = Field(default=(), max_length=4, description="what is marked at each voltage")
    sccr_ka: Figure | None = Field(
        default=None, ge=0.01, le=300, description="short-circuit current rating, kiloamperes"
    )
    power_factor: Figure | None = Field(default=None, ge=0.05, le=1, description="of the whole load")

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.least_volts is not None and self.most_volts is not None and self.least_volts > self.most_volts:
            raise ValueError("The lower rated volts are above the higher ones: swap them.")
        return self


class Method(StrEnum):
    """How conductors are run, as far as it decides what may be the grounding path."""

    METAL_CONDUIT = "metal conduit or EMT"
    FLEXIBLE_METAL = "flexible metal conduit"
    LIQUIDTIGHT_METAL = "liquidtight flexible metal conduit"
    NONMETALLIC = "plastic conduit or liquidtight nonmetallic"
    METAL_CLAD = "MC cable"
    CABLE = "cable with its own ground"


class Wires(Frozen):
    """Some conductors of one size."""

    size_awg: Gauge
    count: Count = Field(ge=1, le=60)


class Run(Frozen):
    """One run of conductors."""

    name: str = Field(min_length=1, max_length=60)
    part: str | None = Field(default=None, description="id of the circuit's part")
    size_awg: Gauge
    metal: MetalName = Metal.COPPER
    length_m: Metres | None = Field(default=None, ge=0.01, le=500, description="one way, metre")
    insulation: Annotated[Insulation, BeforeValidator(insulation_from)] | None = None
    raceway: Annotated[Raceway, BeforeValidator(raceway_from)] | None = None
    carrying: Count | None = Field(default=None, ge=1, le=60, description="current-carrying conductors together")
    ambient_c: Celsius | None = Field(default=None, ge=-40, le=85, description="°C")
    above_roof_mm: Figure | None = Field(default=None, ge=0, le=2000, description="raceway in sun above a roof")
    terminals_c: Count | None = Field(
        default=None, ge=60, le=90, description="lowest mark of the terminals at its ends"
    )
    grounding_awg: Gauge | None = None
    grounding_metal: MetalName = Metal.COPPER
    behind: str | None = Field(default=None, description="part of the device that protects it; by default the smallest")
    feeder: StrictBool = Field(default=False, description="feeds more than this equipment")
    inside_equipment: StrictBool = Field(default=False, description="the maker's own wiring")
    wet: StrictBool | None = Field(default=None, description="outdoors or below ground")
    method: Method | None = Field(default=None, description="what it runs in, as a grounding path")
    flexible_m: Metres | None = Field(
        default=None, ge=0.01, le=100, description="of flexible conduit altogether, metre"
    )
    trade_size_in: Figure | None = Field(default=None, ge=0.01, le=6, description="of the flexible conduit, inch")
    moves: StrictBool | None = Field(default=None, description="it has to bend or shake after it is installed")
    parallel: Count = Field(default=1, ge=1, le=6, description="conductors alike for each leg")
    hot_colours: tuple[Colour, ...] = Field(default=(), max_length=4, description="of the ungrounded conductors")
    marked_again: StrictBool = Field(default=False, description="re-identified at both ends")
    in_cable: StrictBool = Field(default=False, description="a cable, in which a white conductor may be marked again")


class DeviceSort(StrEnum):
    """What opens on too much current."""

    BREAKER = "breaker"
    FUSE = "fuse"


class Device(Frozen):
    """An overcurrent device."""

    name: str = Field(min_length=1, max_length=60)
    part: str | None = None
    amps: Amps
    sort: DeviceSort = DeviceSort.BREAKER
    poles: Count | None = Field(default=None, ge=1, le=3)
    feeder: StrictBool = Field(default=False, description="feeds more than this equipment")
    for_ac: StrictBool | None = Field(default=None, description="marked for air-conditioning equipment (HACR)")
    protects_elements: StrictBool = Field(
        default=False, description="inside the heater, ahead of its subdivided elements"
    )
    interrupting_ka: Figure | None = Field(
        default=None, ge=0.01, le=300, description="interrupting rating, kiloamperes"
    )
    time_delay: StrictBool | None = Field(default=None, description="of a fuse: dual-element, or marked time-delay")
    full_rated: StrictBool = Field(default=False, description="listed to carry 100 % of its rating for hours")


class Disconnector(Frozen):
    """The disconnecting means."""

    name: str = Field(default="disconnect", min_length=1, max_length=60)
    part: str | None = None
    amps: Amps | None = None
    locked_amps: Figure | None = Field(default=None, ge=0.01, le=10000, description="locked-rotor rating")
    in_sight: StrictBool | None = None
    lockable: StrictBool | None = None


class ContactorPlate(Frozen):
    """A contactor's ratings."""

    name: str = Field(default="contactor", min_length=1, max_length=60)
    part: str | None = None
    poles: Count | None = Field(default=None, ge=1, le=4)
    motor_amps: Amps | None = Field(default=None, description="full-load, inductive")
    locked_amps: Figure | None = Field(default=None, ge=0.01, le=10000)
    heat_amps: Amps | None = Field(default=None, description="resistive")
    switches_amps: TogetherAmps | None = Field(
        default=None, description="what hangs on it; by default all the plate names"
    )
    switches_heat: StrictBool = Field(default=False, description="heat alone hangs on it")
    coil_volts: Volts | None = None
    control_volts: Volts | None = None


class Cover(StrEnum):
    """What insulates a splice."""

    LISTED = "listed connector or cover"
    RUBBER_UNDER_VINYL = "rubber tape under vinyl"
    VINYL = "vinyl tape alone"
    NONE = "none"


class Joint(Frozen):
    """A terminal or splice."""

    name: str = Field(min_length=1, max_length=60)
    part: str | None = None
    wires: tuple[Wires, ...] = Field(default=(), max_length=6)
    metals: tuple[MetalName, ...] = Field(default=(), max_length=2, description="of the wires in it")
    marked_for: tuple[MetalName, ...] = Field(default=(), max_length=2, description="CU, AL, or both")
    marked_for_mixing: StrictBool = Field(default=False, description="listed for copper and aluminum touching")
    least_awg: Gauge | None = Field(default=None, description="thinnest wire it is marked for")
    most_awg: Gauge | None = Field(default=None, description="thickest")
    most_wires: Count | None = Field(default=None, ge=1, le=12)
    cover: Cover | None = None
    is_splice: StrictBool = False
    label_lbf_in: Figure | None = Field(default=None, ge=0.01, le=1000, description="torque on the label")
    used_lbf_in: Figure | None = Field(default=None, ge=0.01, le=1000, description="torque it was tightened to")
    strands: Count | None = Field(default=None, ge=1, le=61)
    strands_left: Count | None = Field(default=None, ge=0, le=61)

    @model_validator(mode="after")
    def _no_more_than_there_are(self) -> Self:
        if self.strands is not None and self.strands_left is not None and self.strands_left > self.strands:
            raise ValueError(f"Of {self.strands} strands no more than {self.strands} can be left: count them again.")
        return self


class Barrel(StrEnum):
    """Color of a crimp terminal's sleeve, which tells the wire it is for."""

    RED = "red"
    BLUE = "blue"
    YELLOW = "yellow"


class SmallWire(Frozen):
    """A lead inside equipment, to be replaced or mended."""

    name: str = Field(min_length=1, max_length=60)
    size_awg: Gauge
    amps: Amps | None = Field(default=None, description="that it carries")
    jacket_c: Figure | None = Field(default=None, ge=60, le=250, description="temperature on its jacket, °C")
    was_awg: Gauge | None = Field(default=None, description="of the lead that was there")
    was_jacket_c: Figure | None = Field(default=None, ge=60, le=250, description="on the jacket that was there, °C")
    barrel: Barrel | None = Field(default=None, description="of its crimp terminal")
    tab_in: Figure | None = Field(
        default=None, ge=0.01, le=1, description="width of the tab that it is pushed on, inch"
    )
    spade_in: Figure | None = Field(default=None, ge=0.01, le=1, description="width that its spade is made for, inch")
    stud: str | None = Field(default=None, max_length=8, description="screw or stud, as 8 or 1/4")
    ring: str | None = Field(default=None, max_length=8, description="hole of its ring or fork, as 8 or 1/4")
    fork_trimmed: StrictBool | None = Field(default=None, description="its fork or ring was cut to fit")
    strands: Count | None = Field(default=None, ge=1, le=200)
    strands_left: Count | None = Field(default=None, ge=0, le=200)


class Box(Frozen):
    """A box with splices or a device; volumes in the code's own unit."""

    name: str = Field(min_length=1, max_length=60)
    volume_in3: Figure | None = Field(default=None, ge=0.01, le=5000)
    wires: tuple[Wires, ...] = Field(default=(), max_length=8)
    grounds: tuple[Wires, ...] = Field(default=(), max_length=4)
    clamps: StrictBool = Field(default=False, description="cable clamps inside")
    fittings: Count = Field(default=0, ge=0, le=4, description="studs and hickeys")
    yokes: Count = Field(default=0, ge=0, le=4, description="straps of devices")
    yoke_awg: Gauge | None = Field(default=None, description="largest conductor on the devices")
    accessible: StrictBool | None = None


class PullBox(Frozen):
    """A pull or junction box for conductors of 4 AWG or larger; the code's own inches."""

    name: str = Field(min_length=1, max_length=60)
    length_in: Figure | None = Field(default=None, ge=0.01, le=200)
    largest_raceway_in: Figure = Field(ge=0.01, le=6)
    others_in: tuple[Figure, ...] = Field(default=(), max_length=12, description="others in the same row of one wall")
    straight: StrictBool = True


class ControlTransformer(Frozen):
    """A control transformer and the coils that it feeds."""

    name: str = Field(default="control transformer", min_length=1, max_length=60)
    part: str | None = None
    volt_amps: Figure = Field(ge=0.01, le=5000)
    coils_va: tuple[Annotated[Figure, Field(ge=0.01, le=1e6)], ...] = Field(default=(), max_length=MOST_PARTS)
    primary_volts: Volts | None = None
    primary_device_amps: Amps | None = Field(default=None, description="the fuse or breaker ahead of its primary")
    class_2: StrictBool | None = Field(default=None, description="marked Class 2")


class Cord(Frozen):
    """The cord and plug of a unit that is plugged in."""

    name: str = Field(default="cord and plug", min_length=1, max_length=60)
    part: str | None = None
    plug: str | None = Field(default=None, max_length=10, description="its pattern, as 6-20")
    receptacle: str | None = Field(default=None, max_length=10, description="of the receptacle, as 6-20")
    alone: StrictBool = Field(default=True, description="nothing else is on the circuit")
    protected: StrictBool | None = Field(
        default=None, description="leakage or arc-fault protection in its cord (LCDI, AFCI)"
    )


class Measured(Frozen):
    """What was measured while it ran."""

    volts: tuple[Shown, ...] = Field(default=(), max_length=3, description="leg to leg at the equipment")
    amps: tuple[Annotated[Figure, Field(ge=0, le=5000)], ...] = Field(
        default=(), max_length=3, description="of each leg"
    )
    service_volts: tuple[Shown, ...] = Field(default=(), max_length=3, description="leg to leg at the service")


class Sheet(Frozen):
    """All that is known."""

    edition: Edition = Edition.NEC_2023
    nominal_volts: Volts | None = Field(default=None, description="of the supply, leg to leg")
    legs: Count | None = Field(default=None, ge=1, le=3, description="ungrounded conductors")
    three_phase: StrictBool = False
    neutral: StrictBool = Field(default=False, description="a neutral comes along with the legs")
    high_leg: StrictBool = Field(default=False, description="one leg is a delta's high leg, and carried along")
    available_ka: Figure | None = Field(
        default=None, ge=0.01, le=300, description="fault current that is available there"
    )
    plate: Plate = Plate()
    runs: tuple[Run, ...] = Field(default=(), max_length=MOST_PARTS)
    devices: tuple[Device, ...] = Field(default=(), max_length=MOST_PARTS)
    disconnects: tuple[Disconnector, ...] = Field(default=(), max_length=MOST_PARTS)
    contactors: tuple[ContactorPlate, ...] = Field(default=(), max_length=MOST_PARTS)
    transformers: tuple[ControlTransformer, ...] = Field(default=(), max_length=MOST_PARTS)
    joints: tuple[Joint, ...] = Field(default=(), max_length=MOST_PARTS)
    boxes: tuple[Box, ...] = Field(default=(), max_length=12)
    pull_boxes: tuple[PullBox, ...] = Field(default=(), max_length=6)
    cords: tuple[Cord, ...] = Field(default=(), max_length=4)
    small_wires: tuple[SmallWire, ...] = Field(default=(), max_length=20)
    measured: Measured = Measured()
