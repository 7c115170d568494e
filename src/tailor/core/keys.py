"""The keys of a job: every measure that is declared anywhere in the core, gathered from the rooms that own them."""

from __future__ import annotations

import pkgutil
from collections.abc import Iterator, Mapping
from functools import cached_property
from importlib import import_module
from types import MappingProxyType

from tailor.core.errors import InputError
from tailor.core.incoming import quoted
from tailor.core.measure import AUTO, Kind, Measure, Value

ROOMS = ("carried.zones", "carried.weight", "leather.leather", "leather.moulding", "leather.stitching", "shell.taut")
DRAFTS = "draft"  # every room of which may own some


def _rooms() -> Iterator[str]:
    yield from (f"tailor.core.{room}" for room in ROOMS)
    package = import_module(f"tailor.core.{DRAFTS}")
    yield from sorted(found.name for found in pkgutil.walk_packages(package.__path__, f"{package.__name__}."))


class _Declared(Mapping[str, Measure]):
    """Measures by name, gathered when they are first asked for. told: those too that only follow from others."""

    def __init__(self, told: bool) -> None:
        self._told = told

    @cached_property
    def _found(self) -> Mapping[str, Measure]:
        found: dict[str, Measure] = {}
        for room in _rooms():
            for measure in getattr(import_module(room), "MEASURES", ()):
                assert measure.name not in found, f"{measure.name} is declared twice"
                if self._told or not measure.told:
                    found[measure.name] = measure
        return MappingProxyType(found)

    def __getitem__(self, name: str) -> Measure:
        return self._found[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._found)

    def __len__(self) -> int:
        return len(self._found)


MEASURES: Mapping[str, Measure] = _Declared(told=True)
KEYS: Mapping[str, Measure] = _Declared(told=False)


def key(name: str) -> Measure:
    """The measure that can be set by a name. Raises InputError with the nearest name when there is none."""
    if name in KEYS:
        return KEYS[name]
    import difflib  # only wanted for a key that is misspelled

    near = difflib.get_close_matches(name, KEYS, n=1)
    hint = f"perhaps {near[0]} was meant" if near else "see tailor new --help for the list"
    raise InputError("no such setting", quoted(name), hint)


__all__ = ["AUTO", "KEYS", "MEASURES", "Kind", "Measure", "Value", "key"]
