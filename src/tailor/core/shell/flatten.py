"""Flattening: a curved sheet laid in the plane with as little stretching as it will bear.

As-rigid-as-possible: every triangle wants to keep its size and only turn. The energy is the area-weighted sum of
(s1 - 1)² + (s2 - 1)² over the principal stretches formed → flat. In the plane a turn is a unit complex number, so
the local step (the best turn of every triangle) and the right side of the global step (the best places for given
turns) are one sparse complex matrix and its adjoint, and the global step is a solve with a factor made once.
Steps are mixed with earlier ones (Anderson), and never taken where that would not lower the energy.
Source: local/global parameterisation with cotangent weights.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy
from numpy.typing import NDArray

from tailor.core.carried.loft import Array
from tailor.core.errors import InputError

Indices = NDArray[np.intp]
Complex = NDArray[np.complex128]

MEMORY = 6  # earlier steps that the next one is mixed from
MOST_STEPS = 400
SETTLED = 1e-6  # share of its energy that a sheet may still have to lose in a step, twice running
NOTHING = 1e-11  # energy per area that counts as none: strains of some millionths
WORKED = {"gather", "scatter", "laplacian", "_free"}  # what a sheet makes when it is wanted
THIN = 1e-10  # area over longest side squared, below which a triangle is none


@dataclass(frozen=True)
class Flattening:
    """A sheet laid flat.

    uv: (n, 2) where each vertex lies, mm. stretch: (m, 2) the least and the greatest stretch of each triangle
    flat → formed (1: none; more: the leather must give; less: it must take up). energy: mm². iterations: steps
    taken. converged: whether it had settled before they ran out.
    """

    uv: Array
    stretch: Array
    energy: float
    iterations: int
    converged: bool


def flatten(
    vertices: Array,
    triangles: NDArray[np.integer],
    straight: NDArray[np.integer] | None = None,
    start: Array | None = None,
    most: int = MOST_STEPS,
) -> Flattening:
    """The sheet laid flat, as rigid as possible.

    vertices: (n, 3) mm. triangles: (m, 3) indices, all facing one way, in one piece. straight: vertices to be held
    on the line u = 0, as a fold is. start: (n, 2) an earlier flattening of the same mesh to set out from. most:
    steps. The sheet is laid with its face up; with no straight line it keeps the heading of its first edge.
    Raises InputError for meshes that are no sheet.
    """
    return Sheet(np.asarray(vertices, dtype=float), np.asarray(triangles), straight).laid(start, most)


class Sheet:
    """A mesh made ready to be laid flat, once or again and again with different starts."""

    def __init__(
        self, vertices: Array, triangles: NDArray[np.integer], straight: NDArray[np.integer] | None = None,
        grid: bool = False, stiff: Array | None = None,
    ) -> None:  # fmt: skip
        """grid: the triangles are those of a grid, and so need not be looked over. stiff: (m,) how many times as much
        as usual each triangle minds being strained. Raises InputError.
        """
        if not grid:
            _sound(vertices, triangles)
        self.triangles = triangles
        self.count = len(vertices)
        held = np.zeros(self.count, dtype=bool)
        if straight is not None and len(straight):
            held[straight] = True
        self.held = held
        corner = vertices[triangles]  # (m, 3, 3)
        side = np.roll(corner, -1, axis=1) - corner  # side i runs from corner i to the next
        length = np.linalg.norm(side, axis=2)
        across = np.linalg.norm(np.cross(side[:, 0], -side[:, 2]), axis=1)  # twice the area
        if (across < THIN * length.max(axis=1) ** 2).any():
            k = int((across / length.max(axis=1) ** 2).argmin())
            raise InputError("it has no area", f"triangle {k}", "leave out triangles that are but a line")
        self.area = across / 2
        # each triangle in a plane of its own, its first side along the real axis
        along = -np.einsum("tk,tk->t", side[:, 0], side[:, 2]) / length[:, 0]
        flat = np.zeros((len(triangles), 3), dtype=complex)
        flat[:, 1], flat[:, 2] = length[:, 0], along + 1j * across / length[:, 0]
        self.flat_side = np.roll(flat, -1, axis=1) - flat
        # half the cotangent of the corner that faces each side
        facing = -np.einsum("tik,tik->ti", np.roll(side, -1, axis=1), np.roll(side, -2, axis=1))
        self.weight = facing / across[:, None] / 2
        self.minds = self.area
        if stiff is not None:
            self.weight = self.weight * stiff[:, None]
            self.minds = self.area * stiff

    def __getstate__(self) -> dict[str, object]:
        """To be sent to another process: without what can be made again where it is wanted."""
        return {name: part for name, part in self.__dict__.items() if name not in WORKED}

    @cached_property
    def gather(self) -> scipy.sparse.csr_array:
        """(m, n) complex: from places to how each triangle's sides lie against its own, weighted and summed."""
        share = self.weight * self.flat_side.conj()
        value = np.roll(share, 1, axis=1) - share  # side i ends at corner i + 1 and begins at corner i
        m = len(self.triangles)
        start = np.arange(0, 3 * m + 1, 3)
        at = self.triangles.ravel().astype(np.int32)
        return scipy.sparse.csr_array((value.ravel(), at, start), shape=(m, self.count))

    @cached_property
    def scatter(self) -> scipy.sparse.csr_array:
        """And back: from turns to what pulls at each place, (n, m)."""
        return self.gather.conj().T.tocsr()

    @cached_property
    def laplacian(self) -> scipy.sparse.csc_array:
        """(n, n): the sum of each place's differences from its neighbours, weighted."""
        a = self.triangles.ravel()
        b = np.roll(self.triangles, -1, axis=1).ravel()
        w = self.weight.ravel()
        rows, columns = np.concatenate([a, b, a, b]), np.concatenate([b, a, a, b])
        return scipy.sparse.csc_array((np.concatenate([-w, -w, w, w]), (rows, columns)), shape=(self.count, self.count))

    @cached_property
    def _free(self) -> tuple[Indices, Indices]:
        """Which vertices move along u and along v: all but the held line, and all but one."""
        held = np.flatnonzero(self.held)
        pinned = held[:1] if len(held) else np.zeros(1, dtype=np.intp)
        along_v = np.setdiff1d(np.arange(self.count), pinned)
        return (np.flatnonzero(~self.held) if len(held) else along_v), along_v

    def _factor(self, free: Indices) -> scipy.sparse.linalg.SuperLU:
        part = self.laplacian[free][:, free].tocsc()
        alike = {"SymmetricMode": True}
        return scipy.sparse.linalg.splu(part, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options=alike)

    def placing(self) -> Callable[[Complex], Complex]:
        """What tells the best places (n,) for given turns (m,) of the triangles.

        It holds one factor, or two where a line is held, which may not move along u, but may along v. They are not kept
        with the sheet: a factor that is let go of in another thread than it was made in is never freed.
        """
        u, v = self._free
        of_v = self._factor(v)
        of_u = self._factor(u) if self.held.any() else of_v

        def placed(turn: Complex) -> Complex:
            load = np.asarray(self.scatter @ turn)
            z = np.zeros(self.count, dtype=complex)
            if of_u is of_v:
                both = of_v.solve(np.column_stack([load.real[v], load.imag[v]]))
                z[v] = both[:, 0] + 1j * both[:, 1]
            else:
                z.real[u] = of_u.solve(load.real[u])
                z.imag[v] = of_v.solve(load.imag[v])
            return z

        return placed

    def turned(self, z: Complex) -> tuple[Complex, float]:
        """The best turns (m,) for given places, and the energy left with them."""
        lie = np.asarray(self.gather @ z)
        size = np.abs(lie)
        spread = np.vdot(z, np.asarray(self.laplacian @ z)).real
        energy = float(spread) + 2 * float(self.minds.sum() - size.sum())
        return np.asarray(lie / np.maximum(size, 1e-300)), max(energy, 0.0)

    def laid(self, start: Array | None = None, most: int = MOST_STEPS) -> Flattening:
        """Laid flat, from an earlier laying or from the sheet unfolded triangle by triangle."""
        placed = self.placing()
        z = placed(self.unfolded()) if start is None else np.asarray(start @ [1.0, 1.0j], dtype=complex)
        turn, energy = self.turned(z)
        nothing = NOTHING * float(self.minds.sum())
        step = _Mixed(self.count)
        quiet, taken = 0, 0
        while energy > nothing and quiet < 2 and taken < most:
            taken += 1
            plain = placed(turn)
            z_next = step.mixed(z, plain)
            turn_next, lower = self.turned(z_next)
            if lower > energy and z_next is not plain:
                step.forget()
                z_next = plain
                turn_next, lower = self.turned(z_next)
            quiet = quiet + 1 if energy - lower < SETTLED * energy else 0
            z, turn, energy = z_next, turn_next, lower
        return self._told(z, energy, taken, energy <= nothing or quiet >= 2)

    def unfolded(self) -> Complex:
        """Turns (m,) that lay every triangle beside the one it was reached from, out from the middle."""
        m = len(self.triangles)
        a, b = self.triangles, np.roll(self.triangles, -1, axis=1)
        low, high = np.minimum(a, b).ravel(), np.maximum(a, b).ravel()
        order = np.lexsort((high, low))
        twin = (low[order][1:] == low[order][:-1]) & (high[order][1:] == high[order][:-1])
        one, other = order[:-1][twin], order[1:][twin]
        # what the other must be turned by, beside the one: their common side runs opposite ways
        side = self.flat_side.ravel()
        beside = -side[one] * side[other].conj()
        beside /= np.abs(beside)
        of_one, of_other = one // 3, other // 3
        near = scipy.sparse.csr_array((np.ones(len(one)), (of_one, of_other)), shape=(m, m))
        near = near + near.T
        middle = self.triangles[:, 0]
        first = int(np.argmin(np.abs(middle - self.count / 2)))
        reached, before = scipy.sparse.csgraph.breadth_first_order(near, first, directed=False)
        parent = np.where(before < 0, np.arange(m), before)
        turns = scipy.sparse.csr_array((beside, (of_other, of_one)), shape=(m, m)) + scipy.sparse.csr_array(
            (beside.conj(), (of_one, of_other)), shape=(m, m)
        )
        turn = np.ones(m, dtype=complex)
        child = reached[1:]
        turn[child] = np.asarray(turns[child, parent[child]]).ravel()
        for _ in range(max(m, 2).bit_length()):  # each round doubles how far back a turn reaches
            if (parent == parent[parent]).all():
                break
            turn, parent = turn * turn[parent], parent[parent]
        return turn

    def _told(self, z: Complex, energy: float, taken: int, settled: bool) -> Flattening:
        if not self.held.any():  # heading of the first edge, and the first vertex at nought
            first = z[self.triangles[0, 1]] - z[self.triangles[0, 0]]
            z = z * np.conj(first) / abs(first)
            z = z - z[0]
        least, greatest = stretches(z, self.triangles, self.flat_side, self.area)
        return Flattening(np.column_stack([z.real, z.imag]), np.column_stack([least, greatest]), energy, taken, settled)


def stretches(z: Complex, triangles: NDArray[np.integer], flat_side: Complex, area: Array) -> tuple[Array, Array]:
    """Least and greatest stretch (m,) of triangles from places z (n,) to their true sides.

    A triangle's map from its true shape to the plane is w ↦ p·w + q·w̄; its principal stretches are |p| ± |q|.
    """
    p, q = planar_map(z, triangles, flat_side, area)
    wide, narrow = np.abs(p) + np.abs(q), np.abs(np.abs(p) - np.abs(q))
    return 1 / wide, 1 / np.maximum(narrow, 1e-9)


def planar_map(z: Complex, triangles: NDArray[np.integer], flat_side: Complex, area: Array) -> tuple[Complex, Complex]:
    """The map true shape → plane of each triangle as w ↦ p·w + q·w̄, (m,) each."""
    corner = z[triangles]
    one, two = corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]
    a, b = flat_side[:, 0], -flat_side[:, 2]
    twice = 2j * 2 * area  # conj(a)·b - a·conj(b)
    p = (two * a.conj() - one * b.conj()) / twice
    q = (one * b - two * a) / twice
    return p, q


class _Mixed:
    """Anderson mixing: the next place from the last few and what a plain step would have made of them.

    Kept are the changes from one step to the next, of the places and of the moves, (MEMORY - 1, 2 n), and how the
    latter lie against each other; of each only what is new is worked out.
    """

    def __init__(self, count: int) -> None:
        self._placed, self._moved = np.empty((2, MEMORY - 1, 2 * count))
        self._gram = np.empty((MEMORY - 1, MEMORY - 1))
        self._last: tuple[Array, Array] | None = None
        self._known = 0

    def forget(self) -> None:
        self._known = 0

    def mixed(self, z: Complex, plain: Complex) -> Complex:
        """The mixed step from z, (n,), where a plain one leads to `plain`; plain itself with nothing to mix."""
        place, move = plain.view(float), (plain - z).view(float)
        if self._last is not None:
            new = self._known % (MEMORY - 1)
            np.subtract(place, self._last[0], out=self._placed[new])
            np.subtract(move, self._last[1], out=self._moved[new])
            self._known += 1
        self._last = place, move
        held = min(self._known, MEMORY - 1)
        if not held:
            return plain
        moved = self._moved[:held]
        self._gram[new, :held] = self._gram[:held, new] = moved @ moved[new]
        gram = self._gram[:held, :held] * (1 + 1e-10 * np.eye(held))
        try:
            share = np.linalg.solve(gram, moved @ move)
        except np.linalg.LinAlgError:
            return plain
        if not np.isfinite(share).all():
            return plain
        return np.asarray((place - share @ self._placed[:held]).view(complex))


def _sound(vertices: Array, triangles: NDArray[np.integer]) -> None:
    if vertices.ndim != 2 or vertices.shape[1] != 3 or triangles.ndim != 2 or triangles.shape[1] != 3:
        raise InputError("vertices and triangles must each have three columns", "mesh", "give (n, 3) and (m, 3)")
    if not np.isfinite(vertices).all():
        raise InputError("a vertex is nowhere", "mesh", "give finite places")
    n, m = len(vertices), len(triangles)
    if m == 0 or triangles.min() < 0 or triangles.max() >= n:
        raise InputError("its triangles do not name its vertices", "mesh", f"number them 0 to {n - 1}")
    a, b = triangles.ravel(), np.roll(triangles, -1, axis=1).ravel()
    if len(np.unique(a * np.int64(n) + b)) < 3 * m:
        raise InputError("two triangles run the same way along a side", "mesh", "let all of them face one way")
    joined = scipy.sparse.csr_array((np.ones(3 * m), (a, b)), shape=(n, n))
    if scipy.sparse.csgraph.connected_components(joined, directed=False)[0] != 1:
        raise InputError("it is in more than one piece", "mesh", "flatten one piece at a time")
