"""Reading photos and flat scans: their pixels, and what the camera or scanner noted with them."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image as Photo

from tailor.core import incoming
from tailor.core.carried.photo.view import NOMINAL, Lens
from tailor.core.errors import InputError
from tailor.core.units import INCH
from tailor.files import guarded, kinds

MOST_PIXELS = 60_000_000
FOCAL_35MM, EXIF_BLOCK = 41989, 0x8769  # where EXIF notes the equivalent focal length


@dataclass(frozen=True)
class Picture:
    """pixels: (h, w, 3) uint8 in BGR, upright. focal_35mm: equivalent, mm, or None. dpi: as noted, or None."""

    pixels: NDArray[np.uint8]
    focal_35mm: float | None = None
    dpi: float | None = None

    def lens(
        self, focal: float | None = None, distance: float | None = None, distortion: tuple[float, ...] = ()
    ) -> Lens:
        """What is known of the lens: what the maker gives (focal in px) before what the camera noted."""
        if focal is not None:
            return Lens(focal, distance=distance, distortion=distortion)
        if self.focal_35mm:
            height, width = self.pixels.shape[:2]
            return Lens(Lens.equivalent(self.focal_35mm, width, height), NOMINAL, distance, distortion)
        return Lens(None, distance=distance, distortion=distortion)


def read(path: Path | str) -> Picture:
    """A photo from a JPEG, PNG, TIFF or WebP file, decoded apart. Raises InputError naming the file."""
    found = guarded.read("picture", Path(path))
    focal, dpi = (float(found[name]) for name in ("focal", "dpi"))
    return Picture(found["pixels"], focal or None, dpi or None)


def decoded(path: Path) -> guarded.Arrays:
    """What a picture holds: its pixels, and `focal` and `dpi` as noted, 0 where they are not. Raises InputError."""
    where = path.name
    bytes_ = incoming.read_bytes(path, kinds.read_by("picture").most)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # its own limits are stricter told below
            with Photo.open(io.BytesIO(bytes_)) as head:
                size, noted = head.size, head.getexif()
                dpi = head.info.get("dpi")
    except Photo.DecompressionBombError:
        raise _too_many("far too many pixels", where) from None
    except Exception:  # the readers of single formats raise errors of many kinds for damaged files
        raise InputError(
            "it cannot be read as a picture", where, "give a JPEG, PNG or TIFF that opens elsewhere"
        ) from None
    if size[0] * size[1] > MOST_PIXELS:
        raise _too_many(f"{size[0] * size[1] / 1e6:.0f} megapixels", where)
    pixels = cv2.imdecode(np.frombuffer(bytes_, np.uint8), cv2.IMREAD_COLOR)
    if pixels is None:
        raise InputError("it is damaged: its pixels cannot be read", where, "copy it from the camera again")
    focal = _positive(noted.get_ifd(EXIF_BLOCK).get(FOCAL_35MM))
    return {"pixels": pixels, "focal": np.array(focal), "dpi": np.array(_positive(dpi[0] if dpi else None))}


def _too_many(what: str, where: str) -> InputError:
    return InputError(f"it has {what}", where, f"save it smaller, under {MOST_PIXELS / 1e6:.0f} megapixels")


def _positive(value: object) -> float:
    """A number that is noted, 0 for what is none."""
    try:
        number = float(value)  # type: ignore[arg-type]
    except (TypeError, ValueError, ZeroDivisionError):
        return 0.0
    return number if np.isfinite(number) and number > 0 else 0.0


def pixels_per_mm(dpi: float) -> float:
    return dpi / INCH
