"""Pictures that people send: read, turned upright, made smaller, and made anew without what they say of themselves."""

import io
from typing import IO

from PIL import ExifTags, Image, UnidentifiedImageError

from recensor.core.errors import Refused

# What is taken at all, in bytes and in points of the picture; what is kept, in points along its longer side.
LARGEST_PICTURE, MOST_POINTS, LONGEST_SIDE = 2_500_000, 50_000_000, 1600
FORMATS = ("JPEG", "PNG", "WEBP")
CONTENT_TYPE = "image/jpeg"

_QUALITY = 82

_Turn = Image.Transpose

# What puts a picture upright, by the orientation that its EXIF states (from memory: EXIF 2.3, tag 0x0112).
_UPRIGHT = {
    2: _Turn.FLIP_LEFT_RIGHT,
    3: _Turn.ROTATE_180,
    4: _Turn.FLIP_TOP_BOTTOM,
    5: _Turn.TRANSPOSE,
    6: _Turn.ROTATE_270,
    7: _Turn.TRANSVERSE,
    8: _Turn.ROTATE_90,
}


def remade(file: IO[bytes], size: int) -> bytes:
    """A picture as a new JPEG. Raises `Refused` for what is too large, or no picture that is taken."""
    if size > LARGEST_PICTURE:
        raise Refused(f"The picture has {size / 1e6:.1f} MB; at most {LARGEST_PICTURE / 1e6:.1f} MB are taken.")
    try:
        picture = Image.open(file, formats=FORMATS)
        is_too_large = picture.width * picture.height > MOST_POINTS
        upright = None if is_too_large else _upright(picture).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise Refused("This is no picture that is taken: JPEG, PNG and WebP are.") from None
    if upright is None:
        raise Refused(f"The picture is {picture.width} × {picture.height}; that is more than is taken.")
    upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    kept = io.BytesIO()
    upright.save(kept, "JPEG", quality=_QUALITY, optimize=True)
    return kept.getvalue()


def _upright(picture: Image.Image) -> Image.Image:
    """The picture as it was held; as it is where its EXIF cannot be read, which phones do write."""
    try:
        turn = _UPRIGHT.get(picture.getexif().get(ExifTags.Base.Orientation, 1))
    except Exception:  # there is no end to what an odd EXIF makes its reader stumble over
        turn = None
    return picture if turn is None else picture.transpose(turn)
