"""Exactly: what a layout breaks, asked of the real outlines alone."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import shapely

from tailor.core.cut.laying import TINY, Id, Laid, Laying


def faults(laying: Laying, laid: Sequence[Laid]) -> Iterator[tuple[Id, str]]:
    """Which piece breaks a rule of the laying, and which rule."""
    hides = {hide.id: hide for hide in laying.hides}
    templates = {template.id: template for template in laying.templates}
    every = {laying.asked(template) for template in templates.values()}
    kinds = {(asked, hide.id): hide.leather(asked, laying.band) for asked in every for hide in laying.hides}
    for leather in kinds.values():
        shapely.prepare(leather)
    shapes = [shapely.Polygon(one.of(templates[one.id].ring)) for one in laid]
    for one, shape in zip(laid, shapes, strict=True):
        template = templates[one.id]
        asked = laying.asked(template)
        leather = kinds[asked, one.hide]
        if not shapely.covers(leather, shape) and shapely.difference(shape, leather).area > TINY:
            yield one.id, f"not on the {asked.said(sort=False)} of {hides[one.hide].id}"
        if not template.turns.allow(one.degrees):
            yield one.id, "turned further than its stretch allows"
        if one.mirrored and not template.may_flip:
            yield one.id, "turned over"
        if template.pinned is not None and one != template.pinned:
            yield one.id, "not where it is pinned"
    if not shapes:
        return
    tree = shapely.STRtree(shapes)
    gaps = np.array([templates[one.id].gap for one in laid])
    widest = gaps.max(initial=0.0)
    for a, b in zip(*tree.query(shapes, predicate="dwithin", distance=widest), strict=True):
        if a < b and shapes[a].distance(shapes[b]) < max(gaps[a], gaps[b]) - TINY:
            one, other = (b, a) if templates[laid[a].id].pinned is not None else (a, b)
            yield laid[one].id, f"nearer to {laid[other].id} than the knife needs"
    if len({one.id for one in laid}) < len(laid):
        yield laid[0].id, "laid twice"
