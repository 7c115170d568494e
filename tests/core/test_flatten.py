"""Flattening: exact where a sheet bends one way only, the known optimum where it cannot be, as good as another's."""

from __future__ import annotations

import os
from pathlib import Path
from threading import Thread

import igl
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.linalg import lstsq
from scipy.spatial.transform import Rotation

from tailor.core.errors import InputError
from tailor.core.shell.flatten import Sheet, flatten
from tests.sweeps import about, some


def sheet(across, along):
    """Places (n, 2) on a grid and its triangles, given the places across and along it."""
    u, v = np.meshgrid(across, along)
    at = np.arange(u.size).reshape(u.shape)
    a, b, c, d = at[:-1, :-1].ravel(), at[:-1, 1:].ravel(), at[1:, 1:].ravel(), at[1:, :-1].ravel()
    return np.column_stack([u.ravel(), v.ravel()]), np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])])


def laid_over(uv, true):
    """Greatest distance between two flat shapes once one is turned and moved on to the other, not turned over."""
    uv, true = uv - uv.mean(axis=0), true - true.mean(axis=0)
    turn = np.vdot(uv @ [1, 1j], true @ [1, 1j])
    over = (uv @ [1, 1j]) * turn / abs(turn)
    return np.abs(over - true @ [1, 1j]).max()


def prism(flat):
    """A strip folded twice, at u = 20 and u = 45, each by 60°."""
    corners = np.array([[0, 0], [20, 0], [20 + 25 / 2, 25 * np.sqrt(0.75)]])
    last = corners[2] + np.array([-0.5, np.sqrt(0.75)]) * 15
    x, z = (np.interp(flat[:, 0], [0, 20, 45, 60], [*corners[:, k], last[k]]) for k in (0, 1))
    return np.column_stack([x, flat[:, 1], z])


def cylinder(flat, radius=14.0):
    return np.column_stack([radius * np.sin(flat[:, 0] / radius), flat[:, 1], radius * np.cos(flat[:, 0] / radius)])


def cone(flat, half):
    """Flat places round the apex at (0, -60) rolled on a cone of that half angle."""
    r, turn = np.hypot(flat[:, 0], flat[:, 1] + 60), np.arctan2(flat[:, 0], flat[:, 1] + 60)
    round_ = turn / np.sin(half)
    return np.column_stack([r * np.sin(half) * np.cos(round_), r * np.sin(half) * np.sin(round_), r * np.cos(half)])


@pytest.mark.parametrize("shape", ["prism", "cylinder", "cone"])
@settings(max_examples=about(12), deadline=None)
@given(turn=st.integers(0, 10**6), half=st.floats(0.45, 1.3))
def test_what_bends_one_way_lies_flat_without_strain_at_any_angle(shape, turn, half):
    across = np.concatenate([np.linspace(0, 20, 9), np.linspace(20, 45, 11)[1:], np.linspace(45, 60, 7)[1:]])
    flat, triangles = sheet(across if shape != "cone" else across - 30, np.linspace(0, 120, 60))
    if shape != "prism":  # fine enough that chords are as good as arcs
        flat, triangles = sheet(np.linspace(flat[:, 0].min(), flat[:, 0].max(), 161), np.linspace(0, 120, 41))
    true = {"prism": prism, "cylinder": cylinder, "cone": lambda f: cone(f, half)}[shape](flat)
    turned = Rotation.random(rng=turn).apply(true) + 100.0
    laid = flatten(turned, triangles)
    assert laid.converged
    assert np.abs(laid.stretch - 1).max() < 1e-3
    assert laid_over(laid.uv, flat) < 0.05


def cap(angle, rings=40, round_=120):
    """A spherical cap of radius 50 out to an angle from its pole, with a small hole at the pole closed by a fan."""
    t, p = np.meshgrid(np.linspace(0, angle, rings + 1)[1:], np.arange(round_) * 2 * np.pi / round_, indexing="ij")
    ring = 50 * np.column_stack([a.ravel() for a in (np.sin(t) * np.cos(p), np.sin(t) * np.sin(p), np.cos(t))])
    at = np.arange(rings * round_).reshape(rings, round_) + 1
    nxt = np.roll(at, -1, axis=1)
    fan = np.column_stack([np.zeros(round_, dtype=int), at[0], nxt[0]])
    low, high = at[:-1], at[1:]
    quads = [low.ravel(), high.ravel(), nxt[1:].ravel(), nxt[:-1].ravel()]
    return np.vstack([[[0, 0, 50]], ring]), np.vstack(
        [fan, np.column_stack([quads[0], quads[1], quads[2]]), np.column_stack([quads[0], quads[2], quads[3]])]
    )


def best_disc(angle, parts=2000):
    """RMS strain of the best round disc for a cap: least squares over the radius each ring is given.

    The strains of a ring are r'(s) - 1 along and r / (R sin(s/R)) - 1 round; both are linear in r.
    """
    s = np.linspace(0, 50 * angle, parts + 1)
    middle, step = (s[1:] + s[:-1]) / 2, s[1]
    girth = 50 * np.sin(middle / 50)
    weight = np.sqrt(girth * step)
    rows = np.arange(parts)
    equations = np.zeros((2 * parts, parts + 1))
    equations[rows, rows], equations[rows, rows + 1] = -weight / step, weight / step
    equations[parts + rows, rows] = equations[parts + rows, rows + 1] = weight / girth / 2
    equations = equations[:, 1:]
    wanted = np.concatenate([weight, weight])
    left = lstsq(equations, wanted)[0]
    return np.sqrt(((equations @ left - wanted) ** 2).sum() / (weight**2).sum())


def test_a_spherical_cap_takes_the_least_strain_there_is_and_more_the_deeper_it_is():
    found = []
    for angle in (0.15, 0.4, 0.8, 1.2, 1.5):
        vertices, triangles = cap(angle)
        prepared = Sheet(vertices, triangles)
        laid = prepared.laid()
        rms = np.sqrt(laid.energy / prepared.area.sum())
        assert rms == pytest.approx(best_disc(angle, 500), rel=0.02)
        found.append(rms)
    assert (np.diff(found) > 0).all()
    assert found[1] / found[0] == pytest.approx((0.4 / 0.15) ** 2, rel=0.1)  # strain grows as the square of the angle


def rival(vertices, triangles, start, steps):
    """The same sheet laid flat by libigl from a given start, its first vertex held, so many steps."""
    made = igl.ARAPData()
    made.max_iter = steps
    igl.arap_precomputation(vertices, triangles.astype(np.int64), 2, np.zeros(1, dtype=np.int32), made)
    return igl.arap_solve(start[:1].copy(), made, start.copy())


@pytest.mark.parametrize("seed", some(range(4)))
def test_it_settles_where_an_independent_program_does(seed):
    rng = np.random.default_rng(seed)
    flat, triangles = sheet(np.linspace(-40, 40, 33), np.linspace(0, 150, 61))
    high = sum(
        rng.uniform(4, 18) * np.exp(-(((flat[:, 0] - rng.uniform(-15, 15)) / 14) ** 2 + ((flat[:, 1] - y) / 30) ** 2))
        for y in (30, 75, 120)
    )
    vertices = np.column_stack([flat, high])
    ours = Sheet(vertices, triangles)
    laid = ours.laid()
    _, theirs = ours.turned(rival(vertices, triangles, flat, 600) @ [1.0, 1.0j])
    assert laid.converged
    assert np.sqrt(laid.energy) == pytest.approx(np.sqrt(theirs), rel=1e-3)
    assert laid.energy == pytest.approx((ours.area * ((1 / laid.stretch - 1) ** 2).sum(axis=1)).sum(), rel=1e-6)


def resident() -> float:
    """Memory of this process, MB."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1e6


def test_what_is_laid_in_one_thread_and_let_go_of_in_another_is_freed():
    flat, triangles = sheet(np.linspace(-40, 40, 45), np.linspace(0, 150, 81))
    vertices = np.column_stack([flat, 0.004 * flat[:, 0] ** 2])
    held, grown = list[Sheet](), list[float]()

    def lay() -> None:
        held.append(Sheet(vertices, triangles))
        held[0].laid(most=1)

    for _ in range(70):
        thread = Thread(target=lay)
        thread.start()
        thread.join()
        held.clear()
        grown.append(resident())
    assert grown[-1] - grown[9] < 40  # 60 of them, of 2 MB each


def test_a_fold_is_held_straight_and_an_earlier_answer_is_a_head_start():
    flat, triangles = sheet(np.linspace(0, 40, 21), np.linspace(0, 150, 61))
    high = 9 * np.exp(-(((flat[:, 0] - 14) / 10) ** 2 + ((flat[:, 1] - 70) / 30) ** 2))
    fold = np.flatnonzero(flat[:, 0] == 0)
    vertices = np.column_stack([flat, high])
    free, held = flatten(vertices, triangles), flatten(vertices, triangles, fold)
    assert np.abs(held.uv[fold, 0]).max() < 1e-12
    assert held.energy > free.energy * 1.001  # holding it costs something
    vertices[:, 2] *= 1.02
    cold, warm = flatten(vertices, triangles, fold), flatten(vertices, triangles, fold, start=held.uv)
    assert warm.energy == pytest.approx(cold.energy, rel=1e-4)
    assert warm.iterations < cold.iterations
    hurried = flatten(vertices, triangles, fold, start=flat, most=1)
    assert not hurried.converged
    assert hurried.iterations == 1


def test_what_is_no_sheet_is_refused_in_a_sentence():
    flat, triangles = sheet(np.linspace(0, 4, 3), np.linspace(0, 4, 3))
    vertices = np.column_stack([flat, np.zeros(len(flat))])
    lone = np.vstack([vertices, vertices[:3] + 50])
    double = vertices.copy()
    double[1] = double[0]
    turned = triangles.copy()
    turned[0] = turned[0, ::-1]
    for bad, with_, said in (
        (vertices[:, :2], triangles, "three columns"), (vertices * np.nan, triangles, "nowhere"),
        (vertices, triangles + 3, "do not name"), (vertices, triangles[:0], "do not name"),
        (lone, np.vstack([triangles, [[9, 10, 11]]]), "one piece|area"), (double, triangles, "no area"),
        (vertices, turned, "same way"),
    ):  # fmt: skip
        with pytest.raises(InputError, match=said):
            flatten(bad, with_)
