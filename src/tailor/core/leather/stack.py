"""Stack: the layers that a seam goes through, and what follows from their thickness."""

from __future__ import annotations

from dataclasses import dataclass

THREAD_RULE = (8.0, 10.0)  # the bench rule for two needles: so many times the seam
TAIL = 150.0  # mm of thread left at each of the four ends to hold and tie off


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

    def thread(self, pitch: float, stitches: int) -> float:
        """Thread for a two-needle saddle stitch, mm: both threads cross the stack and run the spacing."""
        return 2 * stitches * (pitch + self.height) + 4 * TAIL

    def margin(self) -> float:
        """Stitch line to cut edge that suits this stack, mm: about 3 on thin goods, 5 to 7 on heavy ones."""
        return min(max(3.0, 2.0 + 0.4 * self.height), 7.0)


def thread_rule(length: float) -> tuple[float, float]:
    """The bench rule's least and most thread for a seam of that length, mm."""
    return THREAD_RULE[0] * length, THREAD_RULE[1] * length
