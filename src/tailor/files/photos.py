"""Reading photos and flat scans: their pixels, and what the camera or scanner noted with them."""

from __future__ import annotations

import warnings
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image as Photo

from tailor.core.carried.photo.view import NOMINAL, Lens
from tailor.core.errors import InputError
from tailor.core.units import INCH

MOST_PIXELS = 120_000_000
LARGEST = 200_000_000  # bytes
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
    """A photo from a JPEG, PNG, TIFF or WebP file. Raises InputError naming the file."""
    path = Path(path)
    where = path.name
    try:
        if path.stat().st_size > LARGEST:
            raise InputError("it is far too large for a photo", where, "save it smaller, at 12 megapixels or so")
        bytes_ = path.read_bytes()
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # its own limits are stricter told below
            with Photo.open(path) as head:
                size, noted = head.size, head.getexif()
                dpi = head.info.get("dpi")
    except FileNotFoundError:
        raise InputError("no such file", str(path), "check the name and the folder") from None
    except InputError:
        raise
    except Photo.DecompressionBombError:
        raise InputError(
            "it has far too many pixels", where, f"save it smaller, under {MOST_PIXELS / 1e6:.0f} megapixels"
        ) from None
    except Exception:  # the readers of single formats raise errors of many kinds for damaged files
        raise InputError(
            "it cannot be read as a picture", where, "give a JPEG, PNG or TIFF that opens elsewhere"
        ) from None
    if size[0] * size[1] > MOST_PIXELS:
        raise InputError(
            f"it has {size[0] * size[1] / 1e6:.0f} megapixels", where, f"save it smaller, under {MOST_PIXELS / 1e6:.0f}"
        )
    pixels = cv2.imdecode(np.frombuffer(bytes_, np.uint8), cv2.IMREAD_COLOR)
    if pixels is None:
        raise InputError("it is damaged: its pixels cannot be read", where, "copy it from the camera again")
    focal = noted.get_ifd(EXIF_BLOCK).get(FOCAL_35MM)
    return Picture(np.asarray(pixels, dtype=np.uint8), _positive(focal), _positive(dpi[0] if dpi else None))


def _positive(value: object) -> float | None:
    try:
        number = float(value)  # type: ignore[arg-type]
    except (TypeError, ValueError, ZeroDivisionError):
        return None
    return number if np.isfinite(number) and number > 0 else None


def pixels_per_mm(dpi: float) -> float:
    return dpi / INCH
