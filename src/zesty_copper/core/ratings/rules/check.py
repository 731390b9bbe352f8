"""Every rule on one sheet, what can hurt somebody first."""

from collections.abc import Callable, Iterator

from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.core.ratings.rules import faults_available, protection, supply
from zesty_copper.core.ratings.rules.finding import Finding, Status
from zesty_copper.core.ratings.rules.plate import cords, equipment, motors
from zesty_copper.core.ratings.rules.plate.demand import as_supplied
from zesty_copper.core.ratings.rules.wires import boxes, conductors, drop, joints, paths, small_wires
from zesty_copper.core.ratings.rules.wires.ampacity import with_rateable_runs

__all__ = ["RULES", "check"]

RULES: tuple[Callable[[Sheet], Iterator[Finding]], ...] = (
    conductors.conductor_terminals,
    conductors.conductor_derated,
    conductors.wet_insulation,
    conductors.grounding,
    conductors.colours,
    paths.grounding_path,
    paths.parallel_size,
    protection.device_over_conductor,
    protection.device_over_plate,
    protection.device_without_plate,
    protection.device_for_load,
    protection.standard_size,
    protection.device_sort,
    protection.device_for_ac,
    protection.heat_subdivided,
    protection.load_on_device,
    faults_available.interrupting,
    faults_available.short_circuit_rating,
    faults_available.fuse_delay,
    motors.overload,
    cords.cord_pattern,
    cords.cord_share,
    cords.cord_protection,
    equipment.plate_true,
    equipment.disconnect_rating,
    equipment.disconnect_locked,
    equipment.disconnect_sight,
    equipment.contactor_amps,
    equipment.contactor_locked,
    equipment.contactor_poles,
    equipment.contactor_coil,
    equipment.transformer,
    equipment.transformer_primary,
    equipment.amps_over_plate,
    equipment.heat_amps,
    equipment.amps_unbalance,
    drop.drop,
    supply.supply_window,
    supply.service_range,
    supply.volts_unbalance,
    boxes.box_volume,
    boxes.box_access,
    boxes.pull_box,
    joints.joint_metals,
    joints.joint_range,
    joints.splice_cover,
    joints.torque,
    joints.lost_section,
    small_wires.lead_amps,
    small_wires.lead_as_before,
    small_wires.crimp_barrel,
    small_wires.terminal_fits,
    small_wires.lead_strands,
)

_ORDER = list(Status)


def check(sheet: Sheet) -> tuple[Finding, ...]:
    """Judge a sheet by every rule; what can hurt somebody comes first."""
    rateable = as_supplied(with_rateable_runs(sheet))
    findings = [*conductors.least_size(sheet), *(finding for rule in RULES for finding in rule(rateable))]
    return tuple(sorted(findings, key=lambda finding: (_ORDER.index(finding.status), finding.hazard)))
