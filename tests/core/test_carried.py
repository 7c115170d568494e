from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from tailor.core.carried.loft import Loft
from tailor.core.carried.monotone import Monotone
from tailor.core.carried.stations import Shape, Station, Table, checked, parse_csv, read_csv
from tailor.core.carried.zones import ZoneKind
from tailor.core.errors import InputError
from tests.lofts import as_csv, jobs, sections
from tests.sweeps import about

HEAD = "y,x_spine,x_seam,front,back,shape,corner\n"
GOOD = HEAD + "0,0,10,1,1,wedge,\n100,0,30,2,2,wedge,\n"

BAD_TABLES = {
    "": "empty",
    "# nothing\n": "empty",
    HEAD: "no stations",
    HEAD + "0,0,10,1,1,wedge,\n": "1 station",
    "y,x_spine,x_seam,front,back\n0,0,1,1,1\n": "lacks shape",
    "a,b\n1,2\n": "lacks y",
    "y,x_spine,x_seam,front,back,shape,shine\n0,0,9,1,1,slab,2\n": "shine",
    "y,y,x_spine,x_seam,front,back,shape\n": "twice",
    GOOD + "100,0,30,2,2,wedge,\n": "already measured at line 3",
    GOOD + "50,0,,2,2,wedge,\n": "x_seam is missing",
    GOOD + ",0,20,2,2,wedge,\n": "y is missing",
    GOOD + "50,0,20,2,2,,\n": "shape is missing",
    GOOD + "50,0,20,-2,2,wedge,\n": "front is -2",
    GOOD + "50,0,20,2,-0.1,wedge,\n": "back is -0.1",
    GOOD + "50,0,20,0,0,wedge,\n": "no thickness",
    GOOD + "50,25,20,2,2,wedge,\n": "sides cross",
    GOOD + "50,20,20,2,2,wedge,\n": "no width",
    GOOD + "50,0,20,2,2,round,\n": "'round' is not a shape",
    GOOD + "50,0,20,2,2,slab,3\n": "corner 3 is more than half",
    GOOD + "50,0,20,2,2,slab,-1\n": "negative radius",
    GOOD + "50,0,20,2,2,oval,1\n": "oval has no corner",
    GOOD + "fifty,0,20,2,2,wedge,\n": "'fifty' is not a length",
    GOOD + "50,0,nan,2,2,wedge,\n": "'nan' is not a length",
    GOOD + "50,0,99999,2,2,wedge,\n": "x_seam is 99999",
    GOOD + "50,0,20,2,2,wedge,,\n": "8 values for 7 columns",
    GOOD + "50,0,20\n": "3 values for 7 columns",
    GOOD + '50,0,"20,2,2,wedge,\n': "quotes do not pair",
    "# unit: ell\n" + GOOD: "unit 'ell'",
    "# zone: edge\n" + GOOD: "is not a zone",
    "# zone: handle 0 .. 50\n" + GOOD: "'handle' is not a kind",
    "# zone: edge 50 .. 20\n" + GOOD: "ends at 20",
}


@pytest.mark.parametrize("text", BAD_TABLES)
def test_bad_tables_say_what_and_where_in_one_sentence(text: str) -> None:
    with pytest.raises(InputError) as caught:
        parse_csv(text)
    said = str(caught.value)
    assert BAD_TABLES[text] in said
    assert said.endswith(".")
    assert "\n" not in said
    if text.startswith(GOOD):
        assert "line 4" in said


def test_files_that_are_no_tables_are_refused(tmp_path: object) -> None:
    from pathlib import Path

    folder = Path(str(tmp_path))
    (folder / "noise.csv").write_bytes(bytes(range(256)))
    for name, said in (
        ("absent.csv", "no such file"),
        ("noise.csv", "cannot be read as text"),
        (".", "it is a folder"),
    ):
        with pytest.raises(InputError, match=said):
            read_csv(folder / name)


def test_inches_rows_in_any_order_and_zones_are_read() -> None:
    table = parse_csv(
        "# unit: in\n# zone: grip 3 .. 5 1/2\n" + HEAD + "4,0,1 1/2,3/8,3/8,slab,1/8\n0,0,1,0.1,0.1,slab,\n"
    )
    assert [s.y for s in table.stations] == pytest.approx([0, 101.6])
    assert table.stations[1].corner == pytest.approx(3.175)
    (zone,) = table.zones
    assert (zone.kind, zone.low, zone.high) == (ZoneKind.GRIP, pytest.approx(76.2), pytest.approx(139.7))


@given(jobs(symmetric=False))
def test_a_table_written_is_read_back_the_same(job: object) -> None:
    from tailor.core.job import Job

    assert isinstance(job, Job)
    table = Table(job.stations, job.zones)
    assert parse_csv(as_csv(table)) == table


@given(sections(), sections())
def test_between_stations_nothing_overshoots_and_sections_stay_convex(a: Station, b: Station) -> None:
    loft = Loft((a, replace(b, y=50.0)))
    cut = loft.sections(np.linspace(0, 50, 11))
    for measured in ("front", "back"):
        heights = [getattr(s, measured) for s in (a, b)]
        assert getattr(cut, measured).max(axis=1).max() <= max(heights) + 1e-9
    assert cut.x_seam.max() <= max(a.x_spine, b.x_spine) + max(a.width, b.width) + 1e-9
    for z in (cut.front, cut.back):
        slope = np.diff(z, axis=1) / np.diff(cut.x, axis=1)
        assert (np.diff(slope, axis=1) <= 1e-6 * np.abs(slope).max()).all()


@given(sections(), sections(), st.integers(0, 99))
def test_how_near_places_come_is_what_another_library_measures(a: Station, b: Station, seed: int) -> None:
    loft = Loft((a, replace(b, y=50.0)))
    cut = loft.sections(rows := np.arange(0.0, 51.0, 5.0))
    polygons = [shapely.Polygon(cut.outline(k)) for k in range(len(rows))]
    k, (x, z) = np.arange(11).repeat(9), np.random.default_rng(seed).uniform(-90, 90, (2, 99))
    outside = np.array([shapely.distance(polygons[row], shapely.Point(*at)) for row, *at in zip(k, x, z, strict=True)])
    assert (cut.beyond(k, x, z) <= outside + 1e-6)[outside > 0].all()  # never told further off than it is
    if (outside > 0).all():
        near, which = loft.nearest(at := np.column_stack([x, rows[k], z]))
        assert outside.min() - 1e-6 <= near <= outside.min() + 0.031
        assert loft.nearest(at[[which]])[0] == pytest.approx(near)
        thick = np.where(np.arange(99) == 7, outside[7] + 5.0, 0.0)
        assert loft.nearest(at, thick) == (pytest.approx(-5.0), 7)


def test_past_the_tip_the_object_runs_out_on_a_cone() -> None:
    loft = Loft((Station(0, 0, 20, 3, 3, Shape.SLAB), Station(50, 0, 20, 3, 3, Shape.SLAB)))
    cut = loft.sections(np.array([0.0, -4.0, -8.0, -20.0]), toe=8.0)
    assert cut.front.max(axis=1) == pytest.approx([3, 1.5, 0, 0])
    assert cut.x_seam == pytest.approx([20, 10, 0, 0])


@pytest.mark.parametrize(
    ("column", "text", "said"),
    [("y", "5", "already measured"), ("x_seam", "-1", "sides cross"), ("front", "x", "front"), ("shape", "egg", "egg")],
)
def test_a_cell_typed_wrong_names_its_station(column: str, text: str, said: str) -> None:
    from tailor.core.carried.stations import edit
    from tailor.core.units import System

    rows = parse_csv(GOOD + "5,0,12,1,1,wedge,\n").stations
    with pytest.raises(InputError, match=said) as caught:
        edit(rows, 2, column, text, System.MM)
    assert "station 3" in str(caught.value)
    moved = edit(rows, 2, "y", "2 1/2", System.INCH)
    assert moved[2].y == pytest.approx(63.5)
    assert [s.y for s in edit(rows, 0, "y", "300", System.MM)] == [5, 100, 300]


def test_of_very_many_stations_every_so_many_is_gone_through_and_both_ends() -> None:
    rows = [Station(0.1 * k, 0.0, 30.0, 4.0, 4.0, Shape.OVAL) for k in range(2000)]
    loft = Loft(checked(rows))
    assert len(loft.at_stations()) == 250
    assert loft.at_stations()[[0, -1]].tolist() == [0.0, loft.top]
    assert loft.at_stations(high=10.0).tolist() == pytest.approx(0.1 * np.arange(101))


@settings(max_examples=about(60))
@given(st.integers(0, 10**6))
def test_sizes_run_between_stations_as_another_library_has_them(seed: int) -> None:
    rng = np.random.default_rng(seed)
    at = np.cumsum(rng.uniform(0.01, 40, rng.integers(2, 14)))
    values = np.round(rng.normal(0, 10, (len(at), 3)), int(rng.integers(0, 3)))  # alike ones in a row among them
    places = np.concatenate([at, rng.uniform(at[0], at[-1], 40)])
    theirs = PchipInterpolator(at, values, axis=0)(places)
    assert Monotone(at, values)(places) == pytest.approx(theirs, abs=1e-9)
    with pytest.raises(ValueError, match="rise"):
        Monotone(at[::-1], values)
