"""The two columns that tags stand in, each tag level with what it measures as far as its neighbours let it."""

from __future__ import annotations

from collections.abc import Sequence

from tailor.desk.tag import HEIGHT, Tag

BETWEEN = 6  # px from tag to tag
EDGE = 10  # px from the edge of the board


def stand(
    tags: Sequence[tuple[Tag, tuple[float, float] | None]], width: int, top: int, foot: int, one_sided: bool
) -> None:
    """Move tags to their columns.

    tags: each with where on the board what it measures is, or None where it is not in view. width: of the board;
    top, foot: where the columns begin and end, px. one_sided: all stand on the left.
    """
    columns: dict[bool, list[tuple[float, Tag]]] = {False: [], True: []}
    for tag, at in tags:
        if at is not None:
            columns[at[0] > width / 2 and not one_sided].append((at[1], tag))
    for tag, at in tags:
        if at is None:
            columns[len(columns[True]) < len(columns[False])].append((foot, tag))
    most = max(int((foot - top) // (HEIGHT + BETWEEN)), 1)
    for right in (False, True):  # a column too long gives its lowest to the other
        while len(columns[right]) > most and len(columns[not right]) < most:
            columns[right].sort(key=lambda pair: pair[0])
            columns[not right].append(columns[right].pop())
    for right, column in columns.items():
        column.sort(key=lambda pair: pair[0])
        for (_, tag), y in zip(column, _levels([y for y, _ in column], top, foot), strict=True):
            tag.move(width - tag.width() - EDGE if right else EDGE, round(y))
            tag.show()


def _levels(wanted: Sequence[float], top: float, foot: float) -> list[float]:
    """Tops of tags whose middles want to be at rising heights: pushed down past each other, then up from the foot."""
    step = HEIGHT + BETWEEN
    if len(wanted) * step > foot - top:
        step = max((foot - top) / len(wanted), HEIGHT - 4)
    tops: list[float] = []
    for y in wanted:
        tops.append(max(y - HEIGHT / 2, tops[-1] + step if tops else top))
    limit = foot - HEIGHT
    for k in reversed(range(len(tops))):
        tops[k] = max(min(tops[k], limit), 4.0)
        limit = tops[k] - step
    return tops
