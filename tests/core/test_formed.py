"""Formed panels: the map between plan and flat, their flattening against another program's, and their strain."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tailor import demo
from tailor.core.draft.draft import Draft
from tailor.core.draft.fitted import all_round as drafting
from tailor.core.draft.fitted.panels import as_cut, panels
from tailor.core.errors import InputError
from tailor.core.job import Job, draft
from tailor.core.shell import formed as forming
from tailor.core.shell import two_sided as shell
from tailor.core.shell.flatten import Sheet
from tailor.core.shell.formed import Formed
from tailor.core.shell.strain import Bears, strain
from tests.core.test_flatten import rival, sheet
from tests.lofts import CASES, case, cases
from tests.sweeps import about, some
from tests.things import job_of

DEMOS = CASES


@pytest.fixture(scope="module")
def drafts() -> dict[str, Draft]:
    return {name: draft(case(name)) for name in DEMOS}


def rms(energy: float, of: Sheet) -> float:
    return float(np.sqrt(energy / of.area.sum()))


def settles_like_another(panel: Formed) -> None:
    ours = panel.sheet
    z = panel.laid.uv @ [1.0, 1.0j]
    _, mine = ours.turned(z)
    start = ours.placing()(ours.unfolded())
    free = Sheet(panel.places.reshape(-1, 3), panel.triangles)  # the other program holds no line
    laid = free.laid()
    their = rival(panel.places.reshape(-1, 3), panel.triangles, np.column_stack([start.real, start.imag]), 400)
    _, theirs = free.turned(their @ [1.0, 1.0j])
    assert laid.converged
    assert rms(laid.energy, free) == pytest.approx(rms(theirs, free), rel=1e-3)
    assert mine >= laid.energy * (1 - 1e-6)


@pytest.mark.parametrize("name", some(DEMOS))
def test_demo_panels_flatten_as_well_as_another_program_does(drafts: dict[str, Draft], name: str) -> None:
    settles_like_another(panels(drafts[name])[0])


@settings(max_examples=about(15))
@given(cases(moulded=True))
def test_drawn_panels_flatten_as_well_as_another_program_does(job: Job) -> None:
    settles_like_another(draft(job).formed[0])


@pytest.mark.parametrize("name", ["spar-hook", "shears", "radio", "whetstone"])
def test_any_curve_goes_to_flat_and_back(drafts: dict[str, Draft], name: str) -> None:
    made = drafts[name]
    for panel in made.formed:
        for curve in (made.plan.stitch, made.plan.cut, made.plan.welt, made.plan.mouth):
            assert np.abs(panel.to_plan(panel.to_flat(curve)) - curve).max() < 0.05
        x, y = np.meshgrid(np.linspace(-4, 4, 9) + panel.places[0, panel.middle, 0], np.linspace(20, 60, 9))
        pocket = np.column_stack([x.ravel(), y.ravel()])
        assert np.abs(panel.to_plan(panel.to_flat(pocket)) - pocket).max() < 0.05
        with pytest.raises(InputError, match="on no part of it"):
            panel.to_plan(np.array([[4000.0, 20.0]]))


@pytest.mark.parametrize("name", ["spar-hook", "shears", "radio", "whetstone"])
def test_a_finer_mesh_hardly_moves_the_outline(
    drafts: dict[str, Draft], name: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(forming, "OVER", 2 * forming.OVER)
    monkeypatch.setattr(forming, "WELT", 2 * forming.WELT)
    monkeypatch.setattr(shell, "STEP", shell.STEP / 2)
    monkeypatch.setattr(drafting, "STEP", drafting.STEP / 2)
    monkeypatch.setattr(forming, "ROW", forming.ROW / 2)
    fine, curve = draft(case(name)).formed[0], drafts[name].plan.stitch
    one, other = (p.to_flat(curve) @ [1, 1j] for p in (drafts[name].formed[0], fine))
    one, other = one - one.mean(), other - other.mean()
    turn = np.vdot(other, one)
    assert np.abs(one - other * turn / abs(turn)).max() < 0.15


def on_a_sheet(stretch_x: float, stretch_y: float, turn: float) -> Formed:
    """A flat sheet that is stretched along its own x and y once it is turned."""
    flat, triangles = sheet(np.linspace(0, 40, 21), np.linspace(0, 60, 31))
    rot = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    moved = (flat @ rot.T * [stretch_x, stretch_y]) @ rot
    places = np.column_stack([moved, np.zeros(len(flat))]).reshape(31, 21, 3)
    made = Sheet(places.reshape(-1, 3), triangles)
    return Formed("front", places, 0, np.zeros((31, 21)), made.laid(), made, flat.reshape(31, 21, 2), 0.0)


@given(st.floats(1.0, 1.3), st.floats(0.8, 1.0), st.floats(-1.5, 1.5))
@settings(max_examples=about(30))
def test_strain_tells_how_much_and_which_way(give: float, take: float, turn: float) -> None:
    found = strain(on_a_sheet(give, take, turn), Bears(0.1, 0.2, 0.08))
    assert found.stretch == pytest.approx(give - 1, abs=1e-6)
    assert found.gather == pytest.approx(1 - take, abs=1e-6)
    assert found.thickness == pytest.approx(1 / (give * take), rel=1e-6)
    if give - take > 0.02:
        way = np.array([np.cos(turn), np.sin(turn)])  # across the sheet, turned
        told = np.array([-np.sin(found.way), np.cos(found.way)])
        assert np.abs(way[0] * told[0] + way[1] * told[1]).min() > 0.999
        off = np.arccos(np.clip(abs(way[1]), 0, 1))  # from the draw
        assert found.limit == pytest.approx(1 / np.hypot(np.cos(off) / 0.1, np.sin(off) / 0.2), rel=1e-3)


def test_turning_the_piece_on_the_hide_matters() -> None:
    along = on_a_sheet(1.0, 1.15, 0.0)  # stretched along the draw
    straight, turned = (strain(along, Bears(0.1, 0.2, 0.08, turn)).load.max() for turn in (0.0, np.pi / 2))
    assert straight == pytest.approx(1.5, rel=1e-3)
    assert turned == pytest.approx(0.75, rel=1e-3)


def test_a_folded_sheet_that_bends_one_way_only_is_cut_row_by_row(eaves: Job) -> None:
    sheath = draft(eaves)
    front, back = panels(sheath)
    assert back.sheet is front.sheet
    stitch = sheath.plan.stitch[::6]
    stitch = stitch[stitch[:, 1] > 30]  # beside the object; about the toe the whole sheet is laid flat
    at = front.at(front.spot(stitch), as_cut(sheath, front))
    assert at == pytest.approx(sheath.shell.to_flat(stitch, "front"), abs=0.25)
    blunt = draft(replace(eaves, stations=tuple(replace(s, front=5.0, back=5.0) for s in eaves.stations)))
    assert blunt.shell.whole  # over a blunt end it is flattened
    assert as_cut(blunt, blunt.formed[0]) is blunt.formed[0].uv


def test_leather_that_gives_is_cut_shorter_by_as_much() -> None:
    job = demo.job("shears")
    stiff, soft = (draft(job.typed("mould.stretch", text)) for text in ("0", "5%"))
    k = int(np.abs(stiff.formed[0].rows - 60).argmin())
    one, other = stiff.formed[0], soft.formed[0]
    assert other.laid.uv == pytest.approx(one.laid.uv, abs=1e-6)
    for column in (0, -1):
        short = np.abs(one.uv[k, column, 0]) - np.abs(other.uv[k, column, 0])
        assert short == pytest.approx(one.over[k, column] * (1 - 1 / 1.05), rel=1e-6)


def test_leather_rises_from_the_middle_of_its_fold_on_every_row_of_many() -> None:
    """A straight side stands upright over the fold: its foot and its head lie at one x, and must be told apart."""
    made = draft(job_of(110, "folded-sheath", leather__thickness=2.5))
    run = made.shell.wrap(np.linspace(2.5, 120.0, 300)).front
    assert np.abs(run.z[:, 0]).max() < 1e-6
    assert np.ptp(run.landed) < 0.01
