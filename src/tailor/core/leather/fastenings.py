"""Fastenings: rivets, screws, snaps, studs and grommets by a table of sizes, and the post that suits a stack."""

from __future__ import annotations

import csv
from dataclasses import dataclass

from tailor.core.errors import InputError

SHORT = 0.3  # mm that a post may be short of its stack, since leather gives
LONG = 3.0  # mm more than wanted, beyond which a post bends as it is set


@dataclass(frozen=True)
class Fastening:
    """One size of fastening, mm.

    hole: punched for its post. cap: what is seen of it. edge, apart: least from its middle to an edge and to another.
    setting: length hammered over, cut off or screwed home. posts: lengths to be had, rising.
    """

    name: str
    kind: str
    hole: float
    cap: float
    edge: float
    apart: float
    setting: float
    posts: tuple[float, ...]

    def post(self, stack: float) -> float | None:
        """The shortest post that goes through a stack and can be set; None where all are too short, mm."""
        wanted = stack + self.setting
        return next((post for post in self.posts if post >= wanted - SHORT), None)


def read(text: str, name: str) -> dict[str, Fastening]:
    """Fastenings by name from a table. Raises InputError naming the file and the row."""
    rows = [(n, line) for n, line in enumerate(text.splitlines(), 1) if line.strip() and not line.startswith("#")]
    found: dict[str, Fastening] = {}
    head = [cell.strip() for cell in next(csv.reader([rows[0][1]]))] if rows else []
    missing = [column for column in Fastening.__dataclass_fields__ if column not in head]
    if missing:
        raise InputError(f"it has no column '{missing[0]}'", name, "keep the heading as it was")
    for n, line in rows[1:]:
        cells = dict(zip(head, (cell.strip() for cell in next(csv.reader([line]))), strict=False))
        where = f"{name}, row {n}"
        try:
            sizes = {k: float(cells[k]) for k in ("hole", "cap", "edge", "apart", "setting")}
            posts = tuple(sorted(float(post) for post in cells["posts"].split(";")))
        except (KeyError, ValueError):
            raise InputError("it has a size that is no number", where, "give sizes in mm, posts parted by ;") from None
        if cells["name"] in found:
            raise InputError(f"'{cells['name']}' is there twice", where, "give each a name of its own")
        if min(sizes["hole"], *posts) <= 0 or sizes["cap"] < sizes["hole"] or sizes["edge"] < sizes["hole"] / 2:
            raise InputError("its sizes cannot be", where, "the cap is wider than the hole, and all are over nought")
        found[cells["name"]] = Fastening(cells["name"], cells["kind"], **sizes, posts=posts)
    return found
