"""Rules about units that are plugged in: pattern, share of the circuit, and protection in the cord."""

from collections.abc import Iterator

from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.core.ratings.inputs.tables import table
from zesty_copper.core.ratings.rules.finding import Finding, Ruling
from zesty_copper.core.ratings.rules.plate.demand import load_amps
from zesty_copper.core.ratings.worked import Worked, computed, given, number
from zesty_copper.core.words import say

__all__ = ["cord_pattern", "cord_protection", "cord_share"]

ALONE_PERCENT, SHARED_PERCENT = 80.0, 50.0
"""Of the branch circuit: alone on it, and with other loads (NEC 440.62(B), (C))."""
MOST_AMPS, MOST_VOLTS = 40.0, 250.0
"""Beyond them a unit is no room air conditioner of Part VII (NEC 440.62(A))."""


def cord_pattern(sheet: Sheet) -> Iterator[Finding]:
    """Judge plug and receptacle: one pattern, made for the supply's volts and the circuit's device (NEMA WD 6)."""
    device = min((each_device.amps for each_device in sheet.devices if not each_device.feeder), default=None)
    for cord in sheet.cords:
        ruling = Ruling.on("cord_pattern", sheet, cord)
        if cord.plug is None or cord.receptacle is None:
            yield ruling.wants("the patterns of plug and receptacle")
            continue
        known = {str(row[0]): row[1:] for row in table("plug_patterns").rows}
        if cord.plug not in known or cord.receptacle not in known:
            yield ruling.wants("a pattern of the table, as 6-20")
            continue
        amps, least, most = (float(cell) for cell in known[cord.receptacle])
        nominal = sheet.nominal_volts
        if not _fits(cord.plug, cord.receptacle):
            yield ruling.stated(
                say("ratings.plug_does_not_fit", plug=cord.plug, receptacle=cord.receptacle), is_met=False
            )
        elif nominal is not None and not least - 1 <= nominal <= most + 1:
            words = say("ratings.receptacle_other_volts", receptacle=cord.receptacle, number=number(nominal))
            yield ruling.stated(words, is_met=False)
        elif device is not None and device > amps:
            words = say("ratings.device_over_receptacle", number=number(device), number_2=number(amps))
            yield ruling.at_most(words, given("device ahead", device, "A"), given("receptacle", amps, "A"))
        else:
            yield ruling.stated(say("ratings.plug_fits", receptacle=cord.receptacle), is_met=True)


def _fits(plug: str, receptacle: str) -> bool:
    """Whether a plug goes in: its own pattern, or the 15 A one of the same family into a 20 A receptacle."""
    family, _, amps = plug.partition("-")
    return plug == receptacle or (amps == "15" and receptacle == f"{family}-20")


def cord_share(sheet: Sheet) -> Iterator[Finding]:
    """Judge a unit's amps against its share of the circuit: 80 % alone, 50 % with other loads (NEC 440.62)."""
    load = load_amps(sheet.plate)
    device = min((each_device.amps for each_device in sheet.devices if not each_device.feeder), default=None)
    for cord in sheet.cords:
        ruling = Ruling.on("cord_share", sheet, cord)
        if load is None or device is None:
            yield ruling.wants("the unit's amps" if load is None else "the device ahead")
            continue
        if load.value > MOST_AMPS or (sheet.nominal_volts or 0) > MOST_VOLTS:
            continue  # beyond what the clause speaks of: the list of what is not judged says so
        percent = ALONE_PERCENT if cord.alone else SHARED_PERCENT
        most = percent / 100 * device
        words = say("ratings.share_of_circuit", value=load.value, number=number(percent), number_2=number(device))
        limit = computed(f"{number(percent)} % of it", f"{number(percent / 100)} × {number(device)}", most, "A")
        yield ruling.at_most(words, load, Worked(steps=(given("device ahead", device, "A"), limit)))


def cord_protection(sheet: Sheet) -> Iterator[Finding]:
    """Judge the protection in the cord of a single-phase unit to 250 V (NEC 440.65)."""
    if sheet.three_phase or (sheet.nominal_volts or 0) > MOST_VOLTS:
        return
    for cord in sheet.cords:
        ruling = Ruling.on("cord_protection", sheet, cord)
        if cord.protected is None:
            yield ruling.wants("whether its cord has an LCDI or AFCI")
            continue
        words = say("ratings.cord_protected") if cord.protected else say("ratings.cord_unprotected")
        yield ruling.stated(words, is_met=cord.protected)
