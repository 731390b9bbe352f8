"""A sheet for each branch circuit of some equipment, filled with what circuit and readings already say.

It goes by the id of the source, or of its breaker where one source feeds the equipment by several.
"""

from collections.abc import Mapping, Sequence
from functools import lru_cache

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part, Zone
from zesty_copper.core.circuit.parts.catalogue import PartRole, ShuntModel
from zesty_copper.core.circuit.parts.loads import Nameplate
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Reading
from zesty_copper.core.ratings.inputs.sheet import (
    ContactorPlate,
    ControlTransformer,
    Device,
    DeviceSort,
    Disconnector,
    Joint,
    Measured,
    Motor,
    Plate,
    Run,
    Sheet,
    Use,
)

__all__ = ["measured_on", "sheets_of", "sheets_with"]

NOT_LEGS = (GROUND, NEUTRAL)
MOST_POLES = 4
LEAST_VA = 0.1


def sheets_with(circuit: Circuit, entered: Mapping[str, Sheet], readings: Sequence[Reading]) -> dict[str, Sheet]:
    """Return each branch circuit's sheet: as entered, else as the circuit says; with what was measured on it."""
    return {
        source: _with_measured(entered.get(source, sheet), measured_on(circuit, source, readings))
        for source, sheet in sheets_of(circuit).items()
    }


def _with_measured(sheet: Sheet, read: Measured) -> Sheet:
    """Return a sheet with what was read on the call; what was not, as it was entered."""
    kept = {name: getattr(read, name) or getattr(sheet.measured, name) for name in Measured.model_fields}
    return sheet.model_copy(update={"measured": Measured.model_validate(kept)})


@lru_cache(maxsize=128)
def sheets_of(circuit: Circuit) -> dict[str, Sheet]:
    """Return a sheet for each branch circuit that feeds a load of the equipment, by the part at which it begins."""
    return {
        start.id: _sheet(circuit, start, loads)
        for source in circuit.series
        if source.entry.role is PartRole.SOURCE
        for start, loads in _branches(circuit, source).items()
    }


def _branches(circuit: Circuit, source: Part) -> dict[Part, list[Part]]:
    """Return the loads of a source by their breaker; by the source itself where one breaker has them all."""
    loads = [load for load in circuit.loads if circuit.root(load) == source and load.load is not None]
    branches: dict[Part, list[Part]] = {}
    for load in loads:
        branches.setdefault(_branch_device(circuit, load) or source, []).append(load)
    return branches if len(branches) > 1 else {source: loads} if loads else {}


def _branch_device(circuit: Circuit, load: Part) -> Part | None:
    """Return the first breaker or fuse on the way to a load that is neither a feeder's nor the unit's own."""
    return next(
        (
            part
            for part in circuit.path(load)
            if part.entry.overcurrent and part.zone is not Zone.UNIT and not _feeds_others(circuit, part)
        ),
        None,
    )


def _legs(circuit: Circuit, part: Part) -> list[str]:
    return [lane for lane in circuit.lanes_of(part) if lane not in NOT_LEGS]


def _sheet(circuit: Circuit, start: Part, loads: list[Part]) -> Sheet:
    source = circuit.path(start)[0]
    supply = circuit.supply_of(source)
    ways = {part.id: part for load in loads for part in circuit.path(load)}
    parts = [part for part in circuit.series if part.id in ways]
    legs = _legs(circuit, source)
    devices = _devices(circuit, parts, loads)
    return Sheet(
        nominal_volts=round(circuit.root_volts(loads[0])),
        legs=len(legs),
        three_phase=len(legs) == 3,
        neutral=any(NEUTRAL in circuit.lanes_of(load) for load in loads),
        high_leg=supply.high_leg is not None and supply.high_leg in legs,
        plate=_plate(loads, circuit, devices, next((part.nameplate for part in parts if part.nameplate), None)),
        runs=tuple(_runs(circuit, parts, devices)),
        devices=tuple(devices),
        disconnects=tuple(
            Disconnector(name=part.name, part=part.id, amps=part.rating_amps) for part in parts if _disconnects(part)
        ),
        contactors=tuple(_contactors(circuit, parts)),
        transformers=tuple(_transformers(circuit, start)),
        joints=tuple(Joint(name=part.name, part=part.id, is_splice=True) for part in parts if part.entry.joins_wires),
    )


def _has_three_phases(circuit: Circuit, load: Part) -> bool:
    """Whether a load is on three legs; the three leads of a split-phase motor are none."""
    return len(circuit.lanes_of(load)) == 3 and load.entry.model is not ShuntModel.SPLIT_PHASE


def _disconnects(part: Part) -> bool:
    by_hand = part.entry.is_switch and part.entry.moved_by == "hand" and not part.entry.overcurrent
    return by_hand and part.zone is Zone.DISCONNECT


def _plate(loads: list[Part], circuit: Circuit, devices: list[Device], marked: Nameplate | None) -> Plate:
    """What the loads' own plates say, and the equipment's: MCA and MOCP."""
    motors = [load for load in loads if load.entry.turns]
    heaters = [load for load in loads if load not in motors]
    # What is entered on the sheet goes before it.
    compressor = any(load.compresses for load in motors)
    use = Use.COMPRESSOR if compressor else Use.HEAT if heaters else Use.MOTOR
    behind = [
        _amps([load for load in heaters if circuit.part(device.part or "") in circuit.path(load)])
        for device in devices
        if device.protects_elements
    ]
    rated = [load.load.rated_volts for load in loads if load.load]
    return Plate(
        use=use,
        least_volts=min(rated),
        most_volts=max(rated),
        mca_amps=marked.mca_amps if marked else None,
        mocp_amps=marked.mocp_amps if marked else None,
        phases=3 if any(_has_three_phases(circuit, load) for load in loads) else 1,
        motors=tuple(
            Motor(name=load.name, amps=load.load.rated_amps, locked_amps=load.load.locked_amps)
            for load in motors
            if load.load
        ),
        heat_amps=_amps(heaters) or None,
        limit_of_elements_amps=max(behind, default=0.0) or None,
    )


def _amps(loads: Sequence[Part]) -> float:
    return round(sum(load.load.rated_amps for load in loads if load.load), 2)


def _devices(circuit: Circuit, parts: list[Part], loads: list[Part]) -> list[Device]:
    """Breakers and fuses; those inside the unit only where they are there for its elements."""
    devices = []
    heaters = {load.id for load in loads if not load.entry.turns}
    for part in parts:
        if not part.entry.overcurrent or part.rating_amps is None:
            continue
        inside = part.zone is Zone.UNIT
        feeds_heat = any(load.id in heaters and part in circuit.path(load) for load in loads)
        if inside and not feeds_heat:
            continue
        devices.append(
            Device(
                name=part.name,
                part=part.id,
                amps=part.rating_amps,
                sort=DeviceSort.FUSE if part.entry.is_fuse else DeviceSort.BREAKER,
                poles=len(_legs(circuit, part)) or None,
                feeder=part.zone is Zone.PANEL and _feeds_others(circuit, part),
                protects_elements=inside,
            )
        )
    return devices


def _feeds_others(circuit: Circuit, part: Part) -> bool:
    """Whether a further panel lies behind a part, from which other equipment is fed too."""
    return any(
        each_part.zone is Zone.PANEL and each_part.entry.overcurrent and part in circuit.path(each_part)[:-1]
        for each_part in circuit.series
    )


def _runs(circuit: Circuit, parts: list[Part], devices: list[Device]) -> list[Run]:
    runs = []
    known = {device.part: device for device in devices}
    for part in parts:
        if part.conductor is None:
            continue
        before = circuit.path(part)[:-1]
        ahead = [each_part.id for each_part in before if each_part.id in known]
        runs.append(
            Run(
                name=part.name,
                part=part.id,
                size_awg=part.conductor.size_awg,
                metal=part.conductor.metal,
                length_m=part.conductor.length_m,
                behind=ahead[-1] if ahead else None,
                feeder=bool(ahead) and known[ahead[-1]].feeder,
                inside_equipment=any(
                    each_part.zone is Zone.UNIT and each_part.conductor is None for each_part in before
                ),
            )
        )
    return runs


def _contactors(circuit: Circuit, parts: list[Part]) -> list[ContactorPlate]:
    """Contactors, and what else a coil moves where its rating is known."""
    contactors = []
    coils = {switch.id: circuit.part(switch.coil) for switch in circuit.switches if switch.coil}
    for part in parts:
        coil = coils.get(part.switch or "")
        moved = part.entry.power_contacts or (part.entry.moved_by == "call" and part.rating_amps is not None)
        if not moved or part.normally_closed:
            continue
        behind = [load for load in circuit.loads if part in circuit.path(load)]
        transformer = circuit.root(coil) if coil is not None else None
        heat = behind and all(not load.entry.turns for load in behind)
        contactors.append(
            ContactorPlate(
                name=part.name,
                part=part.id,
                poles=min(len(_legs(circuit, part)), MOST_POLES) or None,
                motor_amps=part.rating_amps,
                switches_amps=_amps(behind) or None,
                switches_heat=bool(heat),
                coil_volts=coil.load.rated_volts if coil is not None and coil.load else None,
                control_volts=transformer.winding.secondary_volts if transformer and transformer.winding else None,
            )
        )
    return contactors


def _transformers(circuit: Circuit, start: Part) -> list[ControlTransformer]:
    """Control transformers on this branch circuit, with what hangs on their secondaries."""
    return [
        ControlTransformer(
            name=part.name,
            part=part.id,
            volt_amps=part.winding.volt_amps,
            primary_volts=part.winding.primary_volts,
            coils_va=tuple(
                max(round(each_part.load.rated_volts * each_part.load.rated_amps, 1), LEAST_VA)
                for each_part in circuit.parts
                if each_part.load is not None and each_part.entry.moves_contacts and circuit.root(each_part) == part
            ),
        )
        for part in circuit.series
        if part.winding is not None and start in circuit.path(part)
    ]


def measured_on(circuit: Circuit, start_id: str, readings: Sequence[Reading]) -> Measured:
    """Return what was read on one branch circuit while everything was closed, the last of each."""
    start = circuit.part(start_id)
    source = circuit.path(start)[0]
    volts: dict[frozenset[str], float] = {}
    service: dict[frozenset[str], float] = {}
    amps: dict[str, float] = {}
    legs = _legs(circuit, source)
    for reading in readings:
        place = reading.measurement.place
        if not reading.measurement.as_it_stands or not reading.is_steady:
            continue
        if isinstance(place, Between) and reading.is_volts and GROUND not in (place.a, place.b):
            (a, part), (b, other) = circuit.split_point(place.a), circuit.split_point(place.b)
            if part != other or circuit.root(part) != source or a not in legs or b not in legs:
                continue
            if part.zone is Zone.UNIT and start in circuit.path(part):
                volts[frozenset((a, b))] = reading.value
            elif part.zone is Zone.PANEL:
                service[frozenset((a, b))] = reading.value
        elif isinstance(place, Around) and len(place.lanes) == 1 and place.leg in legs:
            part = circuit.part(place.part)
            if start in circuit.path(part) and part.conductor is not None and not _feeds_others(circuit, part):
                amps[place.leg] = reading.value
    return Measured(
        volts=tuple(v for v in volts.values() if v > 0),
        service_volts=tuple(v for v in service.values() if v > 0),
        amps=tuple(amps[leg] for leg in legs if leg in amps),
    )
