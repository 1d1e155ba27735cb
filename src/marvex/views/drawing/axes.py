"""What stands along the sides of the bars: names below them, months in calendar order, and values with hairlines."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from decimal import ROUND_CEILING, ROUND_FLOOR, Decimal
from itertools import groupby, pairwise
from typing import TYPE_CHECKING, Protocol

from marvex.core.compare.point import Point
from marvex.core.exact import EXACT
from marvex.core.rules.judging import Judged
from marvex.core.values import dataclass
from marvex.core.words.period_names import levels
from marvex.core.words.side_names import scenario_words
from marvex.core.words.units import FigureFormat
from marvex.views.drawing.box import Box
from marvex.views.drawing.labels import Fitted, fitted, fitted_or_cut
from marvex.views.drawing.look import Look
from marvex.views.drawing.scale import Scale
from marvex.views.drawing.text_metrics import widest

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

LINE = 1.3
MOST_NAME_LINES = 3
FILL_OF_SLOT = 0.94
LEAST_NAME = 0.74  # of the name size: smaller names would rather stand before rows
EVERY = (1, 2, 3, 4, 6, 7, 10, 12)  # of names that are thinned, so many lie from one to the next
TINT = 0.34  # of the hairline's colour in the ground of a forecast
DAYS_NAMED = {4: ("1", "5", "10", "15", "20", "25"), 6: ("1", "8", "15", "22"), 13: ("1", "15")}  # by days between
DEPTH_OF_YEARS = 2
TICKS = 6


class NamesBelow(Protocol):
    """Names under columns."""

    @property
    def height(self) -> float: ...

    def draw(self, canvas: Canvas, left: float, top: float) -> None: ...


def names_below(canvas: Canvas, points: Sequence[Judged], look: Look, slot: float) -> NamesBelow:
    """The names of columns: periods by level, thinned where they must be; of categories, cut where they do not fit."""
    size = canvas.sized(look.style.name_size)
    if all(one.point.is_period for one in points):
        return _Periods.fitting([one.point for one in points], look, slot, (size, canvas.smaller(size)))
    names, least = _fitted_names(canvas, points, look, slot), max(canvas.least, LEAST_NAME * size)
    if names is None:
        width = slot * FILL_OF_SLOT
        cut = (fitted_or_cut(look.name(one), width, MOST_NAME_LINES, least, least).lines[0] for one in points)
        names = Fitted(tuple(cut), least)
    return _Wrapped(names, slot)


def names_fit(canvas: Canvas, points: Sequence[Judged], look: Look, slot: float) -> bool:
    """Whether names fit side by side under columns."""
    return all(one.point.is_period for one in points) or _fitted_names(canvas, points, look, slot) is not None


def _fitted_names(canvas: Canvas, points: Sequence[Judged], look: Look, slot: float) -> Fitted | None:
    size = canvas.sized(look.style.name_size)
    names = [look.name(one) for one in points]
    return fitted(names, slot * FILL_OF_SLOT, MOST_NAME_LINES, size, max(canvas.least, LEAST_NAME * size))


@dataclass(frozen=True, slots=True)
class _Wrapped:
    """Names of categories, each in up to three lines."""

    names: Fitted
    slot: float

    @property
    def height(self) -> float:
        return (self.names.most_lines * LINE + 0.45) * self.names.size

    def draw(self, canvas: Canvas, left: float, top: float) -> None:
        for place, lines in enumerate(self.names.lines):
            middle = left + (place + 0.5) * self.slot
            for row, line in enumerate(lines):
                y = top + (row + 0.85) * self.names.size * LINE + 0.45 * self.names.size
                canvas.text(line, middle, y, self.names.size, canvas.style.ink, align="center")


@dataclass(frozen=True, slots=True)
class _NameSpan:
    """One name at one level, and the points that it spans."""

    name: str
    first: int
    count: int


@dataclass(frozen=True, slots=True)
class _Periods:
    """Periods by level: days over months over years; a level that all share, or that has no room, is left out."""

    rows: tuple[tuple[_NameSpan, ...], ...]
    slot: float
    sizes: tuple[float, float]  # of the lowest level, and of those above it

    @property
    def size(self) -> float:
        return self.sizes[0]

    @classmethod
    def fitting(cls, points: Sequence[Point], look: Look, slot: float, sizes: tuple[float, float]) -> _Periods:
        names = [levels(one.pair.period, look.figures.locale) for one in points if one.pair]
        rows = []
        for depth in range(len(names[0])):
            runs = _runs(names, depth)
            if not depth and len(names[0]) > DEPTH_OF_YEARS:
                runs = _days_with_room(runs, slot, sizes[0])
            is_shared = len(runs) == 1 and len(points) > 1 and depth == len(names[0]) - 1
            if is_shared or not runs:
                continue
            kept = _thinned(runs, slot, sizes[bool(depth)])
            if kept:
                rows.append(kept)
        return cls(tuple(rows), slot, sizes)

    @property
    def height(self) -> float:
        return (len(self.rows) * LINE + 0.5) * self.size

    def draw(self, canvas: Canvas, left: float, top: float) -> None:
        for depth, runs in enumerate(self.rows):
            y = top + (depth * LINE + 1.35) * self.size
            size, colour = self.sizes[bool(depth)], canvas.style.soft if depth else canvas.style.ink
            for run in runs:
                start = left + run.first * self.slot
                if run.count > 1 and run.first:
                    canvas.line(start, y - size * 0.9, start, y + size * 0.1, canvas.style.hairline)
                canvas.text(run.name, start + run.count * self.slot / 2, y, size, colour, align="center")


def _runs(names: Sequence[tuple[str, ...]], depth: int) -> list[_NameSpan]:
    """The names at one depth, those alike and next to each other as one; each point has its own at depth 0."""
    if not depth:
        return [_NameSpan(one[0], place, 1) for place, one in enumerate(names)]
    found, first = [], 0
    for tail, group in groupby(one[depth:] for one in names):
        count = len(list(group))
        found.append(_NameSpan(tail[0], first, count))
        first += count
    return found


def _days_with_room(runs: Sequence[_NameSpan], slot: float, size: float) -> list[_NameSpan]:
    """The days that are named: all, or the same ones of each month."""
    widest_day = widest(["30"], size) * 1.15
    if widest_day <= slot:
        return list(runs)
    for step, days in DAYS_NAMED.items():
        if widest_day <= step * slot:
            return [run for run in runs if run.name in days]
    return []


def _thinned(runs: Sequence[_NameSpan], slot: float, size: float) -> tuple[_NameSpan, ...]:
    """So many of the names as find room, at even distances; none where not even every twelfth does."""
    is_lowest = all(run.count == 1 for run in runs)
    if not is_lowest:
        fitting = tuple(run for run in runs if widest([run.name], size) <= run.count * slot * FILL_OF_SLOT)
        return fitting if 2 * len(fitting) >= len(runs) else ()
    for step in EVERY:
        kept = tuple(runs[::step])
        # A thinned name may reach over its neighbours' lanes.
        distances = [after.first - before.first for before, after in pairwise(kept)] or [step]
        if widest([run.name for run in kept], size) * 1.15 <= min(distances) * slot:
            return kept
    return ()


@dataclass(frozen=True, slots=True)
class ValueAxis:
    """Round values along the scale, with hairlines through the plot."""

    figures: FigureFormat
    lowest: Decimal
    highest: Decimal

    @property
    def values(self) -> tuple[Decimal, ...]:
        return round_values(self.lowest, self.highest, TICKS)

    @property
    def texts(self) -> list[str]:
        values = self.values
        step = values[1] - values[0] if len(values) > 1 else Decimal(1)
        decimals = max(0, -int(EXACT.scaleb(step, -self.figures.unit.power).normalize().as_tuple().exponent))
        figures = replace(self.figures, decimals=decimals)
        return [figures.amount(value) for value in values]

    def width(self, canvas: Canvas) -> float:
        return widest(self.texts, self._size(canvas)) + 10 * canvas.scale

    def height(self, canvas: Canvas) -> float:
        return self._size(canvas) * 1.9

    def draw(self, canvas: Canvas, box: Box, scale: Scale, *, horizontal: bool, hairlines: bool = True) -> None:
        size, style, room = self._size(canvas), canvas.style, -1e9
        for value, text in zip(self.values, self.texts, strict=True):
            at = scale.place(value)
            if horizontal:
                if hairlines:
                    canvas.line(at, box.top, at, box.bottom, style.hairline)
                half = widest([text], size) / 2
                if at - half > room:
                    canvas.text(text, at, box.bottom + size * 1.4, size, style.soft, align="center")
                    room = at + half + size * 0.5
            else:
                canvas.line(box.left, at, box.right, at, style.hairline)
                if abs(at - room) > size * 1.3:
                    canvas.text(text, box.left - 10 * canvas.scale, at, size, style.soft, align="right", middle=True)
                    room = at

    def _size(self, canvas: Canvas) -> float:
        return canvas.sized(canvas.style.name_size * 0.94)


def round_values(lowest: Decimal, highest: Decimal, count: int) -> tuple[Decimal, ...]:
    """Some `count` round values from the lowest to the highest: steps of 1, 2, 2.5 or 5 times a power of ten.

    >>> [int(value) for value in round_values(Decimal(0), Decimal(1013), 5)]
    [0, 250, 500, 750, 1000]
    """
    span = highest - lowest
    if not span:
        return (lowest,)
    rough = span / count
    power = Decimal(1).scaleb(rough.adjusted())
    step = next((power * one for one in map(Decimal, ("1", "2", "2.5", "5")) if power * one >= rough), power * 10)
    first = (lowest / step).to_integral_value(ROUND_CEILING)
    last = (highest / step).to_integral_value(ROUND_FLOOR)
    return tuple(step * number for number in range(int(first), int(last) + 1))


def draw_tints(
    canvas: Canvas, box: Box, points: Sequence[Judged], slot: float, look: Look, *, named: bool = True
) -> tuple[Box, ...]:
    """A tinted ground under what is not yet actual in an outlook, named once; gives where the names stand."""
    first, words = 0, []
    for is_ahead, group in groupby(bool(one.point.pair and _goes_on(one.point)) for one in points):
        count = len(list(group))
        if is_ahead:
            left = box.left + first * slot
            tint = Box(left=left, top=box.top, right=left + count * slot, bottom=box.bottom)
            canvas.ground(tint, mixed(canvas.style.ground, canvas.style.hairline, TINT))
            size = canvas.sized(look.style.name_size * 0.9)
            pair = points[first].point.pair
            word = scenario_words(pair.current) if pair and pair.current else ""
            width = widest([word], size)
            if named and word and width < tint.width:
                at = left + 6 * canvas.scale
                canvas.text(word, at, box.top + size * 1.1, size, look.style.soft)
                words.append(Box(left=at, top=box.top, right=at + width, bottom=box.top + size * 1.4))
        first += count
    return tuple(words)


def _goes_on(point: Point) -> bool:
    return bool(point.pair and point.pair.current and point.pair.current.goes_on)


def mixed(ground: str, colour: str, part: float) -> str:
    """A colour thinned with the ground.

    >>> mixed("#FFFFFF", "#000000", 0.5)
    '#808080'
    """
    pairs = ((int(ground[at : at + 2], 16), int(colour[at : at + 2], 16)) for at in (1, 3, 5))
    return "#" + "".join(f"{round(a + (b - a) * part):02X}" for a, b in pairs)
