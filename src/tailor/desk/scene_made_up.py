"""Scene of a case made up: seen from the front with the object in it, or over a relief of it."""

from __future__ import annotations

from collections.abc import Iterator
from functools import singledispatch

import numpy as np

from tailor.core.carried.loft import Array, outline
from tailor.core.draft.draft import Carriage, Draft, Fitted
from tailor.core.draft.flat_goods.built import Built
from tailor.core.draft.piece import FLIP
from tailor.core.draft.tooled.put import IN_LEATHER
from tailor.core.draft.views.seen import Eye
from tailor.core.job import Job
from tailor.core.keys import MEASURES
from tailor.core.measure import Along
from tailor.desk import theme
from tailor.desk.scene import Scene, down, mirrored, sides_of, tie

SEEN = 0.2  # how far leather looks to the front, that is seen from there
ZONE_OUT = 7.0  # mm from the object to its zone bars


@singledispatch
def made_up(made: Draft, job: Job, bare: bool) -> Scene:
    """It made up, with what it holds in it. bare: the object stands out and the leather is only hinted at."""
    raise NotImplementedError


@made_up.register
def _(made: Built, job: Job, bare: bool) -> Scene:
    scene = Scene()
    for layer in made.shown:
        thing = layer.kind == "thing"
        scene.fills.append((layer.outline, theme.STUFF[layer.kind], 225 if thing else 70 if bare else 190))
        if thing:
            scene.outlines.append(layer.outline)
        else:
            scene.lines.append(("cut", layer.outline, True))
    scene.stations = [(s.x_spine, s.x_seam, s.y) for s in job.stations] if bare else []
    scene.lines += [] if bare else list(_tooled_up(made))
    return mirrored(scene) if made.mirrored else scene


def _tooled_up(made: Draft) -> Iterator[tuple[str, Array, bool]]:
    """What is tooled on leather that looks to the front, as it is seen once all is made up."""
    for piece in made.unmarked().pieces:
        lie = made.lies.get(piece.name)
        for rule in piece.rules if lie is not None else ():
            if rule.kind in IN_LEATHER and lie is not None:
                placed = lie(rule.points)
                if placed.out[:, 2].mean() > SEEN:
                    yield rule.kind, placed.at[:, :2], False


@made_up.register
def _(made: Fitted, job: Job, bare: bool) -> Scene:
    plan = made.plan
    mouth = made.value("mouth.y")
    thing = outline(made.shell.loft)
    fold_x = float(plan.outline[:, 0].min()) if plan.fold is None else float(plan.fold[-1, 0])
    scene = Scene()
    loop = plan.loop if made.carriage is None else made.carriage.outline
    if loop is not None:
        scene.fills.append((loop, theme.LEATHER, 40 if bare else 90))
        scene.behind.append(loop)
    if made.carriage is not None:
        scene.lines += [("cut", slot, True) for slot in made.carriage.slots]
    for part in made.lying:
        if part.behind:
            scene.fills.append((part.outline, theme.LEATHER, 90))
            scene.behind.append(part.outline)
    layers = [(thing, theme.STEEL, 225), (plan.outline, theme.LEATHER, 70 if bare else 190), (plan.strip,
        theme.WELTED, 110)]  # fmt: skip
    scene.fills += [layers[1], layers[0]] if bare else layers
    scene.outlines.append(thing)
    scene.lines += [("welt", plan.welt, False), ("stitch", plan.stitch, False), ("cut", plan.cut, False), ("cut",
        plan.mouth, False)]  # fmt: skip
    for part in made.lying:
        if not part.behind and not bare:
            scene.fills.append((part.outline, theme.LEATHER, 215))
            scene.lines.append(("cut", part.outline, True))
    if plan.fold is not None:
        scene.lines.append(("fold", plan.fold, False))
    scene.lines += [] if bare else list(_tooled_up(made))
    left = float(min(thing[:, 0].min(), fold_x)) - ZONE_OUT
    lanes: dict[int, float] = {}
    for i, zone in enumerate(job.zones):
        lane = next(n for n in range(9) if lanes.get(n, -1e9) <= zone.low + 1e-6)
        lanes[lane] = zone.high
        scene.zones.append((i, zone.kind.value, left - 7 * lane, zone.low, zone.high))
        scene.places[f"fit.{zone.kind}"] = (left - 7 * lane, 0.12 * zone.low + 0.88 * zone.high)
    if bare:
        scene.stations = [(s.x_spine, s.x_seam, s.y) for s in job.stations]
    _places_made_up(scene, made, fold_x, mouth)
    return mirrored(scene) if made.mirrored else scene


def relieved(job: Job, made: Draft, eye: Eye, room: tuple[float, float, float, float]) -> Scene:
    """What is drawn over a relief: from the front and from behind its stitches; measures are tied only in front."""
    scene = Scene(room=room)
    turned = (eye is Eye.BEHIND) != made.mirrored
    if eye is not Eye.EDGE and made.plan is not None:
        way = FLIP if turned else np.ones(2)
        scene.lines = [("stitch", made.plan.stitch * way, False), ("cut", made.plan.outline * way, True)]
    if eye is Eye.FRONT:
        scene.places = made_up(made, job, bare=False).places
    return scene


def _places_made_up(scene: Scene, made: Fitted, fold_x: float, mouth: float) -> None:
    plan, tip = made.plan, made.shell.loft.tip
    middle = float(np.mean([fold_x, made.standoff.x_seam.mean()]))
    lines = {
        Along.SEAM: down(plan.stitch), Along.INNER: down(plan.welt, mouth), Along.EDGE: down(plan.cut, mouth),
        Along.WELT: down(plan.stitch), Along.MOUTH: plan.mouth[plan.mouth[:, 0].argsort(kind="stable")],
        Along.MIDDLE: np.array([(middle, mouth), (middle, tip)]),
    }  # fmt: skip
    if plan.fold is not None:
        lines[Along.FOLD] = plan.fold if plan.fold[0, 1] > plan.fold[-1, 1] else plan.fold[::-1]
    tie(scene, lines)
    k = int(np.argmax(made.standoff.distance))
    x_welt, x_seam = float(made.standoff.x_welt[k]), float(made.standoff.x_seam[k])
    scene.places["seam.standoff"] = ((x_welt + x_seam) / 2, float(made.standoff.rows[k]))
    for part in made.lying:
        (left, low), (right, high) = part.outline.min(axis=0), part.outline.max(axis=0)
        mine = [name for name, m in MEASURES.items() if name.startswith(f"{part.name}.") and m.first]
        for k, name in enumerate(mine):
            beside = float(left if k % 2 else right)
            scene.places[name] = (beside, float(high - (k + 1) * (high - low) / (len(mine) + 1)))
    if made.carriage is not None:
        places_carried(scene, made.carriage)


def places_carried(scene: Scene, on: Carriage) -> None:
    """Where the measures of what it rides by are tied."""
    tie(scene, sides_of(on.outline.min(axis=0), on.outline.max(axis=0)))
    scene.places["loop.drop"] = on.pivot
