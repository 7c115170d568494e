"""Readings: how a measure stands in a job and its draft, how it is said, and why it is what it is."""

from __future__ import annotations

import math
from dataclasses import dataclass

from tailor.core.draft.draft import Draft
from tailor.core.draft.tooled.asked import NUMBERED, Picture, Tooling, said_of
from tailor.core.job import Job
from tailor.core.keys import KEYS, MEASURES
from tailor.core.measure import Kind, Measure
from tailor.core.notes.notes import of_measure
from tailor.core.reason import Reason
from tailor.core.taken import Taken
from tailor.core.units import System, format_length, parse_length, retold

LABELS = {said.name: said.label for kind in (Tooling, Picture) for said in kind.SAID}
TOOLING = "tooling."  # what names of what can be set of what is tooled begin with


@dataclass(frozen=True)
class Reading:
    """A measure as it stands: its value, how it is said, whether it is pinned, and why it is what it is.

    learned: what its value was learned from, if it was.
    """

    measure: Measure
    value: float | str
    said: str
    pinned: bool
    reason: Reason | None
    learned: Taken | None = None

    @property
    def key(self) -> str:
        return self.measure.name

    @property
    def label(self) -> str:
        return self.measure.label

    @property
    def setting(self) -> Measure | None:
        """The measure, where it can be set; None for a number that only follows."""
        return None if self.measure.told else self.measure


def stands(job: Job, made: Draft, name: str) -> bool:
    """Whether a measure has a value in a job, though the draft may be of another."""
    if name.startswith(TOOLING):
        number, said = int(name.split(".")[1]), name.split(".")[2]
        return number <= min(len(job.tooling), len(made.tooled)) and said in said_of(job.tooling[number - 1])
    return name in job.settings or name in made.reasons or (name in KEYS and job.settings.default(name) is not None)


def of_tooling(job: Job, made: Draft, measure: Measure) -> Reading:
    """How what can be set of something that is tooled stands: as it is set, or as it found its own."""
    number, name = int(measure.name.split(".")[1]), measure.name.split(".")[2]
    asked, put = job.tooling[number - 1], made.tooled[number - 1]
    value, own = asked.value(name), {"width": put.width, "x": put.at[0], "y": put.at[1]}.get(name)
    if name == "depth":
        own = asked.deep(next((p.thickness for p in made.pieces if p.name == asked.piece), math.inf))
    shown = own if value is None and own is not None else value
    assert shown is not None, name
    if not isinstance(shown, str):
        shown = round(float(shown), 2)
    return Reading(measure, shown, measure.said(shown, job.units), value is not None and own is not None, None)


def reading(job: Job, made: Draft, measure: Measure) -> Reading:
    """How a measure stands in a job and its draft."""
    name = measure.name
    if name.startswith(TOOLING):
        return of_tooling(job, made, measure)
    reason = made.reasons.get(name)
    pinned = name in job.settings
    if pinned:
        value: float | str = job.settings.pinned[name]
    elif reason is not None:
        value = reason.value
    else:
        usual = job.settings.default(name)
        assert usual is not None, name
        value = usual
    learned = None if pinned else job.settings.learned(name)
    return Reading(measure, value, measure.said(value, job.units), pinned, reason, learned)


def told(text: str, units: System) -> str:
    """A sentence of the core's as the maker reads it: tags by their names, lengths in the maker's unit."""
    for name, measure in MEASURES.items():
        text = text.replace(name, measure.label)
    text = NUMBERED.sub(lambda found: LABELS.get(found[2], found[2]), text)
    return retold(text, units)


def why(reading: Reading, units: System) -> str:
    """Why a measure is what it is, in a few lines."""
    key, reason = reading.setting, reading.reason
    lines = [f"{reading.label.capitalize()}: {reading.said}"]
    note = of_measure(reading.key)
    because = [f"F1: {note.title[0].lower()}{note.title[1:]}."] if note else []
    if reason is None:
        assert key is not None
        lines.append(f"{key.meaning.capitalize()}.")
        usual = "Your own value." if reading.pinned else "The usual value; type your own to pin it."
        lines.append(usual if reading.learned is None else _as_learned(reading.learned))
        return "\n".join(lines + because)

    def number(value: float) -> str:
        return format_length(value, units) if reason.unit == "mm" else f"{value:g}{reason.unit.replace('count', '')}"

    lines.append(f"Because {reason.rule}." if not reason.pinned else "Pinned: your own value.")
    if reason.inputs:
        fed = ", ".join(f"{k.replace('_', ' ')} {v:.4g}" for k, v in reason.inputs.items())
        lines.append(f"From {fed} (lengths in mm).")
    if reason.others:
        lines.append("The computed value:" if reason.pinned else "What the other rules ask for:")
    lines += [f"  {number(max(value, 0.0))}, {rule}" for rule, value in reason.others.items()]
    return retold("\n".join(lines + because), units)


def _as_learned(taken: Taken) -> str:
    """Why a usual value is what it is, where it was learned."""
    return f"{taken.said[0].upper()}{taken.said[1:]}, where the table says {taken.table:.3g}."


def nudged(reading: Reading, job: Job, steps: int) -> str | None:
    """What to type to move a measure by so many of the maker's units; None where it cannot be nudged."""
    key = reading.setting
    if key is None or key.kind in (Kind.SIZES, Kind.WORD):
        return None
    if key.kind is Kind.CHOICE:
        words = job.settings.maker.words(key)
        at = words.index(str(reading.value)) if str(reading.value) in words else -1
        return words[(at + steps) % len(words)]
    assert not isinstance(reading.value, str)
    step = {Kind.COUNT: 1.0, Kind.ANGLE: 1.0, Kind.RATIO: 0.05}.get(key.kind, job.units.nudge)
    value = min(max(reading.value + steps * step, key.low), key.high)
    return f"{value:.6g}" + ("mm" if key.kind in (Kind.LENGTH, Kind.PITCH) else "")


def typed(reading: Reading, job: Job, text: str) -> str:
    """What the maker typed, with a leading + or - taken as a change to the present value."""
    key = reading.setting
    plain = text.strip()
    if key is None or key.kind not in (Kind.LENGTH, Kind.PITCH) or plain[:1] not in ("+", "-"):
        return text
    if key.low < 0 and plain[:1] == "-":
        return text  # a place that may itself be below nought
    change = parse_length(plain, job.units.bare, key.name)
    return f"{float(reading.value) + change:.6f}mm"
