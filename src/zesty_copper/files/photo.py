"""Photos on their way in: of a known kind, of a bearable size, upright, and without what a phone writes into them."""

import io
import warnings
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from zesty_copper.core.errors import BadInput

__all__ = ["MOST_PHOTO_BYTES", "Photo", "kept_again", "taken_in"]

MOST_PHOTO_BYTES = 12_000_000
MOST_PIXELS = {"JPEG": 120_000_000, "PNG": 24_000_000}
"""A picture that unpacks to more is none that a phone takes. A JPEG is read at a fraction of its size, a PNG whole."""
SIDE, THUMB_SIDE = 1600, 320
OWN_INFO = frozenset({"jfif", "jfif_version", "jfif_unit", "jfif_density", "dpi"})
"""What a JPEG says of itself that was written here."""
QUALITY = 82


@dataclass(frozen=True)
class Photo:
    """A photo as it is kept: JPEG, and a small one of it."""

    jpeg: bytes
    thumb: bytes
    width: int
    height: int


def taken_in(data: bytes) -> Photo:
    """Read a JPEG or PNG and write it anew, smaller: place, time and camera that were in it are gone.

    Raises
    ------
    BadInput
        If it is no such picture, or would unpack to more than a photo has.
    """
    if len(data) > MOST_PHOTO_BYTES:
        raise BadInput(f"The photo is larger than {MOST_PHOTO_BYTES / 1e6:.0f} MB: send a smaller one.", "photo")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)  # the size is checked below
            image = Image.open(io.BytesIO(data), formats=("JPEG", "PNG"))
        if image.width * image.height > MOST_PIXELS[image.format or "PNG"]:
            raise BadInput("The photo has too many pixels: take it again at a usual size.", "photo")
        # Large photos are read at a fraction of their size, which takes a fraction of the time.
        image.draft("RGB", (SIDE, SIDE))
        upright = ImageOps.exif_transpose(image).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise BadInput("That is no photo that can be read: choose a JPEG or PNG.", "photo") from None
    upright.thumbnail((SIDE, SIDE))
    small = upright.copy()
    small.thumbnail((THUMB_SIDE, THUMB_SIDE))
    return Photo(_jpeg(upright), _jpeg(small), upright.width, upright.height)


def kept_again(data: bytes) -> Photo:
    """Take a photo that this program wrote as it is, and any other as if it came from a phone.

    Raises
    ------
    BadInput
        As `taken_in`.
    """
    photo = taken_in(data)
    opened = Image.open(io.BytesIO(data), formats=("JPEG", "PNG"))
    if opened.format == "JPEG" and max(opened.size) <= SIDE and set(opened.info) <= OWN_INFO:
        return Photo(data, photo.thumb, *opened.size)
    return photo


def _jpeg(image: Image.Image) -> bytes:
    clean = Image.new("RGB", image.size)
    clean.paste(image)
    buffer = io.BytesIO()
    clean.save(buffer, "JPEG", quality=QUALITY, optimize=True)
    return buffer.getvalue()
