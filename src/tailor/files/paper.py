"""Papers a pattern can be printed on."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

PAPERS: Mapping[str, tuple[float, float]] = MappingProxyType({"a4": (210.0, 297.0), "letter": (215.9, 279.4)})  # mm
