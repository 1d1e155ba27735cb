"""What every picture has about it: title, subtitle, legend and foot line; between them the plot."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from marvex.core.values import dataclass
from marvex.views.drawing.box import Box
from marvex.views.drawing.labels import Fitted, fitted, fitted_or_cut
from marvex.views.drawing.legend import LegendKey, draw_legend

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

MARGIN = 46.0
SMALLER_TITLE = 0.82
COLUMN_OF_LEGEND = 0.22


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Framing:
    """The words of a picture, where its legend stands (`top`, `right` or `none`), and the remarks under it."""

    title: str
    subtitle: str
    foot: str
    legend: str = "top"
    notes: tuple[str, ...] = ()


def draw_frame(canvas: Canvas, framing: Framing, keys: Sequence[LegendKey]) -> Box:
    """Draws all but the plot, and gives the room that is left for it."""
    scale, style = canvas.scale, canvas.style
    left, right = MARGIN * scale, canvas.width - MARGIN * scale
    least = style.least_size * scale
    y = 36 * scale if framing.title else 24 * scale
    if framing.title:
        size, width = style.title_size * scale, right - left
        # A little smaller it may do with one line, which is better than two words on a second.
        title = fitted([framing.title], width, 1, size, SMALLER_TITLE * size, bold=True) or fitted_or_cut(
            framing.title, width, 2, size, 0.7 * size, bold=True
        )
        y = _lines(canvas, title, left, y, style.ink, bold=True) + 6 * scale
    if framing.subtitle:
        subtitle = fitted_or_cut(framing.subtitle, right - left, 2, style.subtitle_size * scale, least)
        y = _lines(canvas, subtitle, left, y, style.soft)
    top, plot_right = y + 12 * scale, right
    if keys and framing.legend == "top":
        top = (
            draw_legend(canvas, keys, Box(left=left, top=top - 4 * scale, right=right, bottom=canvas.height), False)
            + 16 * scale
        )
    elif keys and framing.legend == "right":
        plot_right = right - COLUMN_OF_LEGEND * canvas.width
        column = Box(left=plot_right + 28 * scale, top=top + 20 * scale, right=right, bottom=canvas.height)
        draw_legend(canvas, keys, column, True)
    bottom = _draw_foot(canvas, framing, left, right)
    return Box(left=left, top=top + 6 * scale, right=plot_right, bottom=bottom)


def _draw_foot(canvas: Canvas, framing: Framing, left: float, right: float) -> float:
    """The foot line at the bottom, above it the remarks; gives where the room above them ends."""
    scale, style = canvas.scale, canvas.style
    lines = fitted_or_cut(framing.foot, right - left, 3, style.foot_size * scale, style.least_size * scale)
    drawn = [(line, lines.size, style.soft) for line in lines.lines[0]]
    for note in reversed(framing.notes):
        fitted = fitted_or_cut(note, right - left, 3, style.subtitle_size * 0.9 * scale, style.least_size * scale)
        drawn = [(line, fitted.size, style.ink) for line in fitted.lines[0]] + drawn
    y = canvas.height - 24 * scale
    for place, (line, size, colour) in enumerate(reversed(drawn)):
        if framing.notes and place == len(lines.lines[0]):
            y -= 6 * scale
        canvas.text(line, left, y, size, colour)
        y -= size * 1.4
    return y + drawn[0][1] * 0.4 - 16 * scale


def _lines(canvas: Canvas, fitted: Fitted, x: float, y: float, colour: str, bold: bool = False) -> float:
    """Draws lines from `y` downwards and gives where they end."""
    for line in fitted.lines[0]:
        y += fitted.size * 1.0
        canvas.text(line, x, y, fitted.size, colour, bold=bold)
        y += fitted.size * 0.26
    return y
