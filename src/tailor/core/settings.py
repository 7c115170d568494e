"""The maker's settings: which keys are pinned, and to what, and the corrections of a job."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType

from tailor.core.corrections import Correction
from tailor.core.errors import InputError
from tailor.core.habit import Habit
from tailor.core.keys import KEYS, key
from tailor.core.leather.fastenings import Fastening
from tailor.core.leather.trimmings import Trimming
from tailor.core.maker import Maker
from tailor.core.maker import usual as usual_maker
from tailor.core.measure import AUTO, Kind, Measure, Value
from tailor.core.reason import Reason
from tailor.core.taken import Taken, nearest
from tailor.core.units import System


def _within(key: Measure, computed: Value | None, by: float) -> float:
    """A computed value as corrected, kept within what the key can be."""
    assert isinstance(computed, int | float)
    return float(min(max(computed + by, key.low), key.high))


@dataclass(frozen=True)
class Settings:
    """The pinned values of a job, and its corrections; everything else is worked out or default.

    taken: what its maker had learned when it was begun. usual: values of the job's construction that are not those of
    its measures; style: that construction. asked: the measures asked after so far. maker: who works by them.
    """

    pinned: Mapping[str, Value] = field(default_factory=dict)
    corrections: tuple[Correction, ...] = ()
    taken: tuple[Taken, ...] = ()
    style: str = field(default="", compare=False)
    usual: Mapping[str, Value] = field(default_factory=dict)
    asked: set[str] = field(default_factory=set, compare=False, repr=False)
    maker: Maker = field(default_factory=usual_maker, compare=False, repr=False)

    def __post_init__(self) -> None:
        checked = {name: key(name).checked(value) for name, value in self.pinned.items()}
        object.__setattr__(self, "pinned", MappingProxyType(checked))
        for correction in self.corrections:
            if not correction.easing and key(correction.on).kind is not Kind.LENGTH:
                raise InputError("it is not a length", f"correction of {correction.on}", "correct a length, or ease")

    def __reduce__(self) -> tuple[type[Settings], tuple[object, ...]]:
        """To be sent to another process."""
        return Settings, (
            dict(self.pinned), self.corrections, self.taken, self.style, dict(self.usual), set(), self.maker
        )  # fmt: skip

    def afresh(self) -> Settings:
        """The same settings, of which nothing has been asked yet."""
        return replace(self, asked=set())

    def __iter__(self) -> Iterator[str]:
        return iter(self.pinned)

    def __contains__(self, name: object) -> bool:
        self.asked.add(str(name))
        return name in self.pinned

    def pin(self, name: str, value: Value) -> Settings:
        return replace(self, pinned={**self.pinned, key(name).name: value})

    def release(self, name: str) -> Settings:
        """Back to the computed or default value."""
        key(name)
        return replace(self, pinned={k: v for k, v in self.pinned.items() if k != name})

    def default(self, name: str) -> Value | None:
        """The usual value of a measure in the job's construction, or as it was learned; None where it is worked out."""
        self.asked.add(name)
        learned = self.learned(name)
        return self.usual.get(name, KEYS[name].usual) if learned is None else learned.value

    def learned(self, name: str) -> Taken | None:
        """What was learned of a measure, for the leather, the way of moulding and the construction of the job."""
        if all(taken.constant != name for taken in self.taken):
            return None
        return nearest(self.taken, name, self.number("leather.thickness"), self.word("leather.temper"),
                       self.word("mould.method"), self.style)  # fmt: skip

    def corrected(self, name: str) -> float:
        """What corrections add to a measure that is not pinned, mm."""
        return sum(c.by for c in self.corrections if c.on == name)

    def typed(self, name: str, text: str, system: System = System.MM) -> Settings:
        """With what the maker typed for a key: a value in any unit, or `auto`."""
        if text.strip().lower() == AUTO:
            return self.release(name)
        return self.pin(name, key(name).parse(text, system, self.maker.words(key(name))))

    def number(self, name: str) -> float:
        """The number of a measure that has a usual value: the pinned one, or the usual as it was corrected."""
        self.asked.add(name)
        if name not in self.pinned and (by := self.corrected(name)):
            value: Value | None = _within(KEYS[name], self.default(name), by)
        else:
            value = self.pinned.get(name, self.default(name))
        assert isinstance(value, int | float), f"{name} is worked out by the draft"
        return float(value)

    def settled(self, reason: Reason) -> Reason:
        """The computed dimension, as it was learned and corrected; or the maker's own where it is pinned."""
        if (learned := self.learned(reason.name)) is not None:
            reason = reason.corrected(learned.value, learned.said)
        if reason.name in self:
            return reason.pin(self.number(reason.name))
        mine = [c for c in self.corrections if c.on == reason.name]
        if not mine:
            return reason
        because = "; ".join(c.because for c in mine)
        value = _within(KEYS[reason.name], reason.value, sum(c.by for c in mine))
        return reason.corrected(value, f"corrected after the mock-up: {because}")

    def habit(self, habit: Habit) -> float:
        """The number that the job's maker goes by."""
        return self.maker.habit(habit)

    def fastening_if(self, name: str) -> Fastening | None:
        """The fastening chosen; None where it is a word of the measure's own. Raises InputError for none there is."""
        word = self.word(name)
        return None if word in key(name).choices else self.maker.fastening(word, name)

    def fastening(self, name: str) -> Fastening:
        """The fastening chosen. Raises InputError when it is none there is."""
        return self.maker.fastening(self.word(name), name)

    def trimming(self, name: str) -> Trimming:
        """The trimming chosen. Raises InputError when it is none there is."""
        return self.maker.trimming(self.word(name), name)

    def word(self, name: str) -> str:
        """The word chosen, or the usual one."""
        return str(self.pinned.get(name, self.default(name)))
