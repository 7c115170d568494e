"""The measuring mat on paper."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
from reportlab.pdfgen.canvas import Canvas

from tailor.core.carried.photo.mat import CELLS, GAP, MATS, RULE, Mat, cells
from tailor.core.carried.photo.sheets import CELLS as MARKER_CELLS
from tailor.core.carried.photo.sheets import SHEETS, SIDE
from tailor.core.carried.photo.sheets import cells as marker
from tailor.core.errors import InputError
from tailor.files import atomic, faces
from tailor.files.dyes import INK
from tailor.files.faces import HEAD, TEXT
from tailor.files.paper import PAPERS
from tailor.files.pdf import POINT


def write(path: Path, paper: str = "a4") -> None:
    """Print the mat for a paper to a PDF at true scale. Raises InputError for a paper it is not made for."""
    if paper not in MATS:
        raise InputError(f"there is no mat for '{paper}'", "paper", f"give {' or '.join(MATS)}")
    mat = MATS[paper]
    faces.put_up()
    file = io.BytesIO()
    page = Canvas(file, pagesize=(mat.width * POINT, mat.height * POINT), invariant=True)
    page.setTitle(f"Tailor measuring mat, {paper}")
    page.scale(POINT, POINT)
    page.setFillColor(INK)
    for number, (x, y) in mat.markers.items():
        cell = mat.marker / CELLS
        page.setFillColorRGB(0, 0, 0)
        for row, column in zip(*np.nonzero(cells(number)), strict=True):
            # a hair wider than a cell, so that no light shows between them
            page.rect(x + column * cell, y + (CELLS - 1 - row) * cell, cell + 0.01, cell + 0.01, stroke=0, fill=1)
    _rules(page, mat)
    page.showPage()
    page.save()
    atomic.write(path, file.getvalue())


def write_sheets(path: Path, paper: str = "a4", many: int = 4) -> None:
    """Print marker sheets to lay about a hide, to a PDF at true scale. Raises InputError for a paper there is not."""
    if paper not in PAPERS:
        raise InputError(f"there are no sheets for '{paper}'", "paper", f"give {' or '.join(PAPERS)}")
    faces.put_up()
    wide, high = sorted(PAPERS[paper])
    file = io.BytesIO()
    page = Canvas(file, pagesize=(wide * POINT, high * POINT), invariant=True)
    page.setTitle("Tailor marker sheets")
    for number in range(min(many, SHEETS)):
        page.scale(POINT, POINT)
        left, bottom, cell = (wide - SIDE) / 2, (high - SIDE) / 2, SIDE / MARKER_CELLS
        page.setFillColorRGB(0, 0, 0)
        for row, column in zip(*np.nonzero(marker(number)), strict=True):
            x, y = left + column * cell, bottom + (MARKER_CELLS - 1 - row) * cell
            page.rect(x, y, cell + 0.01, cell + 0.01, stroke=0, fill=1)
        page.setFillColor(INK)
        page.setFont(HEAD, 5.0)
        page.drawString(left, bottom + SIDE + 14, f"Marker sheet {number + 1}")
        page.setFont(TEXT, 3.4)
        for n, said in enumerate((
            "Lay four of these flat about a hide, none over its edge, and photograph all of it from above.",
            f"Print at 100 %. The black square must measure {SIDE:.1f} mm; if not, tell Tailor what it does.",
        )):  # fmt: skip
            page.drawString(left, bottom - 10 - 5 * n, said)
        page.showPage()
    page.save()
    atomic.write(path, file.getvalue())


def _rules(page: Canvas, mat: Mat) -> None:
    """Rules along the foot and the left of the plain field, and what to check on them."""
    left, bottom, right, top = mat.field
    page.setFillColor(INK)
    page.setStrokeColor(INK)
    page.setLineWidth(0.15)
    for length, across in ((right - left, True), (top - bottom, False)):
        for tick in range(int(length) + 1):
            long = 2.6 if tick % 10 == 0 else 1.9 if tick % 5 == 0 else 1.2
            if across:
                page.line(left + tick, bottom - 1, left + tick, bottom - 1 - long)
            else:
                page.line(left - 1, bottom + tick, left - 1 - long, bottom + tick)
    page.setFont(TEXT, 2.6)
    for tick in range(0, int(right - left) + 1, 10):
        page.drawCentredString(left + tick, bottom - GAP + 1.6, str(tick))
    page.setFont(HEAD, 3.6)
    page.drawString(left, top + GAP - 4.6, "Measuring mat")
    page.setFont(TEXT, 2.7)
    page.drawString(
        left + 28, top + GAP - 4.4,
        f"Print at 100 %. From 0 to {RULE:g} on the rule must measure {RULE:.1f} mm; if not, tell Tailor what it does.",
    )  # fmt: skip
