"""Hides and pieces to lay on them, and what must hold of all that lies, by arithmetic of its own."""

from __future__ import annotations

import numpy as np
import shapely
import shapely.affinity

from tailor.core.cut.laying import Grade, Hide, Laid, Laying, Template, Turns, Wanted, Zone

WIDE, HIGH = 1500.0, 800.0


def box(wide: float, high: float, at: tuple[float, float] = (0.0, 0.0)) -> np.ndarray:
    return np.array([[0, 0], [wide, 0], [wide, high], [0, high]]) + np.array(at)


def star(rng: np.random.Generator, reach: float, at: tuple[float, float] = (0.0, 0.0)) -> np.ndarray:
    """A random outline, often with hollows."""
    turn = np.sort(rng.uniform(0, 2 * np.pi, rng.integers(5, 14)))
    turn = turn[np.concatenate([[True], np.diff(turn) > 0.15])]
    far = rng.uniform(0.35, 1.0, len(turn)) * reach
    ring = np.column_stack([np.cos(turn), np.sin(turn)]) * far[:, None] + at
    return ring if shapely.Polygon(ring).is_valid and len(ring) > 2 else box(reach, reach / 2, at)


def side(seed: int) -> Hide:
    """A side of leather: straight at the back, wavy elsewhere, with scars, a loose belly and a prime back."""
    rng = np.random.default_rng(seed)
    low = [(x, 60 + 50 * np.sin(x / 170 + seed) + rng.uniform(0, 15)) for x in np.arange(0, WIDE + 1, 50)]
    ring = np.array([*low, (WIDE - 20, HIGH), (30, HIGH)])
    scars = tuple(star(rng, 25, at) for at in ((400, 300), (900, 500), (1200, 250)))
    loose = Zone("belly", Grade.LOOSE, box(WIDE, 260))
    prime = Zone("prime", Grade.PRIME, box(800, 350, (200, 440)))
    return Hide("side", ring, scars, (loose, prime))


def pieces(seed: int, share: float, hide: Hide) -> tuple[Template, ...]:
    """Random pieces of a share of a hide, some wanting this, some that, each turned as it may be."""
    rng = np.random.default_rng(seed)
    kinds = [Wanted.ANY, Wanted.ANY, Wanted.NOT_LOOSE, Wanted.PRIME]
    turns = [Turns(), Turns((0.0, 180.0), 0.0), Turns((90.0,), 8.0)]
    made, area = [], 0.0
    straps = [Template(f"strap {n}", "strap", box(40, 600), turns=Turns((90.0, -90.0), 5.0), wanted=Wanted.BACK_BAND)
              for n in range(2)]  # fmt: skip
    while area < share * hide.whole.area:
        ring = star(rng, rng.uniform(30, 110)) if rng.random() < 0.5 else box(*rng.uniform(40, 200, 2))
        made.append(Template(f"p{len(made)}", "p", ring, turns=turns[len(made) % 3], may_flip=bool(len(made) % 2),
                             wanted=kinds[len(made) % 4]))  # fmt: skip
        area += made[-1].shape.area
    return (*straps, *made)


def between(a: np.ndarray, b: np.ndarray) -> float:
    """The least distance of two rings by each corner of one to each side of the other; 0 where they cross."""
    least = np.inf
    for one, other in ((a, b), (b, a)):
        begin, way = other, np.roll(other, -1, axis=0) - other
        to = one[:, None] - begin[None]
        along = np.clip((to * way).sum(-1) / (way**2).sum(-1), 0, 1)
        least = min(least, float(np.linalg.norm(to - along[..., None] * way, axis=-1).min()))
    p, r = a[:, None], (np.roll(a, -1, axis=0) - a)[:, None]
    q, s = b[None], (np.roll(b, -1, axis=0) - b)[None]
    cross = r[..., 0] * s[..., 1] - r[..., 1] * s[..., 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = ((q - p)[..., 0] * s[..., 1] - (q - p)[..., 1] * s[..., 0]) / cross
        u = ((q - p)[..., 0] * r[..., 1] - (q - p)[..., 1] * r[..., 0]) / cross
    return 0.0 if np.any((t > 0) & (t < 1) & (u > 0) & (u < 1)) else least


def inside(points: np.ndarray, ring: np.ndarray) -> np.ndarray:
    """Whether points lie within a ring, by counting its sides to their right."""
    a, b = ring, np.roll(ring, -1, axis=0)
    above = (a[None, :, 1] > points[:, None, 1]) != (b[None, :, 1] > points[:, None, 1])
    with np.errstate(divide="ignore", invalid="ignore"):
        x = a[:, 0] + (points[:, None, 1] - a[:, 1]) / (b[:, 1] - a[:, 1]) * (b[:, 0] - a[:, 0])
    return np.asarray((above & (points[:, None, 0] < x)).sum(axis=1) % 2 == 1)


def holds(laying: Laying, laid: tuple[Laid, ...]) -> None:
    """Every rule of a laying, asked without the means it was laid by."""
    assert len({one.id for one in laid}) == len(laid)
    there = {}
    for one in laid:
        template = laying.template(one.id)
        hide = next(h for h in laying.hides if h.id == one.hide)
        turn = np.radians(one.degrees)
        flat = template.ring * ([1, -1] if one.mirrored else [1, 1])
        ring = np.column_stack([
            flat[:, 0] * np.cos(turn) - flat[:, 1] * np.sin(turn) + one.move[0],
            flat[:, 0] * np.sin(turn) + flat[:, 1] * np.cos(turn) + one.move[1],
        ])  # fmt: skip
        there[one.id] = ring
        assert template.may_flip or not one.mirrored
        off = min(abs((one.degrees - base + 180) % 360 - 180) for base in template.turns.bases)
        assert off <= template.turns.play + 1e-6
        rows = np.vstack([ring + (np.roll(ring, -1, axis=0) - ring) * t for t in np.linspace(0, 1, 9)[:-1]])
        assert inside(rows, hide.ring).all()
        for scar in hide.forbidden:
            assert not inside(rows, scar).any()
            assert not inside(scar, ring).any()
        zones = {grade: [z.ring for z in hide.zones if z.grade is grade] for grade in Grade}
        if template.wanted is Wanted.PRIME and zones[Grade.PRIME]:
            assert all(inside(rows, zone).all() for zone in zones[Grade.PRIME])
        elif template.wanted in (Wanted.NOT_LOOSE, Wanted.PRIME):
            assert not any(inside(rows, zone).any() for zone in zones[Grade.LOOSE])
        elif template.wanted is Wanted.BACK_BAND:
            assert ring[:, 1].min() >= hide.ring[:, 1].max() - laying.band - 1e-6
    ids = list(there)
    for n, a in enumerate(ids):
        for b in ids[n + 1 :]:
            gap = max(laying.template(a).gap, laying.template(b).gap)
            assert between(there[a], there[b]) >= gap - 1e-6
            assert not inside(there[a][:1], there[b])[0]
            assert not inside(there[b][:1], there[a])[0]
