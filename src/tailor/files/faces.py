"""The faces that paper is written in, shipped with Tailor, and how wide their words are."""

from __future__ import annotations

from functools import cache
from importlib.resources import as_file, files

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

TEXT, HEAD = "Carlito", "Vollkorn"


@cache
def put_up() -> None:
    """Make the faces known."""
    shipped = files("tailor.desk.theme") / "fonts"
    for face, file in ((TEXT, "Carlito-Regular.ttf"), (HEAD, "Vollkorn-SemiBold.ttf")):
        with as_file(shipped / file) as path:
            pdfmetrics.registerFont(TTFont(face, path))


def wide(text: str, size: float, bold: bool) -> float:
    """How wide a text is, in the unit of its size."""
    put_up()
    return float(pdfmetrics.stringWidth(text, HEAD if bold else TEXT, size))
