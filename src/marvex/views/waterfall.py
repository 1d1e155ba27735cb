"""The waterfall: standing opening, floating steps, standing closing, thin connectors.

In columns where names and labels fit side by side; lying, in rows, where they do not.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal

from marvex.core.comparison import Kind, State
from marvex.core.errors import MarvexError
from marvex.core.rules import Band, Tone
from marvex.core.units import FigureFormat
from marvex.core.walk import Bar, Walk
from marvex.core.wording import SideNames, point_sentence
from marvex.views.canvas import Box, Canvas, measured, widest
from marvex.views.frame import Framing, draw_frame
from marvex.views.labels import Fitted, fitted, shortened
from marvex.views.legend import LegendKey
from marvex.views.scale import Scale, reaching
from marvex.views.style import Shape, Style

THICKNESS = 0.62  # of a slot
MOST_THICK = 96.0
SIGN = 0.52  # of a label's height
FLAGGED = (Tone.WORSE, Tone.WATCH)
STUB, CUT_GAP = 40.0, 8.0  # pixels from zero to where a cut scale goes on, and of the gap within
LEAST_ROW = 14.0
MOST_NAME_LINES = 3


@dataclass(frozen=True, slots=True)
class Label:
    """What a bar says: lines of figures, their colour, and the sign before the first."""

    lines: tuple[str, ...]
    colour: str
    direction: int | None  # None draws no sign, as at a standing bar
    shape: Shape = Shape.DIRECTION


@dataclass(slots=True)
class Waterfall:
    """All that a waterfall looks like; what it shows comes with the walk."""

    figures: FigureFormat
    names: SideNames
    style: Style
    show: tuple[str, ...] = ("change",)
    labels: str = "all"
    labels_count: int = 0
    lying: bool = False
    cut: Decimal | None = None
    marks: Mapping[str, str] = field(default_factory=dict)  # behind the names of bars that have remarks

    def draw(
        self, walk: Walk, bands: Sequence[Band], framing: Framing, size: tuple[int, int], can_grow: bool
    ) -> Canvas:
        """The picture: in rows where columns have no room for every name and label, so that none is dropped.

        Parameters
        ----------
        size : width and height in pixels.
        can_grow : whether the height may grow where rows need it.
        """
        canvas = Canvas(*size, self.style)
        plot = draw_frame(canvas, framing, self.legend_keys(bands))
        columns = None if self.lying else _Columns.fitting(self, walk, canvas, plot)
        if columns is not None:
            columns.draw()
            return canvas
        needed = self._height_for_rows(walk, bands, framing, size)
        if needed > size[1] and not can_grow:
            raise MarvexError(
                f"{len(walk.bars)} bars do not fit legibly in {size[0]}x{size[1]} pixels",
                f"Give --size {size[0]}x{needed}, or show fewer with --keep top:20.",
            )
        if needed > size[1]:
            canvas = Canvas(size[0], needed, self.style)
            plot = draw_frame(canvas, framing, self.legend_keys(bands))
        _Rows(self, walk, canvas, plot).draw()
        return canvas

    def legend_keys(self, bands: Sequence[Band]) -> list[LegendKey]:
        """A key for every band, with the fill that its bars have."""
        style = self.style
        return [LegendKey(band.name, band.text, style.fills[band.tone], style.shapes[band.tone]) for band in bands]

    def sentence(self, bar: Bar) -> str:
        """What a bar says in words."""
        if bar.is_standing:
            return f"{bar.label}: {self.figures.amount(bar.end)}"
        band = bar.judged.band.name if bar.judged.band else None
        return point_sentence(bar.point, band, self.names, self.figures)

    def name(self, bar: Bar) -> str:
        """The bar's name, with the word for a category that has one side only."""
        mark = self.marks.get(bar.label, "")
        if bar.point.kind is Kind.STEP and bar.point.state in (State.NEW, State.ENDED):
            return f"{bar.label} ({bar.point.state.value}){mark}"
        return f"{bar.label}{mark}"

    def fill(self, bar: Bar) -> str:
        band = bar.judged.band
        return self.style.fills[band.tone if band else Tone.STANDING]

    def label(self, bar: Bar) -> Label:
        """The figures at a bar, as `--show` asks."""
        if bar.is_standing:
            return Label((self.figures.amount(bar.end),), self.style.ink, None)
        band = bar.judged.band
        direction = (bar.movement > 0) - (bar.movement < 0)
        lines = {
            "change": self.figures.change(bar.movement),
            "ratio": self.figures.ratio(bar.point),
            "current": self.figures.amount(bar.point.current),
            "base": self.figures.amount(bar.point.base),
        }
        colour = self.style.texts[band.tone] if band else self.style.ink
        shape = self.style.shapes[band.tone] if band else Shape.DIRECTION
        return Label(tuple(lines[one] for one in self.show), colour, direction, shape)

    def labelled(self, walk: Walk) -> list[Bar]:
        """The bars that carry a label; standing ones do unless there are none at all."""
        if self.labels == "none":
            return []
        standing = [bar for bar in walk.bars if bar.is_standing]
        steps = list(walk.steps)
        match self.labels:
            case "ends":
                steps = []
            case "flagged":
                steps = [bar for bar in steps if bar.judged.band and bar.judged.band.tone in FLAGGED]
            case "top" | "bottom":
                steps.sort(key=lambda bar: abs(bar.movement), reverse=self.labels == "top")
                steps = steps[: self.labels_count]
        return standing + steps

    def _height_for_rows(self, walk: Walk, bands: Sequence[Band], framing: Framing, size: tuple[int, int]) -> int:
        """The least height, not below the one given, in which every row is legible."""
        height = size[1]
        while True:
            canvas = Canvas(size[0], height, self.style)
            room = draw_frame(canvas, framing, self.legend_keys(bands)).height
            missing = len(walk.bars) * LEAST_ROW * canvas.scale - room
            if missing <= 0:
                return height
            height += math.ceil(missing)


class _Columns:
    """Bars side by side, names below them, labels above."""

    def __init__(
        self, view: Waterfall, walk: Walk, canvas: Canvas, plot: Box, names: Fitted, label_size: float
    ) -> None:
        self.view, self.walk, self.canvas, self.plot = view, walk, canvas, plot
        self.names, self.label_size = names, label_size
        self.slot = plot.width / len(walk.bars)
        self.thickness = min(THICKNESS * self.slot, MOST_THICK * canvas.scale)
        self.label_lines = len(view.show)
        line = names.size * 1.3
        self.names_top = plot.bottom - names.most_lines * line
        headroom = (self.label_lines * 1.15 + 0.45) * label_size
        ends = [value for bar in walk.bars for value in (bar.start, bar.end)]
        lowest, highest = reaching(ends)
        hangs = any(self._hangs(bar) for bar in walk.steps)
        foot_room = headroom + 6 * canvas.scale if hangs else 14 * canvas.scale
        start, end = self.names_top - foot_room, plot.top + headroom
        self.scale = Scale(lowest, highest, start, end, view.cut, STUB * canvas.scale)

    @classmethod
    def fitting(cls, view: Waterfall, walk: Walk, canvas: Canvas, plot: Box) -> _Columns | None:
        """The columns, or None where names or labels do not fit side by side."""
        style, scale = canvas.style, canvas.scale
        slot = plot.width / len(walk.bars)
        least = style.least_size * scale
        names = fitted(
            [view.name(bar) for bar in walk.bars],
            slot * 0.94,
            MOST_NAME_LINES,
            style.name_size * scale,
            least,
        )
        if names is None:
            return None
        room = slot * 0.97
        labels = [view.label(bar) for bar in view.labelled(walk)]
        size = style.label_size * scale
        while size >= least:
            if all(_label_width(label, size) <= room for label in labels):
                return cls(view, walk, canvas, plot, names, size)
            size *= 0.94
        return None

    def draw(self) -> None:
        canvas, style = self.canvas, self.canvas.style
        zero = self.scale.place(reaching([])[0])
        labelled = {id(bar) for bar in self.view.labelled(self.walk)}
        for place, bar in enumerate(self.walk.bars):
            box = self._box(place, bar)
            if place + 1 < len(self.walk.bars):
                level = self.scale.place(bar.end)
                canvas.line(
                    box.right,
                    level,
                    box.right + self.slot - self.thickness,
                    level,
                    style.connector,
                    style.connector_line,
                )
            if bar.start != bar.end:
                canvas.rectangle(box, self.view.fill(bar))
            else:
                canvas.line(box.left, box.top, box.right, box.top, self.view.fill(bar), 2)
            if self.view.cut is not None and bar.is_standing:
                self._draw_cut(box, zero)
            self._draw_name(place)
            if id(bar) in labelled:
                self._draw_label(bar, box)
        canvas.line(self.plot.left, zero, self.plot.right, zero, style.ink, style.axis_line)

    def _box(self, place: int, bar: Bar) -> Box:
        middle = self.plot.left + (place + 0.5) * self.slot
        ends = sorted((self.scale.place(bar.start), self.scale.place(bar.end)))
        return Box(middle - self.thickness / 2, ends[0], middle + self.thickness / 2, ends[1])

    def _draw_cut(self, box: Box, zero: float) -> None:
        """A gap across a standing bar with a straight stroke on either side."""
        canvas, scale = self.canvas, self.canvas.scale
        towards = -1 if self.view.cut and self.view.cut > 0 else 1
        middle = zero + towards * STUB * 0.62 * scale
        half, over = CUT_GAP / 2 * scale, 5 * scale
        canvas.rectangle(Box(box.left - over, middle - half, box.right + over, middle + half), canvas.style.ground)
        for y in (middle - half, middle + half):
            canvas.line(box.left - over, y, box.right + over, y, canvas.style.soft, 1.2 * scale)

    def _draw_name(self, place: int) -> None:
        middle = self.plot.left + (place + 0.5) * self.slot
        for row, line in enumerate(self.names.lines[place]):
            y = self.names_top + (row + 0.85) * self.names.size * 1.3
            self.canvas.text(line, middle, y, self.names.size, self.canvas.style.ink, align="center")

    def _draw_label(self, bar: Bar, box: Box) -> None:
        label, size = self.view.label(bar), self.label_size
        middle = (box.left + box.right) / 2
        if bar.is_standing and self._fits_inside(label, box):
            y = box.top + size * 1.3 if bar.end > 0 else box.bottom - size * 0.6
            self.canvas.text(label.lines[0], middle, y, size, label.colour, bold=True, align="center")
            return
        y = box.top - size * 0.42
        if self._hangs(bar):
            y = box.bottom + (0.95 + 1.15 * (len(label.lines) - 1)) * size
        for line in reversed(label.lines[1:]):
            self.canvas.text(line, middle, y, size * 0.9, label.colour, align="center")
            y -= size * 1.15
        _draw_figure(self.canvas, label, middle - _first_width(label, size) / 2, y, size)

    def _hangs(self, bar: Bar) -> bool:
        """Whether a label stands below its bar: a step below zero, where the axis would cross it above."""
        return not bar.is_standing and max(bar.start, bar.end) <= 0

    def _fits_inside(self, label: Label, box: Box) -> bool:
        width = measured(label.lines[0], self.label_size, True).width
        return width <= box.width - 4 and box.height >= self.label_size * 2.2


class _Rows:
    """Bars below one another, names at the left, labels right of the bars."""

    def __init__(self, view: Waterfall, walk: Walk, canvas: Canvas, plot: Box) -> None:
        self.view, self.walk, self.canvas, self.plot = view, walk, canvas, plot
        scale = canvas.scale
        self.slot = min(plot.height / len(walk.bars), 46 * scale)
        self.thickness = THICKNESS * self.slot
        self.size = max(min(canvas.style.name_size * scale, self.slot * 0.78), LEAST_ROW * scale * 0.75)
        names = [view.name(bar) for bar in walk.bars]
        self.name_width = min(widest(names, self.size), plot.width * 0.4)
        self.names = [shortened(name, self.name_width, self.size) for name in names]
        self.gap = 8 * scale
        self.left = plot.left + self.name_width + 16 * scale
        self.scale = self._scale_with_room_for_labels()

    def _scale_with_room_for_labels(self) -> Scale:
        """The longest scale on which every label still ends within the plot."""
        lowest, highest = reaching(value for bar in self.walk.bars for value in (bar.start, bar.end))
        room = self.plot.right - self.left
        stub = STUB * self.canvas.scale
        length = room
        for bar in self.view.labelled(self.walk):
            width = _label_width(self._joined(self.view.label(bar)), self.size) + self.gap
            level = max(bar.start, bar.end)
            while length > room * 0.2:
                scale = Scale(lowest, highest, self.left, self.left + length, self.view.cut, stub)
                if scale.place(level) + width <= self.plot.right:
                    break
                length -= max(2.0, room * 0.01)
        return Scale(lowest, highest, self.left, self.left + length, self.view.cut, stub)

    def draw(self) -> None:
        canvas, style = self.canvas, self.canvas.style
        zero = self.scale.place(reaching([])[0])
        labelled = {id(bar) for bar in self.view.labelled(self.walk)}
        for place, bar in enumerate(self.walk.bars):
            middle = self.plot.top + (place + 0.5) * self.slot
            ends = sorted((self.scale.place(bar.start), self.scale.place(bar.end)))
            box = Box(ends[0], middle - self.thickness / 2, ends[1], middle + self.thickness / 2)
            if place + 1 < len(self.walk.bars):
                at = self.scale.place(bar.end)
                canvas.line(
                    at,
                    box.bottom,
                    at,
                    box.bottom + self.slot - self.thickness,
                    style.connector,
                    style.connector_line,
                )
            if bar.start != bar.end:
                canvas.rectangle(box, self.view.fill(bar))
            else:
                canvas.line(box.left, box.top, box.left, box.bottom, self.view.fill(bar), 2)
            if self.view.cut is not None and bar.is_standing:
                self._draw_cut(box, zero)
            name_at = self.left - 16 * canvas.scale
            canvas.text(self.names[place], name_at, middle, self.size, style.ink, align="right", middle=True)
            if id(bar) in labelled:
                label = self._joined(self.view.label(bar))
                _draw_figure(canvas, label, box.right + self.gap, middle + self.size * 0.36, self.size)
        bottom = self.plot.top + self.slot * len(self.walk.bars)
        canvas.line(zero, self.plot.top, zero, bottom, style.ink, style.axis_line)

    def _draw_cut(self, box: Box, zero: float) -> None:
        """A gap across a standing bar with a straight stroke on either side."""
        canvas, scale = self.canvas, self.canvas.scale
        towards = 1 if self.view.cut and self.view.cut > 0 else -1
        middle = zero + towards * STUB * 0.62 * scale
        half, over = CUT_GAP / 2 * scale, 3 * scale
        canvas.rectangle(Box(middle - half, box.top - over, middle + half, box.bottom + over), canvas.style.ground)
        for x in (middle - half, middle + half):
            canvas.line(x, box.top - over, x, box.bottom + over, canvas.style.soft, 1.2 * scale)

    def _joined(self, label: Label) -> Label:
        return replace(label, lines=("  ".join(label.lines),))


def _label_width(label: Label, size: float) -> float:
    return max(_first_width(label, size), widest(label.lines[1:], size * 0.9))


def _first_width(label: Label, size: float) -> float:
    """The width of the first line with its sign."""
    sign = 0.0 if label.direction is None else size * (SIGN + 0.28)
    return sign + measured(label.lines[0], size, True).width


def _draw_figure(canvas: Canvas, label: Label, x: float, y: float, size: float) -> None:
    """The first line of a label from `x` on, its sign before it."""
    if label.direction is not None:
        sign = size * SIGN
        if label.shape is Shape.DIRECTION:
            canvas.sign(label.direction, x + sign / 2, y - size * 0.32, sign, label.colour)
        else:
            canvas.shape(label.shape, x + sign / 2, y - size * 0.32, sign, label.colour)
        x += sign + size * 0.28
    canvas.text(label.lines[0], x, y, size, label.colour, bold=True)
