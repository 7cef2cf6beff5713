"""Photos as cameras take them, turned upright, made smaller and written anew as JPEG: nothing of the
file that came is kept, neither where it was taken nor what else was hidden in it."""

from __future__ import annotations

import hashlib
import io
import warnings
from dataclasses import dataclass
from threading import Lock

import pillow_heif
from PIL import Image, ImageOps, UnidentifiedImageError

from plentar.core.errors import BadInput

pillow_heif.register_heif_opener(thumbnails=False)

#: What may come: its bytes, its pixels, and in which formats.
MOST_BYTES, MOST_PIXELS = 15_000_000, 50_000_000
FORMATS = ("JPEG", "PNG", "WEBP", "HEIF")
#: What is kept: so many pixels a side, in so many bytes at most, by falling quality.
MOST_SIDE, MOST_KEPT_BYTES, QUALITIES = 1280, 200_000, (80, 70, 60, 45, 30)
LEAST_SIDE = 8
#: One is worked on at a time: a large one takes a few hundred megabytes while it is.
_ONE = Lock()


@dataclass(frozen=True, slots=True)
class Photo:
    """A photo as it is kept. ``key`` is the SHA-256 of what came: sent twice, it is the same."""

    key: str
    jpeg: bytes
    width: int
    height: int


def read_photo(raw: bytes, path: str = "photo") -> Photo:
    """The photo in a file. Raises BadInput where there is none, or one that is too large."""
    if not raw:
        raise BadInput(path, "choose a photo")
    if len(raw) > MOST_BYTES:
        raise BadInput(path, f"at most {MOST_BYTES / 1e6:.0f} MB a photo")
    with _ONE, warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            with Image.open(io.BytesIO(raw), formats=FORMATS) as opened:
                picture = _upright(opened, path)
        except (UnidentifiedImageError, OSError, ValueError, SyntaxError, EOFError, MemoryError,
                RuntimeError, Image.DecompressionBombError):  # fmt: skip
            raise BadInput(
                path, "no photo that can be read: JPEG, PNG, WebP or HEIC, whole and undamaged"
            ) from None
        jpeg = _written(picture)
    return Photo(hashlib.sha256(raw).hexdigest(), jpeg, *picture.size)


def _upright(opened: Image.Image, path: str) -> Image.Image:
    """Of several pictures the first; on white where it lets through."""
    width, height = opened.size
    if width * height > MOST_PIXELS:
        raise BadInput(
            path, f"at most {MOST_PIXELS / 1e6:.0f} megapixels; this has {width} × {height}"
        )
    if min(width, height) < LEAST_SIDE:
        raise BadInput(path, "too small to see anything on")
    opened.draft("RGB", (MOST_SIDE, MOST_SIDE))
    picture: Image.Image = ImageOps.exif_transpose(opened)
    picture.thumbnail((MOST_SIDE, MOST_SIDE))
    if picture.mode in ("RGBA", "LA", "PA", "P"):
        picture = picture.convert("RGBA")
        white = Image.new("RGBA", picture.size, "white")
        picture = Image.alpha_composite(white, picture)
    return picture.convert("RGB")


def _written(picture: Image.Image) -> bytes:
    """In the best quality that fits; pixels alone, into a picture that knows nothing else."""
    bare = Image.frombytes("RGB", picture.size, picture.tobytes())
    jpeg = b""
    for quality in QUALITIES:
        kept = io.BytesIO()
        bare.save(kept, "JPEG", quality=quality, optimize=True)
        jpeg = kept.getvalue()
        if len(jpeg) <= MOST_KEPT_BYTES:
            break
    return jpeg
