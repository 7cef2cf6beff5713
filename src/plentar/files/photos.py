"""Photos as cameras take them, turned upright, made smaller and written anew as JPEG: nothing of the
file that came is kept, neither where it was taken nor what else was hidden in it."""

from __future__ import annotations

import hashlib
import io
import warnings
from dataclasses import dataclass, replace
from functools import cache
from threading import Lock

import pillow_heif
from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError

from plentar.core.errors import BadInput
from plentar.words import phrase

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
        raise BadInput(path, phrase("files.photos.choose-photo"))
    if len(raw) > MOST_BYTES:
        raise BadInput(path, phrase("files.photos.most-mb-photo", most_bytes=f"{MOST_BYTES / 1000000.0:.0f}"))
    with _ONE, warnings.catch_warnings():
        warnings.simplefilter("ignore")
        # Whoever lays out sheets in this process has it take halves of pictures for whole ones.
        ImageFile.LOAD_TRUNCATED_IMAGES = False
        try:
            with Image.open(io.BytesIO(raw), formats=FORMATS) as opened:
                quality = _quality(opened)
                picture = _upright(opened, path)
        except (
            UnidentifiedImageError,
            OSError,
            ValueError,
            SyntaxError,
            EOFError,
            MemoryError,
            RuntimeError,
            Image.DecompressionBombError,
        ):
            raise BadInput(path, phrase("files.photos.no-photo-can-read")) from None
        jpeg = _written(picture, quality)
    return Photo(hashlib.sha256(raw).hexdigest(), jpeg, *picture.size)


def read_filed(raw: bytes, path: str = "photo") -> Photo:
    """A photo out of a visit file: its pixels alone, under a key of what is kept. Raises BadInput.

    One that this module wrote is written again at the quality that it has, and loses little.
    """
    photo = read_photo(raw, path)
    return replace(photo, key=hashlib.sha256(photo.jpeg).hexdigest())


def _quality(opened: Image.Image) -> int:
    """The quality to write a picture at: that of its own tables where they are ours, else the best."""
    tables = getattr(opened, "quantization", None)
    return next((quality for quality in QUALITIES if _tables(quality) == tables), QUALITIES[0])


@cache
def _tables(quality: int) -> dict[int, list[int]]:
    written = io.BytesIO()
    Image.new("RGB", (LEAST_SIDE, LEAST_SIDE)).save(written, "JPEG", quality=quality)
    with Image.open(written, formats=["JPEG"]) as opened:
        return dict(getattr(opened, "quantization", {}))


def _upright(opened: Image.Image, path: str) -> Image.Image:
    """Of several pictures the first; on white where it lets through."""
    width, height = opened.size
    if width * height > MOST_PIXELS:
        raise BadInput(
            path,
            phrase(
                "files.photos.most-megapixels-this-has",
                most_pixels=f"{MOST_PIXELS / 1000000.0:.0f}",
                width=width,
                height=height,
            ),
        )
    if min(width, height) < LEAST_SIDE:
        raise BadInput(path, phrase("files.photos.too-small-see-anything"))
    opened.draft("RGB", (MOST_SIDE, MOST_SIDE))
    picture: Image.Image = ImageOps.exif_transpose(opened)
    picture.thumbnail((MOST_SIDE, MOST_SIDE))
    if picture.mode in ("RGBA", "LA", "PA", "P"):
        picture = picture.convert("RGBA")
        white = Image.new("RGBA", picture.size, "white")
        picture = Image.alpha_composite(white, picture)
    return picture.convert("RGB")


def _written(picture: Image.Image, best: int) -> bytes:
    """In the best quality that fits, from ``best`` on; pixels alone, into a picture that knows nothing else."""
    bare = Image.frombytes("RGB", picture.size, picture.tobytes())
    jpeg = b""
    for quality in (q for q in QUALITIES if q <= best):
        kept = io.BytesIO()
        bare.save(kept, "JPEG", quality=quality, optimize=True)
        jpeg = kept.getvalue()
        if len(jpeg) <= MOST_KEPT_BYTES:
            break
    return jpeg
