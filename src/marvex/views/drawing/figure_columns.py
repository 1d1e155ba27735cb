"""The figures beside bars: rows under columns, and columns at the right of rows, with their headings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from marvex.core.rules.judging import Judged
from marvex.views.drawing.box import Box
from marvex.views.drawing.labels import LINE, Piece, wrapped
from marvex.views.drawing.look import Look
from marvex.views.drawing.text_metrics import widest

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

WIDEST_HEADING = 8.0  # of the type size: a longer one is wrapped
MOST_HEADING_LINES = 3

HEADINGS = {
    "current": "Current",
    "base": "Base",
    "change": "Change",
    "percent": "Change %",
    "contribution": "Contribution",
}


def headings(look: Look) -> dict[str, str]:
    """What the columns of figures are called: the sides by their names."""
    return HEADINGS | {"current": look.names.current, "base": look.names.base}


def _is_signed(figures: Sequence[str], what: str) -> bool:
    """Whether a figure has the sign before it: once in a row is enough."""
    return what == next((one for one in figures if one in ("change", "percent")), None)


def fitting_rows(
    canvas: Canvas, points: Sequence[Judged], look: Look, figures: Sequence[str], slot: float
) -> dict[str, list[Piece]]:
    """The rows of figures under the names that fit in their lanes, one size for each row."""
    found: dict[str, list[Piece]] = {}
    for what in figures:
        pieces = [look.piece(one, what, bold=not found, signed=_is_signed(figures, what)) for one in points]
        if max(piece.width(canvas.least) for piece in pieces) > slot * 0.94:
            pieces = [replace(piece, direction=None) for piece in pieces]
        if max(piece.width(canvas.least) for piece in pieces) <= slot * 0.94:
            found[what] = pieces
    return found


def fitting_columns(
    points: Sequence[Judged], look: Look, figures: Sequence[str], room: float, size: float
) -> dict[str, tuple[list[Piece], float]]:
    """The columns of figures at the right that fit in the room, changes before amounts, each with its width."""
    found = {}

    def pieces(what: str, among: Sequence[Judged]) -> list[Piece]:
        bold, signed = what in ("change", "percent"), _is_signed(figures, what)
        return [look.piece(one, what, bold=bold, signed=signed) for one in among]

    for what in sorted(figures, key=("change", "percent", "contribution", "current", "base").index):
        heading = widest(heading_lines(look, [what], size)[what], size)
        width = max(heading, *(piece.width(size) for piece in pieces(what, look.among(points))))
        room -= width + 1.2 * size
        if room >= 0:
            found[what] = pieces(what, points), width
    return {what: found[what] for what in figures if what in found}


def head_of_rows(canvas: Canvas, look: Look, figures: Sequence[str]) -> float:
    """So high the headings are over columns of figures; zero without any."""
    size = canvas.sized(look.style.name_size)
    lines = heading_lines(look, figures, size)
    return size * (LINE * max(map(len, lines.values())) + 0.5) if lines else 0.0


def heading_lines(look: Look, figures: Sequence[str], size: float) -> dict[str, tuple[str, ...]]:
    """The headings of columns of figures, wrapped and never cut."""
    found: dict[str, tuple[str, ...]] = {}
    for what in figures:
        heading, width = headings(look)[what], WIDEST_HEADING * size
        found[what] = wrapped(heading, width, size) or (heading,)
        while len(found[what]) > MOST_HEADING_LINES:
            width *= 1.2
            found[what] = wrapped(heading, width, size) or (heading,)
    return found


def draw_column(
    canvas: Canvas, pieces: Sequence[Piece | None], heading: Sequence[str], head: Box, slot: float, size: float
) -> None:
    """A column of figures that ends where its head does, and stands below it."""
    for place, line in enumerate(reversed(heading)):
        y = head.bottom - size * (0.5 + LINE * place)
        canvas.text(line, head.right, y, size, canvas.style.soft, align="right")
    for place, piece in enumerate(pieces):
        y = head.bottom + (place + 0.5) * slot + size * 0.36
        if piece is not None:
            piece.draw(canvas, head.right - piece.width(size), y, size)
