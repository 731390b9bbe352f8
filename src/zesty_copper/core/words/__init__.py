"""What is said on screen: one catalogue of messages, a file for each room of the core, with holes for what differs."""

import tomllib
from collections.abc import Mapping
from functools import cache
from importlib.resources import files

__all__ = ["catalogue", "say"]


def say(key: str, /, **holes: object) -> str:
    """Return a message with its holes filled.

    >>> say("safety.slipped_decimal_would_fit", value="118 V")
    '118 V would fit.'

    Parameters
    ----------
    key
        Room and name, `safety.would_fit`.

    Raises
    ------
    KeyError
        If there is no such message, or a hole is left.
    """
    return catalogue()[key].format(**holes)


@cache
def catalogue() -> Mapping[str, str]:
    """Every message by its room and name, read once."""
    rooms = [room_file for room_file in files(__package__).iterdir() if room_file.name.endswith(".toml")]
    messages = {
        room_file.name.removesuffix(".toml"): tomllib.loads(room_file.read_text("utf-8")) for room_file in rooms
    }
    return {f"{room}.{name}": text for room, by_name in messages.items() for name, text in by_name.items()}
