"""The commands `tailor lay` and `tailor hide`: pieces laid out on leather, and what leather there is."""

from __future__ import annotations

import argparse
import json
import math
import sys
import time
from pathlib import Path
from typing import TYPE_CHECKING, Any

from tailor.core import incoming
from tailor.core.errors import InputError

if TYPE_CHECKING:
    from tailor.core.cut.found import Found
    from tailor.core.cut.laying import Laying
    from tailor.core.shop.leathers import Skin

SLOW = 3.0  # s of warming up that are told of


def add(commands: Any) -> None:
    """Add the command to the others."""
    lay = commands.add_parser("lay", help="lay the pieces of jobs out on hides and offcuts")
    lay.add_argument("jobs", nargs="*", metavar="JOB.tailor[=COUNT]", help="a job, and how many are to be made")
    lay.add_argument(
        "--on", action="append", default=[], metavar="HIDE",
        help="what there is: an outline (SVG or DXF), or a rectangle such as 600x300mm; again for more, offcuts first",
    )  # fmt: skip
    lay.add_argument("--order", metavar="NAME", help="an order of the shop book, on the leathers that the shop has")
    lay.add_argument("--book", type=Path, metavar="FILE", help="the shop book, if not where it usually lies")
    lay.add_argument("--cut", action="store_true", help="note in the shop book that it is cut, and what is left")
    lay.add_argument("--problem", type=Path, metavar="FILE.json", help="a whole problem from a file instead")
    lay.add_argument(
        "-o",
        dest="out",
        required=True,
        type=Path,
        metavar="OUT",
        help="a .json, .svg or .pdf, or a folder for all three",
    )
    lay.add_argument(
        "--seconds",
        type=positive,
        default=10.0,
        help="of work at the most; it ends when all lie and what is left is gathered",
    )
    lay.add_argument("--steps", type=int, help="steps at the most: the same steps and seed give the same layout")
    lay.add_argument("--seed", type=int, default=0, help="where the row of chances begins")
    lay.add_argument("--json", action="store_true", help="print the layout as JSON too")
    lay.set_defaults(run=_lay)
    hide = commands.add_parser("hide", help="the outline of a hide photographed with marker sheets about it")
    hide.add_argument("photo", type=Path, metavar="PHOTO", help="from above, with sheets of 'tailor mat --sheets'")
    hide.add_argument("-o", dest="out", type=Path, metavar="OUTLINE.svg", help="write it as SVG or DXF")
    hide.add_argument("--side", type=float, metavar="MM", help="what the black square of a sheet measures, if not 150")
    hide.add_argument("--points", metavar="'X,Y X,Y X,Y X,Y'", help="four taped points in place of sheets, in px")
    hide.add_argument("--lengths", metavar="MM,…", help="between them: the four sides, then the two diagonals")
    hide.add_argument("--json", action="store_true", help="print outline, area and how sure it is as JSON")
    hide.set_defaults(run=_hide)


def positive(text: str) -> float:
    """Seconds that were typed."""
    try:
        found = float(text)
    except ValueError:
        found = 0.0
    if not 0 < found <= 86_400:
        raise argparse.ArgumentTypeError(f"{incoming.quoted(text)} is no time; give seconds, up to 86400")
    return found


def _lay(arguments: argparse.Namespace) -> int:
    from tailor.files import laid, laid_sheet

    if arguments.order is not None:
        return _lay_order(arguments)
    if arguments.cut:
        raise InputError("there is no order that it would be cut for", "--cut", "give --order NAME too")
    laying = _asked(arguments)
    found = _laid_out(laying, arguments)
    laid_sheet.write(laying, found, arguments.out)
    if arguments.json:
        print(json.dumps(laid.plain(laying, found), ensure_ascii=False))
    else:
        _tell(laying, found)
    return 0


def _hide(arguments: argparse.Namespace) -> int:
    from tailor.files import hides, outlines

    if (arguments.points is None) != (arguments.lengths is None):
        raise InputError("points and the lengths between them go together", "tailor hide", "give both, or neither")
    taped = None
    if arguments.points is not None:
        points = [numbers(point, "--points") for point in arguments.points.split()]
        if any(len(point) != 2 for point in points):
            raise InputError("a point is two numbers", "--points", "give four such as 412,300")
        taped = [(x, y) for x, y in points], numbers(arguments.lengths, "--lengths")
    found = hides.photographed(arguments.photo, arguments.side, taped)
    ring, area = found.hide.ring, found.hide.whole.area / 1e6
    if arguments.out is not None:
        outlines.write(ring, arguments.out)
    if arguments.json:
        said = {"outline_mm": ring.round(2).tolist(), "area_m2": round(area, 5), "sure": round(found.sure, 5)}
        print(json.dumps(said))
    else:
        wide, high = ring.max(axis=0)
        print(f"{area:.3f} m² ± {found.sure * area:.3f}, {wide:.0f} × {high:.0f} mm")
    return 0


def numbers(text: str, where: str) -> tuple[float, ...]:
    """Numbers parted by commas. Raises InputError."""
    try:
        found = tuple(float(part) for part in text.split(",") if part.strip())
    except ValueError:
        found = (float("nan"),)
    if not all(math.isfinite(number) for number in found):
        raise InputError(f"{incoming.quoted(text)} is no row of numbers", where, "part them by commas")
    return found


def _laid_out(laying: Laying, arguments: argparse.Namespace) -> Found:
    from tailor.core.cut import layer

    begun = time.monotonic()
    layer.warm()
    if time.monotonic() - begun > SLOW:
        print("warmed up, as is done once after it is installed", file=sys.stderr)
    return layer.laid_out(laying, arguments.seed % 2**32, arguments.seconds, arguments.steps)


def _lay_order(arguments: argparse.Namespace) -> int:
    """An order on the leathers that the shop has of each."""
    from tailor.core.shop.cutting import cutting
    from tailor.core.shop.made import ordered
    from tailor.files import laid, laid_sheet
    from tailor.files.shop_book.book import Book

    if arguments.jobs or arguments.on or arguments.problem:
        raise InputError("an order and jobs, leather or a problem are both given", "tailor lay", "give one of them")
    book = Book.usual(arguments.book)
    shop = book.shop()
    order = shop.order(arguments.order)
    whole = cutting(ordered(order, arguments.maker), shop.sorts, shop.skins)
    if not whole.laying.hides:
        raise InputError("the shop has no leather for it", order.name, "take hides in, or give jobs and --on HIDE")
    found = _laid_out(whole.laying, arguments)
    laid_sheet.write(whole.laying, found, arguments.out)
    if arguments.cut:
        kept: list[tuple[Skin | None, Skin]] = []
        for skin, (used, *left) in whole.left(found.laid):
            kept += [(skin, used), *((None, each) for each in left)]
        book.put(f"cut for {order.name}", *kept)
    if arguments.json:
        takes = {sort: round(share, 4) for sort, share in whole.takes(found.laid).items()}
        print(json.dumps({**laid.plain(whole.laying, found), "takes": takes}, ensure_ascii=False))
    else:
        _tell(whole.laying, found)
    return 0


def _asked(arguments: argparse.Namespace) -> Laying:
    from tailor.core.cut import asked
    from tailor.core.cut.laying import Laying, Template
    from tailor.core.job import draft
    from tailor.files import hides, job_file, laid

    if arguments.problem is not None:
        if arguments.jobs or arguments.on:
            raise InputError("a problem and jobs are both given", "tailor lay", "give one of them")
        return laid.problem(arguments.problem)
    if not arguments.jobs or not arguments.on:
        what = "no job is given" if not arguments.jobs else "no leather is given"
        raise InputError(what, "tailor lay", "give JOB.tailor and --on HIDE, or --problem FILE.json")
    pieces, names = list[Template](), list[str]()
    for job, count in job_file.counted(arguments.jobs, arguments.maker):
        names.append(job.name)
        again = names.count(job.name)
        pieces += asked.templates(draft(job), job.name if again == 1 else f"{job.name} ({again})", count)
    return Laying(hides.hides(arguments.on), tuple(pieces))


def _tell(laying: Laying, found: Found) -> None:
    from tailor.core.cut.left import rests

    for rest in rests(laying, found.laid):
        lying = sum(1 for one in found.laid if one.hide == rest.hide)
        kept = f", {len(rest.offcuts)} offcuts worth keeping" if rest.offcuts else ""
        print(
            f"{rest.hide}: {lying} pieces, {rest.used:.0%} of it used{kept}; "
            f"back edge free for {rest.edge:.0f} of {rest.edge_before:.0f} mm"
        )
    ids = {one.id for one in found.laid}
    for template in laying.templates:
        if template.id not in ids:
            print(f"not laid: {template.id}: {laying.why_never(template) or 'no room is left'}")
