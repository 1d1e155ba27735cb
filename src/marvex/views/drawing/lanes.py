"""Points side by side along one direction, their values along the other: columns, or rows where horizontal."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from typing import TYPE_CHECKING

from marvex.core.compare.point import Point
from marvex.core.exact import ZERO
from marvex.core.rules.judging import Judged
from marvex.core.values import dataclass
from marvex.core.words.units import FigureFormat
from marvex.views.drawing.axes import ValueAxis, draw_tints, names_below
from marvex.views.drawing.box import Box
from marvex.views.drawing.figure_columns import (
    draw_column,
    fitting_columns,
    fitting_rows,
    head_of_rows,
    heading_lines,
    headings,
)
from marvex.views.drawing.labels import LINE, Label, Spot, shortened, wrapped
from marvex.views.drawing.look import Look
from marvex.views.drawing.scale import Scale
from marvex.views.drawing.text_metrics import widest

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

THICKNESS = 0.62  # of a slot
MOST_THICK = 96.0
TALLEST_ROW = 150.0
LEAST_ROW = 1.34  # of the least type
WIDEST_NAME = 0.4  # of the room
MOST_NAME_LINES = 3
LEAST_BARS = 0.7  # of the room: what is left beyond the bars takes no more
MOST_FIGURES = 0.6  # of the room beside the names
GAP = 8.0
HEAD, LEAST_BREADTH = 0.7, 0.4  # of an arrow's thickness: its head's length, and the breadth of the smallest
POINT = 0.6  # of a pointed bar's thickness
TURN = 9.0  # pixels: a hairline where a colour would turn
SEEN = 5.0  # pixels: a shorter way, which the tick would hide, is a dot on its side of the tick


@dataclass(frozen=True, slots=True, kw_only=True)
class Lanes:
    """One lane for each point, with its bar on a common scale.

    Parameters
    ----------
    box : the room of all lanes, from end to end of the scale.
    slot : the pixels that one lane takes.
    figures : those of the figures beside the names that found room.
    words : where words stand within, on which no label may lie.
    """

    box: Box
    slot: float
    scale: Scale
    horizontal: bool = False
    figures: tuple[str, ...] = ()
    words: tuple[Box, ...] = ()

    def middle(self, place: int) -> float:
        return (self.box.top if self.horizontal else self.box.left) + (place + 0.5) * self.slot

    def bar(self, place: int, start: Decimal, end: Decimal, thickness: float, shift: float = 0.0) -> Box:
        """The rectangle from one value to another, `shift` pixels off the lane's middle."""
        low, high = sorted((self.scale.place(start), self.scale.place(end)))
        middle = self.middle(place) + shift
        if self.horizontal:
            return Box(left=low, top=middle - thickness / 2, right=high, bottom=middle + thickness / 2)
        return Box(left=middle - thickness / 2, top=low, right=middle + thickness / 2, bottom=high)

    def tick(self, place: int, value: Decimal, length: float, thickness: float, shift: float = 0.0) -> Box:
        """A short stroke across a lane at a value."""
        level, middle = self.scale.place(value), self.middle(place) + shift
        if self.horizontal:
            return Box(
                left=level - thickness / 2,
                top=middle - length / 2,
                right=level + thickness / 2,
                bottom=middle + length / 2,
            )
        return Box(
            left=middle - length / 2,
            top=level - thickness / 2,
            right=middle + length / 2,
            bottom=level + thickness / 2,
        )

    def draw_level(self, canvas: Canvas, value: Decimal, colour: str, width: float) -> None:
        """A line through all lanes at a value."""
        at = self.scale.place(value)
        if self.horizontal:
            canvas.line(at, self.box.top, at, self.box.bottom, colour, width)
        else:
            canvas.line(self.box.left, at, self.box.right, at, colour, width)

    def beyond(self, place: int, value: Decimal, gap: float, *, is_low: bool = False) -> Spot:
        """The spot just beyond a value: above a column or right of a row, or on the other side where low."""
        at, middle = self.scale.place(value), self.middle(place)
        if self.horizontal:
            return Spot(x=at - gap, y=middle, side="left") if is_low else Spot(x=at + gap, y=middle, side="right")
        return Spot(x=middle, y=at + gap, side="below") if is_low else Spot(x=middle, y=at - gap, side="above")

    def pointed(
        self, place: int, start: Decimal, end: Decimal, thickness: float, shift: float = 0.0
    ) -> list[tuple[float, float]]:
        """The outline of a bar from one value to another that is pointed at its end."""
        a, b = self.scale.place(start), self.scale.place(end)
        head = min(abs(b - a), thickness * POINT)
        neck = b - head if b > a else b + head
        half = thickness / 2
        return self._outline(place, shift, [(a, -half), (neck, -half), (b, 0.0), (neck, half), (a, half)])

    def head_of(self, bar: Box) -> float:
        """How much of a pointed bar is its point."""
        along, across = (bar.width, bar.height) if self.horizontal else (bar.height, bar.width)
        return min(along, across * POINT)

    def arrow(
        self, place: int, start: Decimal, end: Decimal, thickness: float, shift: float = 0.0
    ) -> list[tuple[float, float]]:
        """The outline of an arrow from one value to another that grows in weight towards its head.

        It never leaves the span between the two: a short way is all head, and a smaller one.
        """
        a, b = self.scale.place(start), self.scale.place(end)
        head, way = thickness * HEAD, abs(b - a)
        if way < head:
            half = thickness / 2 * max(LEAST_BREADTH, way / head)
            return self._outline(place, shift, [(a, -half), (b, 0.0), (a, half)])
        neck = b - head if b > a else b + head
        half, thin, thick = thickness / 2, thickness * 0.06, thickness * 0.17
        sides = [(a, -thin), (neck, -thick), (neck, -half), (b, 0.0), (neck, half), (neck, thick), (a, thin)]
        return self._outline(place, shift, sides)

    def beside(self, place: int, start: Decimal, end: Decimal, gap: float, shift: float = 0.0) -> tuple[float, float]:
        """A point so far from one value on the side where the other lies, in pixels of the picture."""
        a, b = self.scale.place(start), self.scale.place(end)
        # Two values in one pixel still lie in an order.
        is_on = (b > a) if a != b else (end > start) is (self.scale.end > self.scale.start)
        return self._outline(place, shift, [(a + gap if is_on else a - gap, 0.0)])[0]

    def _outline(self, place: int, shift: float, points: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
        """Points given along the scale and across the lane, in pixels of the picture."""
        middle = self.middle(place) + shift
        if self.horizontal:
            return [(along, middle + across) for along, across in points]
        return [(middle + across, along) for along, across in points]


@dataclass(frozen=True, slots=True, kw_only=True)
class Needs:
    """The room that a view needs about its bars, in pixels, and what stands beside them.

    Parameters
    ----------
    low, high : beyond the lowest and the highest value.
    figures : what the rows of figures under the names say (`change`, `ratio`), which in rows are columns at the right.
    axis : whether there is a value axis; `hairlines` whether they go through the plot.
    axis_figures : how the values of the axis are written, where those at the points are written otherwise.
    names_tints : whether a forecast's ground is named here.
    cut, stub : where the scale is cut, and how many pixels from zero it goes on.
    of : what the scale is of, where a plot has several; None where nothing is placed on it.
    """

    low: float = 0.0
    high: float = 0.0
    figures: tuple[str, ...] = ()
    axis: bool = False
    axis_figures: FigureFormat | None = None
    hairlines: bool = True
    names_tints: bool = True
    cut: Decimal | None = None
    stub: float = 0.0
    of: str | None = "points"

    def scale(self, canvas: Canvas, reach: tuple[Decimal, Decimal], start: float, end: float) -> Scale:
        """The scale between two pixels, with as much left free beyond its ends as there is room for in every panel."""
        way = 1 if end > start else -1
        free = min(1.0, LEAST_BARS * abs(end - start) / (self.low + self.high)) if self.low + self.high else 0.0
        start, end = start + way * self.low * free, end - way * self.high * free
        if canvas.ends is not None and self.of is not None:
            start, end = canvas.ends.settled(self.of, start, end)
        return Scale(lowest=reach[0], highest=reach[1], start=start, end=end, cut=self.cut, stub=self.stub)


def columns(
    canvas: Canvas,
    room: Box,
    points: Sequence[Judged],
    look: Look,
    reach: tuple[Decimal, Decimal],
    needs: Needs,
) -> Lanes:
    """The lanes as columns, with their names and figures drawn."""
    axis = ValueAxis(needs.axis_figures or look.figures, *reach) if needs.axis else None
    gutter = axis.width(canvas) if axis else 0.0
    size = canvas.sized(look.style.name_size)
    heads = [headings(look)[one] for one in needs.figures]
    if heads:
        gutter = max(gutter, min(widest(heads, canvas.smaller(size)), room.width * 0.2) + GAP * canvas.scale)
    box = Box(left=room.left + gutter, top=room.top, right=room.right, bottom=room.bottom)
    slot = box.width / len(points)
    names = names_below(canvas, points, look, slot)
    table = fitting_rows(canvas, points, look, needs.figures, slot)
    line = size * 1.6
    bottom = room.bottom - names.height - line * len(table)
    whole = Box(left=box.left, top=box.top, right=box.right, bottom=bottom)
    words = draw_tints(canvas, whole, points, slot, look, named=needs.names_tints)
    scale = needs.scale(canvas, reach, bottom, room.top)
    lanes = Lanes(box=whole, slot=slot, scale=scale, figures=tuple(table), words=words)
    if axis:
        axis.draw(canvas, lanes.box, lanes.scale, horizontal=False)
    names.draw(canvas, lanes.box.left, bottom)
    labelled = look.labelled(points)
    for row, (what, figures) in enumerate(table.items()):
        y = room.bottom - line * (len(table) - row) + size * 1.1
        right = box.left - GAP * canvas.scale
        head = shortened(headings(look)[what], gutter - GAP * canvas.scale + 1, canvas.smaller(size))
        canvas.text(head, right, y, canvas.smaller(size), look.style.soft, align="right")
        fitting = min(size, *(slot * 0.94 / piece.width(1.0) for piece in figures))
        for place, piece in enumerate(figures):
            if place not in labelled:
                continue
            piece.draw(canvas, lanes.middle(place) - piece.width(fitting) / 2, y, fitting)
    return lanes


def without_figures(points: Sequence[Judged], lanes: Lanes, asked: Sequence[str]) -> tuple[Point, ...]:
    """The points whose figures found no room, once for each of them."""
    return tuple(one.point for what in asked if what not in lanes.figures for one in points)


def least_height_of_rows(canvas: Canvas, count: int) -> float:
    """So high rows must be together to be legible."""
    return count * LEAST_ROW * canvas.least


def least_height_of_columns(canvas: Canvas, look: Look, lines: float) -> float:
    """So high columns must be in one of several panels, by how many lines of text their plot has to have."""
    return lines * canvas.sized(canvas.style.name_size) if look.in_panels else 0.0


def rows(
    canvas: Canvas,
    room: Box,
    points: Sequence[Judged],
    names: Sequence[str],
    look: Look,
    reach: tuple[Decimal, Decimal],
    needs: Needs,
) -> Lanes:
    """The lanes as rows with their names drawn at the left, and their figures in columns at the right."""
    scale, style = canvas.scale, look.style
    above = heading_lines(look, needs.figures, canvas.sized(style.name_size))
    head = head_of_rows(canvas, look, needs.figures)
    axis = ValueAxis(needs.axis_figures or look.figures, *reach) if needs.axis else None
    foot = axis.height(canvas) if axis else 0.0
    slot = min((room.height - head - foot) / look.most_in_a_panel(points), TALLEST_ROW * scale)
    size = max(min(style.name_size * scale, slot * 0.78), canvas.least)
    gap = GAP * scale
    everyone = [look.name(one) for one in look.everyone]
    width = min(widest([*names, *everyone], size), room.width * WIDEST_NAME)
    left, right = room.left + width + 2 * gap, room.right
    box_top = room.top + head
    table = fitting_columns(points, look, needs.figures, (right - left) * MOST_FIGURES, size)
    labelled = look.labelled(points)
    for what, (pieces, width_of) in reversed(table.items()):
        top = Box(left=right - width_of, top=room.top, right=right, bottom=box_top)
        told = [piece if place in labelled else None for place, piece in enumerate(pieces)]
        draw_column(canvas, told, above[what], top, slot, size)
        right -= width_of + 2.5 * gap
    box = Box(left=left, top=room.top + head, right=right, bottom=room.top + head + slot * len(points))
    between = needs.scale(canvas, reach, left, right)
    lanes = Lanes(box=box, slot=slot, scale=between, horizontal=True, figures=tuple(table))
    if axis:
        axis.draw(canvas, box, lanes.scale, horizontal=True, hairlines=needs.hairlines)
    most_lines = max(1, min(MOST_NAME_LINES, int(slot / (LINE * size))))
    for place, name in enumerate(names):
        lines = wrapped(name, width, size) or ()
        if not 0 < len(lines) <= most_lines:
            lines = (shortened(name, width, size),)
        for number, line in enumerate(lines):
            y = lanes.middle(place) + (number - (len(lines) - 1) / 2) * LINE * size
            canvas.text(line, left - 2 * gap, y, size, style.ink, align="right", middle=True)
    return lanes


def row_names(points: Sequence[Judged], look: Look) -> list[str]:
    """The points' names as they stand before rows, new and ended ones said so."""
    return [look.name(one) for one in points]


def label_room(canvas: Canvas, labels: Sequence[Label], *, horizontal: bool) -> float:
    """So much room the labels need beyond the bars."""
    size = canvas.sized(canvas.style.label_size)
    extents = [one.extent(size) for one in labels]
    if horizontal:
        return max((width for width, _ in extents), default=0.0) + 2 * GAP * canvas.scale
    return max((height for _, height in extents), default=0.0) + GAP * canvas.scale


def room_beyond(
    canvas: Canvas, ends: Sequence[tuple[Decimal, Label]], reach: tuple[Decimal, Decimal], width: float
) -> float:
    """So much room rows need right of the highest value for labels that each stand behind a value of their own."""
    size = canvas.sized(canvas.style.label_size)
    span = reach[1] - reach[0]
    needed = 0.0
    for value, label in ends:
        reached = float((value - reach[0]) / span) if span else 1.0
        own = label.extent(size)[0] + 2 * GAP * canvas.scale
        # The bar ends at `reached` of what is left of the width.
        needed = max(needed, (own - (1 - reached) * width * (1 - WIDEST_NAME)) / max(reached, 0.05))
    return min(needed, width * 0.4)


def thickness_of(lanes: Lanes, canvas: Canvas, part: float = THICKNESS) -> float:
    """How thick a bar is that takes that part of its lane."""
    return max(1.0, min(part * lanes.slot, MOST_THICK * canvas.scale))


def draw_turn(
    canvas: Canvas, lanes: Lanes, place: int, value: Decimal | None, thickness: float, shift: float = 0.0
) -> None:
    """A short hairline on either side of a bar at the value where its colour would turn; none beyond the scale."""
    if value is None or not lanes.scale.lowest <= value <= lanes.scale.highest:
        return
    for side in (-1, 1):
        off = side * (thickness + TURN * canvas.scale) / 2 + side
        line = lanes.tick(place, value, TURN * canvas.scale, 1.0, shift + off)
        (x, y), style = line.middle, canvas.style
        if lanes.horizontal:
            canvas.line(x, line.top, x, line.bottom, style.ink, 1.0)
        else:
            canvas.line(line.left, y, line.right, y, style.ink, 1.0)


def draw_zero(canvas: Canvas, lanes: Lanes) -> None:
    """The line that the bars stand on."""
    lanes.draw_level(canvas, ZERO, canvas.style.ink, canvas.style.axis_line)
