"""The legend: every band of the rule in its order, with its condition in small type; and the sides."""

from __future__ import annotations

from collections.abc import Sequence
from enum import Enum
from typing import TYPE_CHECKING

from marvex.core.rules.bands import Band
from marvex.core.values import dataclass
from marvex.views.drawing.box import Box
from marvex.views.drawing.labels import shortened
from marvex.views.drawing.style import Shape, Style
from marvex.views.drawing.text_metrics import measured

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

SWATCH, GAP, BETWEEN = 15.0, 8.0, 36.0
TICK = 3.5


class Swatch(Enum):
    """How a key is drawn: as a filled shape, as the tick of a base, as a line, or as figures in a colour."""

    FILL = "fill"
    TICK = "tick"
    LINE = "line"
    FIGURE = "figure"


@dataclass(frozen=True, slots=True, kw_only=True)
class LegendKey:
    """One entry: the band's name, its condition, and the fill and shape by which it is known."""

    name: str
    condition: str
    fill: str
    shape: Shape = Shape.SQUARE
    swatch: Swatch = Swatch.FILL


def band_keys(bands: Sequence[Band], style: Style) -> list[LegendKey]:
    """A key for every band, with the fill that its marks have."""
    return [
        LegendKey(name=band.name, condition=band.text, fill=style.fills[band.tone], shape=style.shapes[band.tone])
        for band in bands
    ]


def draw_legend(canvas: Canvas, keys: Sequence[LegendKey], box: Box, is_column: bool) -> float:
    """Draws the keys in rows (or one below another) from the box's top left; gives where they end."""
    scale, style = canvas.scale, canvas.style
    name_size, condition_size = canvas.sized(style.name_size), canvas.sized(style.name_size - 1.5)
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
        _draw_swatch(canvas, key, x, y - 0.36 * SWATCH * scale)
        text_at = x + (SWATCH + GAP) * scale
        canvas.text(name, text_at, y, name_size, style.ink)
        canvas.text(condition, text_at + name_width + GAP * scale, y, condition_size, style.soft)
        x += width + BETWEEN * scale
    return y + row * 0.38


def _draw_swatch(canvas: Canvas, key: LegendKey, left: float, middle: float) -> None:
    size = SWATCH * canvas.scale
    half = size / 2
    if key.swatch is Swatch.FILL:
        canvas.shape(key.shape, left + half, middle, size, key.fill)
    elif key.swatch is Swatch.TICK:
        canvas.rectangle(
            Box(
                left=left,
                top=middle - TICK * canvas.scale / 2,
                right=left + size,
                bottom=middle + TICK * canvas.scale / 2,
            ),
            key.fill,
        )
    elif key.swatch is Swatch.FIGURE:
        canvas.text("12", left + half, middle, size, key.fill, bold=True, align="center", middle=True)
    else:
        canvas.line(left, middle, left + size, middle, key.fill, 2.5 * canvas.scale)
