"""Panels of an old carrier as they come in: every closed line of a drawing, a photo on the mat, a flat scan."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import shapely

from tailor.core.carried.loft import Array
from tailor.core.errors import InputError
from tailor.files import kinds, outlines

Tell = Callable[[str, float], None]

ROUGH = 0.1  # mm that a pictured outline may be off, since no photo is finer


def read(
    path: Path, thickness: float, unit: str | None = None, tell: Tell = lambda said, share: None
) -> list[Array]:  # fmt: skip
    """The outlines of panels in a file, each (n, 2), mm.

    thickness: of the leather that lies on the mat, mm. unit: of a drawing that does not say. A picture shows one panel.
    Raises InputError naming the file.
    """
    kind = kinds.kind_of(path)
    if kind is None or not kind.panels:
        raise InputError("it is neither a drawing nor a picture", path.name, "give SVG, DXF, JPEG, PNG, WebP or TIFF")
    if kind.way == "Outline":
        return outlines.read(path, unit)
    try:
        outline = _scanned(path) if kind.way == "Scan" else _pictured(path, thickness, tell)
    except InputError as error:
        raise error if error.where == path.name else error.within(path.name) from None
    return [shapely.get_coordinates(shapely.simplify(shapely.Polygon(outline), ROUGH))[:-1]]


def _pictured(path: Path, thickness: float, tell: Tell) -> Array:
    from tailor.core.carried.photo.parallax import Rise
    from tailor.core.carried.photo.trace import look, trace
    from tailor.files import photos

    picture = photos.read(path)
    seen = look(picture.pixels, picture.lens(), tell=tell)
    return trace(seen, Rise.level(thickness, False), tell=tell).outline


def _scanned(path: Path) -> Array:
    from tailor.core.carried.photo import scan
    from tailor.files import photos

    picture = photos.read(path)
    if picture.dpi is None:
        raise InputError(
            "it does not say how fine it was scanned", path.name, "scan it again with its dpi noted, or photograph it"
        )
    scale = photos.pixels_per_mm(picture.dpi)
    return scan.trace(picture.pixels, scale, scan.look(picture.pixels, scale))[0]
