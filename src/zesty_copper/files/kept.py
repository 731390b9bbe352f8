"""Traces and photos as text within JSON: numbers packed as little-endian, shrunk by zlib, written in base64."""

import base64
import binascii
import zlib
from datetime import datetime
from typing import Literal, Self

import numpy as np
from pydantic import Field, model_validator

from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.load_test.trace import MOST_CHANNELS, MOST_SAMPLES, Channel, Series, Trace, trace_of
from zesty_copper.core.people import Line
from zesty_copper.files.logger.mapping import ReadCsv
from zesty_copper.files.photo import MOST_PHOTO_BYTES

__all__ = ["KeptPhoto", "KeptTrace"]


def _packed(values: Series, kind: str) -> str:
    return base64.b64encode(zlib.compress(values.astype(kind).tobytes(), 6)).decode()


def _unpacked(text: str, kind: str, most: int) -> Series:
    """Unpack numbers, no more than so many: what would unpack to more is refused while it unpacks."""
    limit = most * np.dtype(kind).itemsize
    try:
        opened = zlib.decompressobj()
        data = opened.decompress(base64.b64decode(text, validate=True), limit + 1)
        if len(data) > limit:
            raise ValueError("The trace holds more numbers than a load test has.")
        return np.frombuffer(data, kind).astype(np.float64)
    except (binascii.Error, zlib.error):
        raise ValueError("The trace cannot be unpacked: export it again.") from None


class KeptTrace(Frozen):
    """A load test: what was measured, and its samples."""

    title: Line = Field(min_length=1, max_length=80)
    source: Literal["csv", "clamp", "typed"]
    begun_at: datetime
    channels: tuple[Channel, ...] = Field(min_length=1, max_length=MOST_CHANNELS)
    seconds: str = Field(description="(samples,) of 8 bytes, little-endian, zlib, base64")
    values: str = Field(description="(channels, samples) of 4 bytes; NaN where none was read")
    rows: ReadCsv | None = Field(default=None, description="what became of the rows of its file")

    @model_validator(mode="after")
    def _check(self) -> Self:
        try:
            self.trace()
        except BadInput as error:
            raise ValueError(error.message) from None
        return self

    def trace(self) -> Trace:
        """Unpack the samples."""
        seconds = _unpacked(self.seconds, "<f8", MOST_SAMPLES)
        values = _unpacked(self.values, "<f4", MOST_SAMPLES * len(self.channels))
        if values.size != seconds.size * len(self.channels):
            raise ValueError("The trace has not as many numbers as times.")
        return trace_of(self.channels, seconds, values.reshape(len(self.channels), -1))

    @classmethod
    def packed(cls, trace: Trace) -> dict[str, str]:
        """Pack the samples of a trace: the fields `seconds` and `values`."""
        return {"seconds": _packed(trace.seconds, "<f8"), "values": _packed(trace.values, "<f4")}


class KeptPhoto(Frozen):
    """A photo, where it was taken, and what it shows."""

    part: str | None = Field(default=None, max_length=60)
    lane: str | None = Field(default=None, max_length=8)
    words: Line = Field(default="", max_length=160)
    added_at: datetime
    jpeg: str = Field(max_length=2 * MOST_PHOTO_BYTES, description="base64")

    def picture(self) -> bytes:
        """Unpack the photo.

        Raises
        ------
        BadInput
            If it is no base64.
        """
        try:
            return base64.b64decode(self.jpeg, validate=True)
        except binascii.Error:
            raise BadInput("A photo cannot be unpacked: export it again.", "photos") from None

    @staticmethod
    def packed(jpeg: bytes) -> str:
        """Pack a photo: the field `jpeg`."""
        return base64.b64encode(jpeg).decode()
