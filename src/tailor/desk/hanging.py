"""Hanging: the case on its belt as it is drafted, and beside it as it will really hang."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from tailor.core.carried.loft import Array, outline
from tailor.core.carried.weight import Body
from tailor.core.draft.draft import Carriage, Draft, Hang
from tailor.core.draft.worn.hang import thing
from tailor.core.job import Job
from tailor.core.settings import Settings
from tailor.desk import theme
from tailor.desk.scene import Scene, mirrored
from tailor.desk.scene_made_up import made_up, places_carried

APART = 46.0  # mm between the two
WORDS = 16.0  # mm kept for the words under each
FINGER = 11.0  # mm: what the object balances on
BEYOND = 16.0  # mm that the belt is shown beyond the case on either side


def turned(points: Array, about: tuple[float, float], angle: float) -> Array:
    """Points (n, 2) turned about a place by an angle, degrees, the way that takes the tip to the seam side."""
    turn = np.radians(angle)
    way = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    return np.asarray((points - about) @ way + about)


def carried(job: Job, made: Draft) -> Scene:
    """The case as drafted, upright as it is drawn, and as it hangs; only upright where it has nothing to hang by."""
    right = replace(made, mirrored=False)
    scene = made_up(right, job, bare=False)
    if made.carriage is not None and made.hang is not None and made.shell is not None and made.plan is not None:
        case = np.vstack([made.plan.outline, outline(made.shell.loft)])
        _hung(scene, job.settings, case, thing(job.settings, made.shell.loft)[0], (made.carriage, made.hang))
    return mirrored(scene) if made.mirrored else scene


def _hung(scene: Scene, settings: Settings, case: Array, body: Body, by: tuple[Carriage, Hang]) -> None:
    (on, hang), belt = by, settings.number("belt.width")
    every = np.vstack([points for points, _, _ in scene.fills])
    left, right = float(every[:, 0].min()), float(every[:, 0].max())
    upright, lines, behind = list(scene.fills), list(scene.lines), [on.outline]
    lying = turned(case, on.pivot, hang.rest)
    aside = np.array([right + APART + BEYOND - float(lying[:, 0].min()), 0.0])

    def lain(points: Array) -> Array:
        return np.asarray(turned(points, on.pivot, hang.rest) + aside)

    def band(low: float, high: float, at: Array, angle: float) -> Array:
        corners = np.array([(low, -belt / 2), (high, -belt / 2), (high, belt / 2), (low, belt / 2)])
        return turned(corners + at, (float(at[0]), float(at[1])), angle)

    pivot = np.array(on.pivot)
    reach = max(right - on.pivot[0], on.pivot[0] - left) + BEYOND / 2
    drawn = [(band(-reach, reach, pivot, -on.cant), theme.STRAP_DARK, 70)]
    level = pivot + aside
    spread = (float(lying[:, 0].min()) - on.pivot[0] - BEYOND, float(lying[:, 0].max()) - on.pivot[0] + BEYOND)
    drawn.append((band(*spread, level, 0.0), theme.STRAP_DARK, 70))
    scene.fills = drawn + upright + [(lain(points), colour, alpha) for points, colour, alpha in upright]
    scene.lines += [(kind, lain(points), closed) for kind, points, closed in lines]
    scene.outlines += [lain(points) for points in scene.outlines]
    scene.behind = [*behind, *(lain(points) for points in behind)]
    weight = lain(np.array([[hang.whole.x, hang.whole.y]]))[0]
    low = min(float(lying[:, 1].min()), float(weight[1])) - 4.0
    scene.lines += [("plumb", np.array([level, [level[0], low]]), False), ("plumb", weight + np.array([[-4.0, 0.0],
        [4.0, 0.0]]), False), ("plumb", weight + np.array([[0.0, -4.0], [0.0, 4.0]]), False)]  # fmt: skip
    foot = min(low, float(case[:, 1].min())) - WORDS / 2
    scene.captions = [((left + right) / 2, foot, "as drafted"), (float(level[0]), foot,
        f"as it hangs, {round(hang.rest, 1) + 0.0:.1f}°")]  # fmt: skip
    ends = np.vstack([points for points, _, _ in scene.fills])
    scene.room = (float(ends[:, 0].min()), foot - WORDS / 2, float(ends[:, 0].max()), float(ends[:, 1].max()))
    tip = np.array([body.x, body.y])
    finger = tip + np.array([(0.0, 0.0), (FINGER / 2, -FINGER), (-FINGER / 2, -FINGER)])
    scene.fills.append((finger, theme.PAPER, 235))
    scene.lines.append(("plumb", finger, True))
    places_carried(scene, on)
    at = scene.places
    at["object.mass"] = at["object.balance"] = (float(tip[0]), float(tip[1]))
    at["hang.rest"] = (float(level[0]), low)
    at["hang.slack"] = (float(level[0] + spread[1] * 0.5), float(level[1]))
    at["hang.foot"] = (float(level[0] + on.foot / 2), float(level[1]))
    at["hang.away"] = at["leather.density"] = (float(weight[0]), float(weight[1]))
