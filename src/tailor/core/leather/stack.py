"""Stack: the layers that a seam goes through, and what follows from their thickness."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tailor.core.carried.loft import Array

THREAD_RULE = (8.0, 10.0)  # the bench rule for two needles: so many times the seam


@dataclass(frozen=True)
class Layer:
    """One layer in a stack: what it is, its thickness (mm) and the share of it left after skiving."""

    name: str
    thickness: float
    skive: float = 1.0

    @property
    def height(self) -> float:
        return self.thickness * self.skive


@dataclass(frozen=True)
class Stack:
    """Layers in order from the front."""

    layers: tuple[Layer, ...]

    @property
    def height(self) -> float:
        """Thickness of the whole, which is also how deep a hole must go, mm."""
        return sum(layer.height for layer in self.layers)

    def margin(self) -> float:
        """Stitch line to cut edge that suits this stack, mm: about 3 on thin goods, 5 to 7 on heavy ones."""
        return min(max(3.0, 2.0 + 0.4 * self.height), 7.0)


@dataclass(frozen=True)
class Profile:
    """A stack along its seam: at (n,) lengths along the seam, mm, each layer's height there, (n, layers), mm.

    names: the layers in order from the front.
    """

    at: Array
    names: tuple[str, ...]
    heights: Array

    @property
    def skives(self) -> tuple[tuple[str, float, float, float], ...]:
        """Where layers are thinned: the layer, from and to what length along the seam, and the share left there."""
        found = []
        for k, name in enumerate(self.names):
            whole = float(self.heights[:, k].max())
            thin = np.flatnonzero(self.heights[:, k] < whole - 1e-6)
            if len(thin):
                low, high = int(thin[0]), int(thin[-1])
                share = float(self.heights[thin, k].min()) / whole
                found.append((name, float(self.at[low]), float(self.at[high]), share))
        return tuple(found)


def thread_rule(length: float) -> tuple[float, float]:
    """The bench rule's least and most thread for a seam of that length, mm."""
    return THREAD_RULE[0] * length, THREAD_RULE[1] * length
