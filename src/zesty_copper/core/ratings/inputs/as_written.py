"""Values as people write them: 4/0, #10, 122 °F, 65 ft, Al, EMT, THHN/THWN-2.

Each reader takes what it knows and leaves the rest alone, so that what is no such value is refused where it stands.
"""

import re

from zesty_copper.core.circuit.parts.conductor import KCMIL

__all__ = [
    "GAUGES",
    "celsius_from",
    "colour_from",
    "gauge_from",
    "insulation_from",
    "metal_from",
    "metres_from",
    "raceway_from",
]

GAUGES = (18, 16, 14, 12, 10, 8, 6, 4, 3, 2, 1, 0, -1, -2, -3, *KCMIL)
"""Sizes that are made and that the tables hold [AWG]; 0 to -3 stand for 1/0 to 4/0, -4 to -8 for 250 to 500 kcmil."""
_NUMBER = r"([-+]?\d+(?:[.,]\d+)?)"
_METALS = {"cu": "copper", "copper": "copper", "al": "aluminium", "aluminum": "aluminium", "aluminium": "aluminium"}
_RACEWAYS = {
    "emt": "steel",
    "imc": "steel",
    "rmc": "steel",
    "steel": "steel",
    "pvc": "plastic",
    "ent": "plastic",
    "plastic": "plastic",
    "aluminum": "aluminium",
    "aluminium": "aluminium",
}
_COLOURS = {"grey": "gray", "green/yellow": "green-yellow", "yellow-green": "green-yellow"}


def gauge_from(value: object) -> object:
    """Read a wire size, and refuse one that is not made.

    >>> gauge_from("4/0"), gauge_from("#10"), gauge_from("10 AWG"), gauge_from("250 kcmil")
    (-3, 10, 10, -4)

    Raises
    ------
    ValueError
        For kcmil that the tables here do not hold, and for a gauge that is not made.
    """
    size = value
    if isinstance(value, str):
        text = value.strip().lower().removeprefix("#").removesuffix("awg").strip()
        if large := re.fullmatch(r"(\d+)\s*(?:kcmil|mcm)", text):
            known = {kcmil: size for size, kcmil in KCMIL.items()}
            if int(large[1]) not in known:
                raise ValueError(f"{value} is beyond the tables here: wire size from 18 AWG to 500 kcmil.")
            return known[int(large[1])]
        if zeros := re.fullmatch(r"([1-4])/0", text):
            size = 1 - int(zeros[1])
        elif re.fullmatch(r"-?\d+", text):
            size = int(text)
    if isinstance(size, int) and not isinstance(size, bool) and -3 <= size <= 18 and size not in GAUGES:
        raise ValueError(f"No {size} AWG wire is made: wire size from 18 AWG to 500 kcmil, as 12, “#10” or “4/0”.")
    return size


def celsius_from(value: object) -> object:
    """Read a temperature.

    >>> celsius_from("122 °F"), celsius_from("30 °C")
    (50.0, 30.0)
    """
    if not isinstance(value, str) or not (match := re.fullmatch(_NUMBER + r"\s*°?\s*([fc])?", value.strip().lower())):
        return value
    degrees = float(match[1].replace(",", "."))
    return round((degrees - 32) / 1.8, 2) if match[2] == "f" else degrees


def metres_from(value: object) -> object:
    """Read a length.

    >>> metres_from("65 ft"), metres_from("20 m")
    (19.812, 20.0)
    """
    if not isinstance(value, str):
        return value
    match = re.fullmatch(_NUMBER + r"\s*(ft|feet|foot|\'|m|meters?|metres?)?", value.strip().lower())
    if match is None:
        return value
    length = float(match[1].replace(",", "."))
    return round(length * 0.3048, 4) if (match[2] or "m")[0] in "f'" else length


def metal_from(value: object) -> object:
    """Read a metal: Cu, Al and both spellings.

    >>> metal_from("Al"), metal_from("CU")
    ('aluminium', 'copper')
    """
    return _METALS.get(value.strip().lower(), value) if isinstance(value, str) else value


def raceway_from(value: object) -> object:
    """Read a raceway by its usual name.

    >>> raceway_from("EMT"), raceway_from("PVC")
    ('steel', 'plastic')
    """
    return _RACEWAYS.get(value.strip().lower(), value) if isinstance(value, str) else value


def insulation_from(value: object) -> object:
    """Read the marks on the insulation; of two, the one that is good for 90 °C wet and dry.

    >>> insulation_from("THHN/THWN-2"), insulation_from("thhn")
    ('THWN-2', 'THHN')
    """
    if not isinstance(value, str):
        return value
    marks = [mark.strip().upper() for mark in re.split(r"[/,]| or ", value) if mark.strip()]
    return next((mark for mark in marks if mark.endswith("-2")), marks[0] if marks else value)


def colour_from(value: object) -> object:
    """Read a color, whatever its case and spelling.

    >>> colour_from("Grey"), colour_from("WHITE")
    ('gray', 'white')
    """
    return _COLOURS.get(value.strip().lower(), value.strip().lower()) if isinstance(value, str) else value
