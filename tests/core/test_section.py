"""The slice: layers of true thickness that lie on each other and nowhere in each other."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Polygon

from tailor.core.draft.draft import Draft
from tailor.core.draft.views.section import Section, section
from tailor.core.job import Job, draft
from tests.lofts import jobs
from tests.sweeps import about


def flesh_and_grain(leather: np.ndarray) -> tuple[LineString, LineString]:
    """Both faces of a cut through leather: its outline runs out along the flesh and back along the grain."""
    turn = int(np.argmax(leather[:, 0] >= leather[:, 0].max() - 1e-9))
    return LineString(leather[: turn + 1]), LineString(leather[turn + 1 :])


def check_layers(cut: Section, made: Draft, clearance: float) -> None:
    thick = made.shell.leather.thickness
    leather = [Polygon(p) for p in (cut.front, cut.back)]
    layers = [*leather, *map(Polygon, cut.welts)]
    for k, layer in enumerate(layers):
        assert layer.is_valid
        for other in layers[k + 1 :]:
            assert layer.intersection(other).area < 0.05
        if cut.thing is not None:
            thing = Polygon(cut.thing)
            assert layer.intersection(thing).area < 0.05
            if k < 2:
                assert layer.distance(thing) >= clearance - 0.02
    for side in (cut.front, cut.back):
        flesh, grain = flesh_and_grain(side)
        apart = shapely.distance(shapely.points(np.asarray(flesh.coords)), grain)
        assert apart.min() >= thick - 0.02  # the corner at the welt is sharp, so there it is thicker
        assert np.median(apart) == pytest.approx(thick, abs=0.02)


@settings(max_examples=about(20))
@given(jobs(symmetric=False), st.floats(0.02, 0.98))
def test_layers_have_their_thickness_and_do_not_run_into_each_other(job: Job, share: float) -> None:
    made = draft(job)
    y = made.shell.loft.tip + share * (made.value("mouth.y") - made.shell.loft.tip)
    clearance = job.settings.number("fit.clearance")
    cut = section(made, y, clearance)
    assert cut.y == pytest.approx(y)
    check_layers(cut, made, clearance)
    assert len(cut.welts) == made.value("welt.layers")
    assert np.ptp(cut.stitch[:, 1]) == pytest.approx(made.stack.height)
    inside = shapely.union_all([Polygon(p) for p in (cut.front, cut.back, *cut.welts)]).buffer(0.01)
    assert inside.contains(LineString(cut.stitch))


def test_the_path_written_on_the_slice_is_the_drafts_own(sheath: Draft) -> None:
    for row in sheath.rows:
        cut = section(sheath, row.y, 0.5)
        assert cut.front_path == pytest.approx(row.front_path, abs=0.05)
        assert cut.back_path == pytest.approx(row.back_path, abs=0.05)
        assert LineString(cut.neutral).length == pytest.approx(row.front_path, abs=0.05)
        assert cut.reason.value == pytest.approx(row.standoff, abs=0.01)


def test_above_the_mouth_the_object_stands_free_and_past_the_tip_there_is_none(sheath: Draft) -> None:
    above = section(sheath, sheath.value("mouth.y") + 5, 0.5)
    assert above.front is None
    assert above.thing is not None
    below = section(sheath, sheath.shell.loft.tip - 2, 0.5)
    assert below.thing is None
    assert below.front is not None
    far = section(sheath, 1e6, 0.5)
    assert far.y == sheath.shell.loft.top


def test_clearance_is_drawn_square_to_the_object(sheath: Draft) -> None:
    cut = section(sheath, 60, 1.5)
    room, thing = Polygon(cut.room), Polygon(cut.thing)
    assert room.contains(thing)
    assert room.exterior.distance(thing) == pytest.approx(1.5, abs=0.02)
