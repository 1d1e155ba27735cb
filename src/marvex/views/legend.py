"""The legend: every band of the rule in its order, with its condition in small type."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from marvex.views.canvas import Box, Canvas, measured
from marvex.views.labels import shortened
from marvex.views.style import Shape

SWATCH, GAP, BETWEEN = 15.0, 8.0, 36.0


@dataclass(frozen=True, slots=True)
class LegendKey:
    """One entry: the band's name, its condition, and the fill and shape by which it is known."""

    name: str
    condition: str
    fill: str
    shape: Shape = Shape.SQUARE


def draw_legend(canvas: Canvas, keys: Sequence[LegendKey], box: Box, is_column: bool) -> float:
    """Draws the keys in rows (or one below another) from the box's top left; gives where they end."""
    scale, style = canvas.scale, canvas.style
    name_size, condition_size = style.name_size * scale, (style.name_size - 1.5) * scale
    row = 27 * scale
    x, y = box.left, box.top + row * 0.62
    for key in keys:
        condition = shortened(key.condition, box.width * 0.6, condition_size)
        name = shortened(key.name, box.width * 0.5, name_size)
        name_width = measured(name, name_size).width
        width = (SWATCH + GAP) * scale + name_width
        if condition:
            width += GAP * scale + measured(condition, condition_size).width
        if x > box.left and (is_column or x + width > box.right):
            x, y = box.left, y + row
        half = SWATCH * scale / 2
        canvas.shape(key.shape, x + half, y - 0.86 * SWATCH * scale + half, SWATCH * scale, key.fill)
        text_at = x + (SWATCH + GAP) * scale
        canvas.text(name, text_at, y, name_size, style.ink)
        canvas.text(condition, text_at + name_width + GAP * scale, y, condition_size, style.soft)
        x += width + BETWEEN * scale
    return y + row * 0.38
