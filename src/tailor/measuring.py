"""The measuring commands: mat, trace, and measure, each ending in the same station table."""

from __future__ import annotations

import argparse
import contextlib
import csv
import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from tailor.core import incoming
from tailor.core.carried.stations import Shape
from tailor.core.errors import InputError
from tailor.core.units import parse_length

if TYPE_CHECKING:
    from tailor.core.carried.loft import Array
    from tailor.core.carried.photo.parallax import Rise
    from tailor.core.carried.photo.trace import Trace
    from tailor.core.carried.stations import Table

# Each command imports what it needs when it runs: pictures and meshes are slow to load.

MOST = 1e5  # that any number of the command line may be
MATS = ("a4", "letter", "a3")


def _mm(text: str) -> float:
    """A length on the command line, mm unless it says."""
    try:
        return parse_length(text)
    except InputError as error:
        raise argparse.ArgumentTypeError(f"{error.what}; {error.remedy}") from None


def add(commands: Any) -> None:
    """Add the commands to a parser's subcommands."""
    mat = commands.add_parser("mat", help="write the measuring mat as a PDF")
    mat.add_argument("-o", dest="out", required=True, type=Path, metavar="MAT.pdf")
    mat.add_argument("--paper", default="a4", choices=MATS)
    mat.add_argument("--sheets", action="store_true", help="four marker sheets instead, to lay about a hide")
    mat.set_defaults(run=_mat)

    traced = commands.add_parser("trace", help="trace the outline of an object photographed on the mat")
    _photo(traced)
    traced.add_argument("-o", dest="out", type=Path, metavar="OUTLINE.svg", help="write the outline as SVG or DXF")
    traced.add_argument("--json", action="store_true", help="print outline, error and view as JSON")
    traced.set_defaults(run=_trace)

    stand_in = commands.add_parser(
        "stand-in", help="a simulated caliper on a port of its own, measuring the demo blade"
    )
    stand_in.add_argument("device", choices=("caliper",))
    stand_in.add_argument("--every", type=float, default=1.5, metavar="SECONDS", help="between presses")
    stand_in.set_defaults(run=_stand_in)

    measure = commands.add_parser("measure", help="a station table from a mesh, outline, photo, scan, tape or block")
    ways = measure.add_subparsers(metavar="WAY", required=True, parser_class=type(measure))

    mesh = ways.add_parser("mesh", help="slice an STL, OBJ or PLY solid")
    mesh.add_argument("file", type=Path)
    mesh.add_argument("--unit", choices=("mm", "cm", "in", "m"), help="of the file; else what is likely")
    mesh.add_argument("--along", choices=("x", "y", "z"), help="the draw, by the file's axes; else the longest")
    mesh.add_argument("--tip", choices=("low", "high"), help="which end of it is the tip; else the narrower")
    mesh.set_defaults(run=_mesh)

    outline = ways.add_parser("outline", help="an outline in SVG or DXF, with a thickness")
    outline.add_argument("file", type=Path)
    outline.add_argument("--unit", choices=("mm", "cm", "in", "m", "px"), help="where the file does not say")
    outline.add_argument("--pick", type=int, default=1, metavar="N", help="the N-th largest closed line")
    _thick(outline)
    outline.set_defaults(run=_outline)

    photo = ways.add_parser("photo", help="an object photographed on the mat; its height is its thickness")
    _photo(photo)
    _shaped(photo)
    photo.set_defaults(run=_measure_photo)

    scan = ways.add_parser("scan", help="a flat scan of the object or its traced card")
    scan.add_argument("file", type=Path)
    scan.add_argument("--dpi", type=float, help="else what the file says")
    scan.add_argument(
        "--ruler", metavar="X1,Y1,X2,Y2=LENGTH", help="two marks of a ruler in the scan, px, and mm between"
    )
    _thick(scan)
    scan.set_defaults(run=_scan)

    girth = ways.add_parser("girth", help="tape, roll or strip readings at stations (CSV)")
    girth.add_argument("file", type=Path)
    girth.add_argument("--straight-spine", action="store_true", help="its spine side is straight, as on a blade")
    girth.set_defaults(run=_girth)

    for kind, sizes in (
        ("block", ("length", "width", "height")), ("cylinder", ("length", "diameter")),
        ("book", ("length", "width", "height")), ("cards", ("length", "width", "height")),
    ):  # fmt: skip
        block = ways.add_parser(kind, help=f"a {kind} by its {', '.join(sizes)}")
        for size in sizes:
            block.add_argument(size, type=_mm)
        if kind == "block":
            block.add_argument("--edge", type=_mm, default=0.0, help="radius of its rounded edges")
        block.set_defaults(run=_block, kind=kind, sizes=sizes)

    for way in ways.choices.values():
        way.add_argument("-o", dest="out", required=True, type=Path, metavar="STATIONS.csv")


def _photo(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path, metavar="PHOTO")
    heights = parser.add_mutually_exclusive_group(required=True)
    heights.add_argument("--height", type=_mm, metavar="MM", help="of the object over the mat, by caliper")
    heights.add_argument("--profile", type=Path, metavar="CSV", help="along,foot,top: heights along the object")
    parser.add_argument("--round", action="store_true", help="its sides are round, not upright")
    parser.add_argument("--focal-px", type=float, metavar="F", help="focal length in px; else what the photo says")
    parser.add_argument("--distance", type=_mm, metavar="MM", help="from camera to mat, where no focal length is known")
    parser.add_argument("--distortion", metavar="K1,K2,P1,P2[,K3]", help="of the lens")
    parser.add_argument("--rule", type=_mm, default=100.0, metavar="MM", help="what the printed 100 mm measure")


def _thick(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--thickness", type=_mm, required=True, metavar="MM")
    _shaped(parser)


def _shaped(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--shape", choices=tuple(Shape), default="slab", help="of its sections")
    parser.add_argument("--corner", type=_mm, default=0.0, metavar="MM", help="radius of a slab's corners")
    parser.add_argument("--tip", choices=("up", "down"), help="which end of the picture is the tip; else the narrower")
    parser.add_argument("--fair", type=_mm, default=0.0, metavar="MM", help="let it flow, moved by no more than this")
    parser.add_argument("--even", action="store_true", help="make both sides the same")


def _stand_in(arguments: argparse.Namespace) -> int:
    import time

    from tailor import demo
    from tailor.standins.caliper import Caliper

    every = _positive(arguments.every, "--every", 0.05)
    caliper = Caliper.of(demo.job().stations)
    with contextlib.suppress(KeyboardInterrupt):
        print(f"listen at {caliper.port}; Ctrl+C ends it", flush=True)
        while caliper.press():
            time.sleep(every)
    caliper.unplug()
    return 0


def _positive(value: float, where: str, least: float) -> float:
    """A number of the command line, no less than the least. Raises InputError."""
    if not least <= value <= MOST:
        raise InputError(f"{value:g} cannot be used", where, f"give {least:g} to {MOST:g}")
    return value


def _mat(arguments: argparse.Namespace) -> int:
    from tailor.files import mat_sheet

    (mat_sheet.write_sheets if arguments.sheets else mat_sheet.write)(arguments.out, arguments.paper)
    return 0


def _rise(arguments: argparse.Namespace) -> Rise:
    import numpy as np

    from tailor.core.carried.photo.parallax import Rise

    if arguments.profile is None:
        return Rise.level(arguments.height, arguments.round)
    where = arguments.profile.name
    text = incoming.read_text(arguments.profile)
    try:
        rows = list(csv.DictReader(text.splitlines()))
    except csv.Error:
        raise InputError("it cannot be read as a table", where, "save the heights as CSV in UTF-8") from None
    names = ("along", "foot", "top")
    if not rows or any(row.get(n) is None for row in rows for n in names):
        raise InputError("it does not have the columns along, foot and top", where, "give one row for each place")
    cells = np.array([[parse_length(row[n], "mm", where) for n in names] for row in rows])
    along, foot, top = cells[np.argsort(cells[:, 0])].T
    return Rise(along, foot, top, arguments.round)


def _traced(arguments: argparse.Namespace) -> Trace:
    from tailor.core.carried.photo.trace import look, trace
    from tailor.core.carried.photo.view import distortion
    from tailor.files import photos

    bent = distortion(arguments.distortion or "", "--distortion")
    rise = _rise(arguments)
    picture = photos.read(arguments.file)
    try:
        seen = look(picture.pixels, picture.lens(arguments.focal_px, arguments.distance, bent), arguments.rule)
        return trace(seen, rise)
    except InputError as error:
        raise error.within(arguments.file.name) from None


def _trace(arguments: argparse.Namespace) -> int:
    from tailor.files import outlines

    found = _traced(arguments)
    if arguments.out is not None:
        outlines.write(found.outline, arguments.out)
    view = found.view
    if arguments.json:
        said = {
            "outline_mm": found.outline.round(3).tolist(), "error_mm": round(found.error, 3),
            "parts_mm": {k: round(v, 3) for k, v in found.parts.items()}, "notes": list(found.notes),
            "view": {
                "mat": view.mat.paper, "markers": len(view.seen), "eye_mm": view.eye.round(2).tolist(),
                "tilt_deg": round(view.tilt, 2),
                "focal_px": round(view.focal, 1), "residual_mm": round(view.residual, 3),
            },
        }  # fmt: skip
        print(json.dumps(said, ensure_ascii=False))
        return 0
    size = sorted(found.outline.max(axis=0) - found.outline.min(axis=0))
    print(f"{size[1]:.1f} × {size[0]:.1f} mm on the mat, ± {found.error:.2f} mm")
    print(f"camera {view.eye[2]:.0f} mm up, tilted {view.tilt:.0f}°")
    print(f"{len(view.seen)} markers, off by {view.residual:.2f} mm")
    _tell(found.notes)
    return 0


def _tell(notes: Any) -> None:
    for note in notes:
        print(f"note: {note}", file=sys.stderr)


def _write(table: Table, out: Path) -> int:
    from tailor.core.carried.stations import to_csv
    from tailor.files import atomic

    atomic.write(out, to_csv(table).encode())
    if table.capture is not None:
        print(f"{len(table.stations)} stations, ± {table.capture.accuracy:.2f} mm")
    return 0


def _laid_table(arguments: argparse.Namespace, outline: Array, thickness: Any, capture: Any, at: Any = None) -> Table:
    from tailor.core.carried.outline import Finish, finished

    _positive(arguments.fair, "--fair", 0.0)
    tip_up = None if arguments.tip is None else arguments.tip == "up"
    finish = Finish(Shape(arguments.shape), arguments.corner, arguments.fair, True, arguments.even, tip_up)
    table, _, notes = finished(outline, finish, thickness, capture, at)
    for note in notes:
        print(note)
    return table


def _mesh(arguments: argparse.Namespace) -> int:
    from tailor.core.carried import mesh as meshes
    from tailor.files import outlines

    solid = outlines.read_mesh(arguments.file)
    try:
        unit = arguments.unit or meshes.likely_unit(solid)
        solid = meshes.scaled(solid, unit)
        tip_up = None if arguments.tip is None else arguments.tip == "high"
        if arguments.along:
            made = meshes.along(solid, meshes.AXES["xyz".index(arguments.along)], tip_up)
        else:
            made = meshes.laid(solid, tip_up)
        table, _ = meshes.stations(made)
    except InputError as error:
        raise error.within(arguments.file.name) from None
    size = made.extent
    print(f"taken as {unit}: {size[1]:.1f} long, {size[0]:.1f} wide, {size[2]:.1f} mm thick")
    _tell(solid.notes)
    return _write(table, arguments.out)


def _outline(arguments: argparse.Namespace) -> int:
    from tailor.core.carried.capture import Capture, Way
    from tailor.files import outlines

    loops = outlines.read(arguments.file, arguments.unit)
    if not 1 <= arguments.pick <= len(loops):
        raise InputError(f"it has no closed line number {arguments.pick}", arguments.file.name, "pick one of them")
    return _write(
        _laid_table(arguments, loops[arguments.pick - 1], arguments.thickness, Capture.usual(Way.OUTLINE)),
        arguments.out,
    )


def _measure_photo(arguments: argparse.Namespace) -> int:
    from tailor.core.carried.capture import Capture, Way

    rise = _rise(arguments)
    found = _traced(arguments)
    _tell(found.notes)
    at = rise.along if len(rise.along) > 1 else None
    return _write(
        _laid_table(arguments, found.outline, rise.top - rise.foot, Capture(Way.PHOTO, found.error), at), arguments.out
    )


def _scan(arguments: argparse.Namespace) -> int:
    import numpy as np

    from tailor.core.carried.capture import Capture, Way
    from tailor.core.carried.photo import scan
    from tailor.files import photos

    picture = photos.read(arguments.file)
    if arguments.ruler:
        try:
            marks, _, length = arguments.ruler.partition("=")
            x1, y1, x2, y2 = (float(v) for v in marks.split(","))
        except ValueError:
            raise InputError(
                f"'{arguments.ruler}' is not a ruler", "--ruler", "write it as X1,Y1,X2,Y2=100mm"
            ) from None
        scale = scan.ruled(np.array([x1, y1]), np.array([x2, y2]), _mm(length))
    else:
        dpi = picture.dpi if arguments.dpi is None else _positive(arguments.dpi, "--dpi", 10.0)
        if dpi is None:
            raise InputError("it does not say how fine it was scanned", arguments.file.name, "give --dpi or --ruler")
        scale = photos.pixels_per_mm(dpi)
    try:
        outline, error = scan.trace(picture.pixels, scale, scan.look(picture.pixels, scale))
    except InputError as fault:
        raise fault.within(arguments.file.name) from None
    return _write(_laid_table(arguments, outline, arguments.thickness, Capture(Way.SCAN, error)), arguments.out)


def _girth(arguments: argparse.Namespace) -> int:
    from tailor.core.carried import readings

    found, names = readings.read_csv(arguments.file)
    try:
        table, notes = readings.table(found, names, arguments.straight_spine)
    except InputError as error:
        raise error.within(arguments.file.name) from None
    _tell(notes)
    return _write(table, arguments.out)


def _block(arguments: argparse.Namespace) -> int:
    from tailor.core.carried.block import KINDS

    sizes = [getattr(arguments, size) for size in arguments.sizes]
    edge = [arguments.edge] if arguments.kind == "block" else []
    return _write(KINDS[arguments.kind](*sizes, *edge), arguments.out)
