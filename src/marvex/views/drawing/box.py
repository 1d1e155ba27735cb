"""Rectangles in pixels, from the top left, and where text stands in them."""

from __future__ import annotations

from typing import Literal

from marvex.core.values import dataclass

Align = Literal["left", "center", "right"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Box:
    """A rectangle in pixels, `top` above `bottom` and so smaller."""

    left: float
    top: float
    right: float
    bottom: float

    @property
    def width(self) -> float:
        return self.right - self.left

    @property
    def height(self) -> float:
        return self.bottom - self.top

    @property
    def middle(self) -> tuple[float, float]:
        return (self.left + self.right) / 2, (self.top + self.bottom) / 2

    def meets(self, other: Box) -> bool:
        """Whether the two share any room."""
        return (
            self.left < other.right
            and other.left < self.right
            and self.top < other.bottom
            and other.top < self.bottom
        )

    def holds(self, other: Box) -> bool:
        """Whether the other lies wholly within."""
        return (
            self.left <= other.left
            and other.right <= self.right
            and self.top <= other.top
            and other.bottom <= self.bottom
        )
