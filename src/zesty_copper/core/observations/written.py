"""What the kinds of observation share of the quick-entry line."""

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.errors import BadInput
from zesty_copper.core.words import say

__all__ = ["lane_of"]


def lane_of(circuit: Circuit, part: Part, word: str) -> str:
    """Return a word that names one of a part's conductors.

    Raises
    ------
    BadInput
        If none of them has that name.
    """
    lanes = circuit.lanes_of(part)
    if word not in lanes:
        raise BadInput(say("tools.there_no_has", word=word, name=part.name, lanes=", ".join(lanes)), "line")
    return word
