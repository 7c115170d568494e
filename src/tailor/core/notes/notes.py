"""The notes themselves. Each says which measures, themes and steps it is the reason of."""

from __future__ import annotations

from dataclasses import dataclass

from tailor.core.keys import MEASURES
from tailor.core.measure import Theme
from tailor.core.notes.picture import Stroke, arc, box, disc, row, sheet, stroke


@dataclass(frozen=True)
class Note:
    """title: what it answers. said: why. measures: keys, or how they begin, that it is the reason of; themes: of all
    their measures that have no other; steps: how their keys begin.
    """

    title: str
    said: str
    picture: tuple[Stroke, ...]
    measures: tuple[str, ...] = ()
    themes: tuple[Theme, ...] = ()
    steps: tuple[str, ...] = ()


_BEND = [(8.0, 44.0), (50.0, 44.0), *arc(50, 30, 14, 14, 90, -90), (8.0, 16.0)]
_INNER = [(8.0, 40.0), (50.0, 40.0), *arc(50, 30, 10, 10, 90, -90), (8.0, 20.0)]
_DOME = [(4.0, 14.0), (22.0, 14.0), *arc(50, 14, 24, 30, 180, 0), (78.0, 14.0), (96.0, 14.0)]

NOTES = (
    Note("Why bent leather is cut for its neutral line",
         "Bent leather is stretched outside and pressed together inside; only the line between keeps its length. It "
         "is that length which is cut, and where the line lies differs from hide to hide: measured once, the next "
         "one fits.",
         (sheet(_INNER, 8), stroke("neutral", *_BEND, said="keeps its length")),
         ("leather.neutral",)),
    Note("Why a fold needs length",
         "Leather cannot be folded to nothing: it goes round a small radius inside, about half its thickness. That "
         "round eats length, and the two sides stand apart by it. Thinned or gouged it turns tighter, and needs "
         "less.",
         (sheet(_INNER, 8), stroke("measure", (40.0, 40.0), (40.0, 20.0), said="two radii")),
         ("leather.fold_radius", "fold.", "roll."), (), ("fold",)),
    Note("Why thickness sets everything",
         "Fold, welt, margin, post, hole and stamp all follow from how thick the leather is; and temper says whether"
         " it holds a shape that is pressed into it, or drapes. Measure it, and do not trust the tag of the hide.",
         (box("leather", 10, 34, 80, 4), box("leather", 10, 14, 80, 12),
          stroke("measure", (94.0, 14.0), (94.0, 26.0), said="")),
         ("leather.thickness", "leather.temper", "leather.density", "lining.thickness", "board."),
         (Theme.LEATHER,)),
    Note("Why the hide has a direction",
         "Leather stretches more across the backbone than along it. What carries runs along it; what must give to a "
         "hollow lies across. Textured grain runs the same way on all that is seen.",
         (box("leather", 12, 8, 76, 44), stroke("measure", (20.0, 30.0), (80.0, 30.0), said="along"),
          stroke("measure", (68.0, 14.0), (68.0, 46.0), said="gives")),
         ("leather.turn", "leather.stretch", "leather.gather")),
    Note("Why there is room round the object",
         "Leather that is cut to the object itself does not slide: edges want a millimetre or more, a point more "
         "than that. Lining, foam and film count as object. No room can be finer than the object was measured.",
         (disc("thing", 50, 30, 48, 22), sheet(list(arc(50, 30, 30, 17, 0, 360)), 5),
          stroke("measure", (74.0, 30.0), (80.0, 30.0), said="")),
         ("fit.clearance", "fit.edge", "fit.point", "fit.trigger", "fit.control", "inside."), (Theme.FIT,), ("try",)),
    Note("Why leather cannot come down like a wall",
         "Over the side of an object leather comes down at a slope, steeper where it is soft. Where it meets the "
         "welt depends on how high the object stands: that is why the seam keeps off it, and most at a blunt end.",
         (box("thing", 34, 14, 32, 22), sheet([(4.0, 14.0), (16.0, 14.0), (34.0, 37.0), (66.0, 37.0), (84.0, 14.0),
                                               (96.0, 14.0)], 5),
          stroke("measure", (16.0, 10.0), (34.0, 10.0), said="stands off")),
         ("fit.approach", "fit.toe", "seam.toe", "seam.standoff", "mould.end")),
    Note("Why the welt stands between edge and thread",
         "A blade that is drawn and put back runs along the seam. It must meet the welt, never the thread: so the "
         "welt's inner edge faces the edge, and the stitches stand behind it. It is as thick as keeps the blade free"
         " of pinch.",
         (stroke("thing", (6.0, 24.0), (6.0, 36.0), (58.0, 30.0)), box("leather", 6, 38, 88, 7),
          box("leather", 6, 15, 88, 7), box("welt", 64, 22, 30, 16), stroke("stitch", (80.0, 12.0), (80.0, 48.0))),
         ("welt.", "seam.rivets", "object.sharp"), (Theme.WELT,)),
    Note("Why ends are thinned",
         "A welt that runs into a fold, or a lining into a turned edge, makes a lump there. Thinned to about half "
         "over its last stretch it is not seen, and the seam's foot has no hill to climb.",
         (sheet([(6.0, 20.0), (94.0, 20.0)], 7), stroke("welt", (6.0, 28.0), (94.0, 28.0), (94.0, 30.0), (60.0, 38.0),
                                                       (6.0, 38.0))),
         ("welt.skive",), (), ("thin",)),
    Note("Why the margin grows with the stack",
         "Thread bears on the leather between the stitch line and the edge. The higher the stack, the more of it is "
         "wanted, or the edge tears and will not be trued: three millimetres on thin goods, five to seven on thick "
         "ones.",
         (box("leather", 10, 30, 80, 8), box("leather", 10, 22, 80, 8), stroke("stitch", (68.0, 18.0), (68.0, 42.0)),
          stroke("measure", (68.0, 48.0), (90.0, 48.0), said="margin")),
         ("seam.margin", "seam.stitch_inset", "seam.fairing"), (Theme.SEAM,)),
    Note("Why holes are counted",
         "Two edges that are sewn together are seldom as long as each other. With the same number of holes in both, "
         "begun from the middle, they come out level; a running stitch in two passes wants an odd number to fall "
         "into step.",
         (stroke("cut", (8.0, 44.0), (92.0, 44.0)), row(12, 38, 88, 38, 11), stroke("cut", *arc(50, -20, 58, 44, 140,
          40)),
          row(16, 12, 84, 12, 11)),
         ("seam.pitch", "stitch.count", "stitch.marks"), (), ("pierce", "groove")),
    Note("Why the ends of a seam are special",
         "The first hole stands a margin in from the end, or it tears out. An end that takes strain is wrapped over "
         "its edge and sewn back two stitches: thread holds by what lies beside it, not by its knot.",
         (box("leather", 10, 18, 80, 24), row(22, 30, 86, 30, 9), stroke("stitch", (22.0, 30.0), (10.0, 30.0)),
          stroke("measure", (10.0, 48.0), (22.0, 48.0), said="")),
         ("seam.first_hole", "seam.fold_hole", "stitch.back", "stitch.wrap")),
    Note("Why thread, hole and stitch go together",
         "A hole that is too small cuts the thread, too large it lets it slip; an awl, a drill and a machine each "
         "leave another. Thread too thin for its spacing looks lost, too thick crowds it. Thread runs out where it "
         "was guessed.",
         (box("leather", 8, 16, 84, 28), row(16, 30, 84, 30, 8), stroke("stitch", (16.0, 30.0), (84.0, 30.0))),
         ("stitch.", "seam.hole", "seam.thread"), (Theme.STITCH,), ("sew",)),
    Note("Why it is cut proud and trued",
         "Layers that were cut to size are never flush once they are glued. Cut a few millimetres proud and trimmed "
         "together they are; and only a true edge gives a stitch line that lands in the same place on both faces.",
         (box("leather", 8, 36, 70, 8), box("welt", 8, 27, 82, 9), box("leather", 8, 18, 70, 9),
          stroke("cut", (78.0, 10.0), (78.0, 52.0), said="trimmed")),
         ("welt.proud", "lining.feather"), (), ("true", "trim")),
    Note("Why wet leather is cut short, and dries smaller",
         "Pressed wet, leather grows by what it gives; so it is cut shorter by as much. On drying it draws in again,"
         " and holds what it was pressed on. How much of both is your hand's and your hide's: mark a length, and "
         "measure it.",
         (stroke("thing", *arc(50, 14, 22, 22, 180, 0)), sheet(_DOME, 6), stroke("measure", (22.0, 8.0), (78.0, 8.0))),
         ("mould.stretch", "mould.shrink", "mould.method", "panel.give"), (Theme.MOULD,), ("mould",)),
    Note("Why a hollow is followed only so far",
         "Fingers press a valley as round as they are, a bone goes sharper, boards sharpest. Where a hollow is "
         "narrower than that, leather bridges it. The blank is left larger: its edge is drawn in, and must be held "
         "by something.",
         (stroke("thing", (4.0, 10.0), (4.0, 40.0), (40.0, 40.0), (50.0, 18.0), (60.0, 40.0), (96.0, 40.0), (96.0,
          10.0)),
          sheet([(4.0, 41.0), (38.0, 41.0), *arc(50, 41, 12, 9, 180, 360), (62.0, 41.0), (96.0, 41.0)], 6)),
         ("mould.valley", "mould.margin", "mould.where")),
    Note("Why the mouth is where it is",
         "The grip stays free for two or three fingers, the edge is covered always, and something must be left to "
         "hold on to. A mouth that is scooped lets the thumb in; one that stands too wide gapes.",
         (stroke("leather", (20.0, 6.0), (30.0, 4.0), (70.0, 4.0), (80.0, 6.0), (80.0, 40.0), (50.0, 33.0), (20.0,
          40.0)),
          box("thing", 44, 34, 12, 22)),
         ("mouth.", "back.", "notch.", "pull."), (Theme.MOUTH,)),
    Note("Why a loop is longer than the belt is wide",
         "It goes round the belt's width and thickness, has free play, and is fixed back; its bends eat leather like"
         " any fold. A wide foot resists tilting, a canted one lets the object clear the leg.",
         (box("thing", 44, 14, 8, 34), sheet([(30.0, 4.0), (38.0, 8.0), (38.0, 48.0), *arc(48, 50, 10, 6, 180, 0),
                                              (58.0, 50.0), (58.0, 8.0), (66.0, 4.0)], 4)),
         ("loop.", "belt.", "carry.", "slots."), (Theme.BELT, Theme.HANG)),
    Note("Why a strap is a girth and more",
         "A keeper goes round object and case where they are narrowest and can be reached: a girth, and an overlap "
         "to close on. A strap of soft leather stretches, unless webbing is in it.",
         (disc("thing", 50, 28, 40, 30), sheet([(24.0, 52.0), *arc(50, 28, 24, 19, 130, 410), (44.0, 52.0)], 4)),
         ("keeper.", "strap.", "tie.", "handle.", "under."), (Theme.KEEPER, Theme.STRAP)),
    Note("Why a gusset is cut to its length",
         "Sewn from the middle outward, with the same counts and the same count round each corner, the tops come out"
         " level. A gusset that is too long bunches at its corners, and nothing sewn will take that out.",
         (stroke("leather", (18.0, 52.0), (18.0, 18.0), *arc(30, 18, 12, 12, 180, 270), *arc(70, 18, 12, 12, 270, 360),
                 (82.0, 52.0)),
          row(22, 50, 22, 20, 6), row(78, 50, 78, 20, 6), row(32, 10, 68, 10, 7)),
         ("gusset.", "divider.", "wall.")),
    Note("Why a boxed corner is half the depth",
         "The sides are sewn, the corner is pulled to a triangle and sewn across: what is cut out is a square of "
         "half the depth, marked after the allowances.",
         (stroke("leather", (10.0, 52.0), (90.0, 52.0), (90.0, 24.0), (72.0, 24.0), (72.0, 6.0), (10.0, 6.0)),
          stroke("measure", (72.0, 10.0), (90.0, 10.0), said="half"), stroke("fold", (10.0, 24.0), (72.0, 24.0))),
         ("corner.", "bottom.", "tray.", "rim.")),
    Note("Why inside is less than outside",
         "A padded box holds its panel less twice the seam's allowance and the foam. Everything that lines it takes "
         "from what is held, on both sides; so the panel is reckoned from the inside out.",
         (box("leather", 8, 8, 84, 44), box("foam", 14, 14, 72, 32), box("thing", 22, 22, 56, 16),
          stroke("measure", (8.0, 4.0), (22.0, 4.0), said="")),
         ("foam.", "lining.", "panel.", "cover.", "holster."), (Theme.LINING, Theme.INSIDE)),
    Note("Why a pocket is no deeper than the fingers reach",
         "Deep enough to hold, shallow enough to load and to get the last thing out. A puckered one is wider at its "
         "top than at its base; leather over a tool bows, and is wider than the distance between its rows.",
         (box("leather", 20, 6, 60, 48), stroke("welt", (28.0, 10.0), (72.0, 10.0), (76.0, 36.0), (24.0, 36.0)),
          stroke("measure", (84.0, 10.0), (84.0, 36.0), said="reach")),
         ("patch", "pocket.", "tools.", "zip.", "stamp."), (Theme.SEWN_ON, Theme.SHAPE)),
    Note("Why a flap comes so far down",
         "It must lie over the mouth with its fold eaten, and reach far enough that what is inside does not lift it."
         " Its button stands where a thumb finds it, and clears what lies under it.",
         (box("leather", 24, 6, 52, 34), sheet([(24.0, 40.0), (24.0, 50.0), (76.0, 50.0), (76.0, 40.0)], -2),
          stroke("welt", (24.0, 48.0), (76.0, 48.0), (70.0, 22.0), (30.0, 22.0)), stroke("hole", (50.0, 27.0))),
         ("flap.",), (Theme.FLAP,)),
    Note("Why posts are measured",
         "A post must go through the whole stack and leave so much to be set. Too long it bends, too short it lets "
         "go; its hole must cut no thread hole, and its back must still be reached with an anvil.",
         (box("leather", 14, 30, 72, 8), box("leather", 14, 22, 72, 8), box("thing", 47, 18, 6, 26),
          box("thing", 40, 44, 20, 4), box("thing", 40, 14, 20, 4)),
         ("seam.lanyard",), (Theme.FASTENING,), ("hardware", "boards")),
    Note("Why glue is kept to the seam",
         "Glue where the object slides holds it for ever. Contact cement goes on both faces, waits until it is "
         "tacky, and gives one chance to place; layers that will be bent are glued bent, or the inner one bunches.",
         (box("leather", 8, 12, 84, 36), box("welt", 74, 12, 18, 36), stroke("stitch", (83.0, 12.0), (83.0, 48.0))),
         (), (), ("glue", "join")),
    Note("Why edges are finished before they are buried",
         "A mouth, a loop or a pocket's top is out of reach once it is sewn in. While pieces lie flat their edges "
         "are bevelled, damped, sanded and burnished; what is open afterwards is done last, all layers as one.",
         (stroke("leather", (10.0, 12.0), (90.0, 12.0), (90.0, 40.0), (84.0, 46.0), (16.0, 46.0), (10.0, 40.0)),
          stroke("cut", (10.0, 40.0), (16.0, 46.0), (84.0, 46.0), (90.0, 40.0), said="")),
         (), (), ("edge", "edges", "wax", "coat", "dye")),
    Note("Why one length is measured on paper",
         "Printers scale without saying so. If one printed length is right, all are; if it is not, the whole pattern"
         " is off by as much. Mark grain side, flesh side, top and side on every piece: traced wrong side up it is "
         "scrap.",
         (box("foam", 12, 6, 76, 48), stroke("cut", (20.0, 44.0), (70.0, 44.0), (70.0, 14.0), (20.0, 14.0), (20.0,
          44.0)),
          stroke("measure", (20.0, 11.0), (80.0, 11.0), said="100")),
         ("hand",), (), ("mark", "cut")),
    Note("Why leather is stamped damp and flat",
         "Leather takes an impression when it is damp and back at its own colour, thick enough, and on something "
         "hard; so it is stamped after it is cut and before dye, oil and glue.",
         (box("leather", 8, 14, 84, 14), box("thing", 42, 26, 16, 26), box("foam", 4, 6, 92, 8)),
         (), (), ("damp", "stamp")),
    Note("Why what is tooled keeps clear of edges and holes",
         "A tool pushes leather before it: near an edge it bulges out, over holes it closes them, across a fold it "
         "breaks. So a field is set back twice the stitch margin, clear of folds and of all that is set or sewn on; "
         "its corners are drawn with something round.",
         (box("leather", 8, 6, 84, 48), row(14, 12, 86, 12, 12), row(14, 48, 86, 48, 12),
          stroke("border", (24.0, 18.0), (76.0, 18.0), *arc(76, 22, 4, 4, 270, 360), *arc(76, 38, 4, 4, 0, 90),
                 *arc(24, 38, 4, 4, 90, 180), *arc(24, 22, 4, 4, 180, 270), (24.0, 18.0)),
          stroke("measure", (50.0, 6.0), (50.0, 18.0), said="twice")),
         ("tool.",), (Theme.TOOLING,), ("carve", "bevel")),
    Note("Why a texture begins from a diagonal",
         "The eye forgives a row that leans, and sees at once one that should be straight and is not. So a woven stamp "
         "follows one light diagonal through the middle, row by row, and ends alike on both sides.",
         (box("leather", 14, 6, 72, 48), stroke("fold", (26.0, 6.0), (74.0, 54.0)), stroke("welt", (40.0, 6.0), (86.0,
          52.0)), stroke("welt", (14.0, 8.0), (60.0, 54.0))),
         (), (), ("strike", "trace")),
    Note("Why leather is backed before it is tooled",
         "Damp leather that is pressed grows, and would come out longer than its pattern. Tape or card on its back "
         "holds it; it comes off before anything else, since gum that is left on leather stays.",
         (box("leather", 10, 28, 80, 10), box("foam", 10, 20, 80, 6), box("thing", 44, 38, 12, 16)),
         (), (), ("back", "peel")),
    Note("Why what is carried is weighed",
         "A case hangs by where its weight is. Above the belt it tips outward, far below it swings; so the loop "
         "stands where the whole of it, with what it holds, comes to hang as it is wanted.",
         (box("thing", 20, 44, 60, 8), stroke("leather", (44.0, 44.0), (58.0, 44.0), (62.0, 6.0), (48.0, 6.0)),
          stroke("measure", (53.0, 44.0), (53.0, 24.0), said="")),
         ("object.",)),
)  # fmt: skip


def of_measure(name: str) -> Note | None:
    """The note that is the reason of a measure: by its key, by how that begins, or by its theme."""
    keyed = [(key, note) for note in NOTES for key in note.measures if name == key or name.startswith(key)]
    if keyed:
        return max(keyed, key=lambda each: len(each[0]))[1]
    theme = MEASURES[name].theme if name in MEASURES else None
    return next((note for note in NOTES if theme in note.themes), None)


def of_step(key: str) -> Note | None:
    """The note that is the reason of a step."""
    word = key.split(" ")[0]
    return next((note for note in NOTES if word in note.steps), None)
