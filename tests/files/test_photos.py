"""Photos: what cameras write is read, upright and bare; whatever else comes is refused and costs little."""

from __future__ import annotations

import hashlib
import io
import struct
import zlib

import numpy as np
import pytest
from PIL import Image
from pillow_heif import from_pillow

from plentar.core.errors import BadInput
from plentar.files.photos import MOST_BYTES, MOST_KEPT_BYTES, MOST_SIDE, read_filed, read_photo


def taken(kind: str, size: tuple[int, int] = (64, 32), mode: str = "RGB", **more) -> bytes:
    """Copper on the left half, white on the right."""
    made = Image.new(mode, size, "white")
    made.paste((150, 70, 25, 255)[: len(made.getbands())], (0, 0, size[0] // 2, size[1]))
    out = io.BytesIO()
    if kind == "HEIF":
        from_pillow(made).save(out)
    else:
        made.save(out, kind, **more)
    return out.getvalue()


@pytest.mark.parametrize(
    ("kind", "mode"),
    [("JPEG", "RGB"), ("PNG", "RGBA"), ("WEBP", "RGB"), ("HEIF", "RGB"), ("PNG", "P"), ("PNG", "L")],
)
def test_what_a_camera_writes_is_read(kind, mode):
    raw = taken(kind, (640, 480)) if mode == "RGB" else taken(kind, (640, 480), "RGBA")
    if mode in ("P", "L"):
        out = io.BytesIO()
        Image.open(io.BytesIO(raw)).convert(mode).save(out, kind)
        raw = out.getvalue()
    kept = read_photo(raw)
    seen = Image.open(io.BytesIO(kept.jpeg))
    assert seen.format == "JPEG" and seen.mode == "RGB" and seen.size == (640, 480)
    left, right = seen.getpixel((100, 200)), seen.getpixel((500, 200))
    assert min(right) > 240 and left[0] < right[0]
    assert read_photo(raw).key == kept.key


def test_it_is_turned_upright_made_smaller_and_says_nothing_of_where_it_was_taken():
    exif = Image.Exif()
    exif[0x0112] = 6  # lies on its side: to be turned right by a quarter
    exif[0x010F] = "maker of this camera"
    exif.get_ifd(0x8825)[1] = "N"
    raw = taken("JPEG", (3000, 1500), exif=exif, comment=b"12 Saltmarsh Lane")
    kept = read_photo(raw + b"PK\x03\x04 and a whole archive behind it")
    seen = Image.open(io.BytesIO(kept.jpeg))
    assert seen.size == (MOST_SIDE // 2, MOST_SIDE)
    assert min(seen.getpixel((300, 1200))) > 240, "the right half is below now"
    assert not dict(seen.getexif()) and "comment" not in seen.info and "icc_profile" not in seen.info
    for secret in (b"maker of this camera", b"Saltmarsh", b"archive"):
        assert secret not in kept.jpeg
    assert len(kept.jpeg) <= MOST_KEPT_BYTES


def bomb(width: int, height: int) -> bytes:
    """A PNG of so many pixels in a few hundred bytes of header and one line."""

    def chunk(name: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(b"\0" * 1000))
        + chunk(b"IEND", b"")
    )


HOSTILE = {
    "nothing": b"",
    "text": b"not a photo at all",
    "page": b"<html><script>alert(1)</script></html>",
    "svg": b'<svg xmlns="http://www.w3.org/2000/svg"><script>1</script></svg>',
    "pdf": b"%PDF-1.7\n1 0 obj\n<<>>\nendobj",
    "gif": taken("GIF"),
    "tiff": taken("TIFF"),
    "bmp": taken("BMP"),
    "ico": taken("ICO", (16, 16)),
    "half": taken("JPEG", (640, 480))[:900],
    "half png": taken("PNG", (640, 480))[:200],
    "half heic": taken("HEIF", (640, 480))[:400],
    "bomb": bomb(60_000, 60_000),
    "thin bomb": bomb(2_000_000, 9),
    "short of lines": bomb(4000, 4000),
    "negative": bomb(0x7FFFFFFF, 0x7FFFFFFF),
    "tiny": taken("PNG", (3, 3)),
    "polyglot": b"GIF89a" + taken("JPEG"),
    "large": b"\xff\xd8\xff" + b"\0" * MOST_BYTES,
}


@pytest.mark.parametrize("name", HOSTILE)
def test_what_is_no_photo_is_refused_and_says_so(name):
    with pytest.raises(BadInput) as refused:
        read_photo(HOSTILE[name])
    assert refused.value.path == "photo" and refused.value.reason


def test_half_a_picture_is_none_beside_a_printer_of_sheets(monkeypatch):
    monkeypatch.setattr("PIL.ImageFile.LOAD_TRUNCATED_IMAGES", True)
    with pytest.raises(BadInput):
        read_photo(HOSTILE["half"])


def test_of_a_files_photo_the_pixels_alone_are_kept():
    """Written by ourselves, and then bytes put in wherever a JPEG has room: none comes through, and what is seen
    stays as it was."""
    ours = read_photo(taken("JPEG", (640, 480))).jpeg
    secret = b"12 Saltmarsh Lane"
    segment = b"\xff\xe0" + (2 + len(secret)).to_bytes(2, "big") + secret
    comment = b"\xff\xfe" + (2 + len(secret)).to_bytes(2, "big") + secret
    for bent in (
        ours[:2] + segment + ours[2:],
        ours[:-2] + secret + ours[-2:],
        ours + secret,
        ours[:2] + comment + ours[2:],
    ):
        kept = read_filed(bent)
        assert secret not in kept.jpeg and kept.key == hashlib.sha256(kept.jpeg).hexdigest()
        before, after = (np.asarray(Image.open(io.BytesIO(jpeg)), int) for jpeg in (ours, kept.jpeg))
        assert np.abs(before - after).mean() < 1
    tables = [Image.open(io.BytesIO(jpeg)).quantization for jpeg in (ours, read_filed(ours).jpeg)]
    assert tables[0] == tables[1], "at the quality that it had"
