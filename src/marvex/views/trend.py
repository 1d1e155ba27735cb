"""Where do the two lines part? The current line over the base, and below them a strip of variance bars.

The strip has its own scale. Names stand at the lines' ends instead of in a legend.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from itertools import pairwise
from typing import TYPE_CHECKING, Any, Self

from marvex.core.compare.comparison import Basis
from marvex.core.compare.point import Point
from marvex.core.compare.result import Analysis
from marvex.core.exact import ZERO
from marvex.core.rules.bands import Band
from marvex.core.rules.judging import Judged
from marvex.core.values import dataclass
from marvex.core.words.side_names import capitalised, window_text
from marvex.views.drawing import lanes as lane
from marvex.views.drawing import variance_bars
from marvex.views.drawing.about import About
from marvex.views.drawing.axes import ValueAxis, draw_tints
from marvex.views.drawing.box import Box
from marvex.views.drawing.labels import LINE, Label, Placer, Spot, shortened, wrapped
from marvex.views.drawing.lanes import Lanes, Needs
from marvex.views.drawing.legend import LegendKey, Swatch
from marvex.views.drawing.look import Look
from marvex.views.drawing.point_view import ViewOfPoints
from marvex.views.drawing.scale import reaching
from marvex.views.drawing.style import Shape
from marvex.views.drawing.text_metrics import widest

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

STRIP, STRIP_IN_PANEL = 0.34, 0.46  # of the height
LEAST_LINES = 15.0  # of text: the height of a plot in a panel
CURRENT_LINE, BASE_LINE, THIN_LINE = 3.2, 2.0, 0.9
MARKER = 12.0
NAME_GAP, END_GAP = 24.0, 9.0  # pixels before a line's name: with the thin line that leads to it, on either side
MANY_MARKERS = 62
ALONE = 0.12  # of a slot, on either side of a period that stands alone
LEAST_SPAN = Decimal("0.3")  # of the largest: lines that move less than that need not start at zero


Place = tuple[float, float] | None  # where a line has a point, None where it has a gap


@dataclass(frozen=True, slots=True)
class Trend(ViewOfPoints):
    """Two lines and a strip.

    Parameters
    ----------
    base_as : `line`, `area`: shaded down to zero, or `none`.
    beyond : what the base comes to after the last point, of every panel; it is drawn thin, and is in no total.
    """

    base_as: str = "line"
    beyond: tuple[Judged, ...] = ()

    @classmethod
    def made(cls, look: Look, said: Mapping[str, Any], analysis: Analysis) -> Self:
        comparison = analysis.first.comparison
        beyond = tuple(Judged(point, None) for point in comparison.beyond)
        base_as = said["base_as"]
        if base_as == "auto":
            # The period before is the line itself, one period on.
            base_as = "none" if comparison.basis is Basis.PRIOR else "line"
        return cls(look=look, beyond=() if base_as == "none" else beyond, base_as=base_as)

    def legend_keys(self, bands: Sequence[Band], points: Sequence[Judged]) -> list[LegendKey]:
        """The bands; the lines too where there are several panels, which have no room to name them."""
        look, style = self.look, self.look.style
        lines = [(look.names.current, style.current)] if look.in_panels else []
        if look.in_panels and self.base_as != "none":
            lines.append((look.names.base, style.base_line))
        keys = [LegendKey(name=name, condition="", fill=colour, swatch=Swatch.LINE) for name, colour in lines if name]
        return [*keys, *self.keys_of(bands, points)]

    def note(self, points: Sequence[Judged]) -> str:
        """What the picture has to say of itself, for the foot."""
        pairs = [one.point.pair for one in self.beyond if one.point.pair is not None]
        sides = [pair.base.window for pair in pairs if pair.base is not None and pair.base.window is not None]
        thin = ""
        if sides:
            whole = replace(sides[0], last=max(side.last for side in sides))
            words = window_text(whole, self.look.figures.locale)
            if sides[0] == pairs[0].period:
                words = f"{capitalised(self.look.names.base)} for {words}"
            thin = f"{words} is drawn thin and is in no total"
        return ". ".join(part for part in (thin, self.look.note(points)) if part)

    def values(self, points: Sequence[Judged]) -> Iterable[Decimal]:
        panels = {one.point.panel for one in points}
        if self.base_as == "none":
            return (one.point.current for one in points if one.point.current is not None)
        return ViewOfPoints.values(self, [*points, *(one for one in self.beyond if one.point.panel in panels)])

    def least_height(self, canvas: Canvas, points: Sequence[Judged], width: float) -> float:  # noqa: ARG002
        return lane.least_height_of_columns(canvas, self.look, LEAST_LINES)

    def draw(
        self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]
    ) -> tuple[Point, ...]:
        look = self.look
        names = self._end_names(canvas, room)
        size = canvas.sized(look.style.name_size)
        widths = [widest(lines, size, True) for lines in names]
        right = room.right - (max(widths) + NAME_GAP * canvas.scale if names else 0.0)
        axis = ValueAxis(look.figures, *self._reach(points, reach))
        left = room.left + axis.width(canvas)
        has_strip = bool(look.names.base) and any(one.point.change is not None for one in points)
        strip_room = Box(
            left=left,
            top=room.bottom - (STRIP_IN_PANEL if look.in_panels else STRIP) * room.height,
            right=right,
            bottom=room.bottom,
        )
        strip_top = strip_room.top + size * 1.6
        in_strip = (
            Box(left=left, top=strip_top, right=right, bottom=room.bottom)
            if has_strip
            else Box(left=left, top=room.bottom, right=right, bottom=room.bottom)
        )
        after = self._after(points)
        below, dropped = self._draw_strip(canvas, in_strip, points, after, has_strip=has_strip)
        top = Box(
            left=left,
            top=room.top,
            right=right,
            bottom=(strip_room.top if has_strip else below.box.bottom) - 6 * canvas.scale,
        )
        if has_strip:
            canvas.text(
                f"Change on {look.names.base_in_sentence}",
                left,
                strip_top - size * 0.5,
                canvas.smaller(size),
                look.style.soft,
            )
        headroom = 26 * canvas.scale
        low = headroom if axis.lowest < 0 or self._show() else 0.0
        scale = Needs(low=low, high=headroom).scale(canvas, (axis.lowest, axis.highest), top.bottom, top.top)
        words = draw_tints(canvas, top, points, below.slot, look)
        lanes = Lanes(box=top, slot=below.slot, scale=scale, words=words)
        axis.draw(canvas, top, lanes.scale, horizontal=False)
        return (*dropped, *self._draw_lines(canvas, lanes, points, after, names, size, room.right))

    def _after(self, points: Sequence[Judged]) -> list[Judged]:
        """What stands beyond the points of one panel: as many periods in each, with gaps where there is nothing."""
        panel = points[0].point.panel
        own = {one.point.label: one for one in self.beyond if one.point.panel == panel}
        like = points[0].point
        blank = {
            one.point.label: Judged(replace(one.point, category=like.category, panels=like.panels, base=None), None)
            for one in self.beyond
        }
        return [own.get(label, nothing) for label, nothing in sorted(blank.items())]

    def _reach(self, points: Sequence[Judged], reach: tuple[Decimal, Decimal]) -> tuple[Decimal, Decimal]:
        """The ends of the scale: away from zero only for lines that would else be flat, and never under an area."""
        known = list(self.values(self.look.among(points)))
        if not known or self.base_as == "area" or self.look.axis is not None:
            return reach
        low, high = min(known), max(known)
        far = max(abs(low), abs(high))
        if (low < 0) != (high < 0) or high - low >= LEAST_SPAN * far or high == low:
            return reach
        return (low - (high - low) / 4, reach[1]) if low > 0 else (reach[0], high + (high - low) / 4)

    def _show(self) -> tuple[str, ...]:
        """What stands at the line's own points: amounts, and changes with them; changes alone stand at the strip."""
        return self.look.show if {"current", "base"} & set(self.look.show) else ()

    def _end_names(self, canvas: Canvas, room: Box) -> list[tuple[str, ...]]:
        """The lines' names, each wrapped as it must be."""
        names = self.look.names
        if self.look.in_panels:
            return []
        size, width = canvas.sized(self.look.style.name_size), room.width * 0.2
        both = [names.current, names.base] if names.base and self.base_as != "none" else [names.current]
        return [wrapped(name, width, size, True) or (shortened(name, width, size, True),) for name in both]

    def _draw_strip(
        self, canvas: Canvas, box: Box, points: Sequence[Judged], after: Sequence[Judged], *, has_strip: bool
    ) -> tuple[Lanes, tuple[Point, ...]]:
        """The variance bars over the names; without a base the names alone."""
        look = self.look
        known = (one.point.change for one in look.among(points))
        reach = reaching(change for change in known if change is not None)
        shown = [] if self._show() else [one for one in look.show if one in ("change", "percent")]
        places = sorted(look.labelled(points, side_by_side=True)) if has_strip and shown else []
        labels = {place: look.label(points[place], shown, marked=True) for place in places}
        crowded: tuple[Point, ...] = ()
        if look.in_panels and not _fit(canvas, labels.values(), box.width / (len(points) + len(after))):
            # The bars need the room that a label here and there would take.
            labels, crowded = {}, tuple(points[place].point for place in places)
        low, high = variance_bars.rooms(canvas, look, points, labels)
        lanes = lane.columns(
            canvas,
            box,
            [*points, *after],
            look,
            reach,
            Needs(low=low, high=high, names_tints=not has_strip, of="changes" if has_strip else None),
        )
        if not has_strip:
            return lanes, ()
        placer = Placer(
            canvas,
            Box(
                left=lanes.box.left - 30 * canvas.scale,
                top=box.top,
                right=box.right + 30 * canvas.scale,
                bottom=lanes.box.bottom,
            ),
        )
        bars = [(one, variance_bars.changed(one)) for one in (*points, *after)]
        variance_bars.draw_bars(canvas, lanes, bars[: len(points)], look, placer)
        if labels and look.labels == "all" and not (look.in_panels or look.is_crowded(points)):
            labels |= {place: look.label(one, shown[:1]) for place, one in enumerate(after, len(points))}
        for place, label in labels.items():
            variance_bars.ask_for_label(canvas, placer, lanes, place, bars[place], label)
        return lanes, (*crowded, *placer.settle())

    def _draw_lines(
        self,
        canvas: Canvas,
        lanes: Lanes,
        points: Sequence[Judged],
        after: Sequence[Judged],
        names: Sequence[tuple[str, ...]],
        size: float,
        right: float,
    ) -> tuple[Point, ...]:
        look, style = self.look, canvas.style
        current = [_at(lanes, place, one.point.current) for place, one in enumerate(points)]
        base = [_at(lanes, place, one.point.base) for place, one in enumerate(points)]
        thin = [_at(lanes, place, one.point.base) for place, one in enumerate(after, len(points))]
        for run in _runs([base[-1], *thin] if thin else []):
            canvas.path(run, style.base_line, THIN_LINE * canvas.scale)
        if self.base_as == "area":
            for run in _runs(base):
                floor = lanes.scale.place(ZERO)
                canvas.ground_shape([(run[0][0], floor), *run, (run[-1][0], floor)], style.base)
        placer = Placer(canvas, lanes.box)
        for box in lanes.words:
            placer.block(box)
        lines = [(base, style.base_line, BASE_LINE), (current, style.current, CURRENT_LINE)]
        for line, colour, width in lines if self.base_as != "none" else lines[1:]:
            for run in _runs(line):
                canvas.path(_seen(run, lanes.slot) if line is base else run, colour, width * canvas.scale)
                _block(placer, run)
        if lanes.scale.lowest <= 0 <= lanes.scale.highest:
            lane.draw_zero(canvas, lanes)
        self._draw_markers(canvas, points, current)
        if names:
            _name_ends(canvas, (current, [*base, *thin])[: len(names)], names, size, right)
        shown = self._show()
        for place in sorted(look.labelled(points, side_by_side=True)) if shown else ():
            spot = current[place] or base[place]
            if spot:
                placer.want(look.label(points[place], shown), _spots(spot, lanes, canvas), points[place].point)
        return placer.settle()

    def _draw_markers(self, canvas: Canvas, points: Sequence[Judged], current: Sequence[Place]) -> None:
        """A sign in the band's colour at each labelled point, with a rim of ground; at those without a band, dots."""
        look, style = self.look, canvas.style
        size = MARKER * canvas.scale
        many = len(points) > MANY_MARKERS
        labelled = look.labelled(points) if look.labels != "none" else set(range(len(points)))
        for place, (one, spot) in enumerate(zip(points, current, strict=True)):
            alone = spot and not any(current[near] for near in (place - 1, place + 1) if 0 <= near < len(current))
            if spot is None or ((many or place not in labelled) and not alone):
                continue
            change = one.point.change or ZERO
            said = look.sentence(one)
            if one.band is None or one.point.change is None:
                canvas.shape(Shape.CIRCLE, *spot, size * 0.62, style.current, said)
                continue
            direction = (change > 0) - (change < 0)
            canvas.sign(direction, *spot, size * 1.5 if direction else size * 1.8, style.ground)
            canvas.sign(direction, *spot, size if direction else size * 1.4, look.fill(one), said)


def _fit(canvas: Canvas, labels: Iterable[Label], slot: float) -> bool:
    """Whether labels have room side by side, each above its own bar."""
    return all(label.extent(canvas.least)[0] <= slot for label in labels)


def _at(lanes: Lanes, place: int, value: Decimal | None) -> Place:
    return None if value is None else (lanes.middle(place), lanes.scale.place(value))


def _seen(run: list[tuple[float, float]], slot: float) -> list[tuple[float, float]]:
    """A run of the base as it is drawn: a period alone between two gaps as a tick, for it has no marker."""
    if len(run) > 1:
        return run
    x, y = run[0]
    return [(x - slot * ALONE, y), (x + slot * ALONE, y)]


def _runs(line: Sequence[Place]) -> list[list[tuple[float, float]]]:
    """The line's unbroken parts: what is absent is a gap."""
    runs: list[list[tuple[float, float]]] = [[]]
    for spot in line:
        if spot is None:
            runs.append([])
        else:
            runs[-1].append(spot)
    return [run for run in runs if run]


def _block(placer: Placer, run: Sequence[tuple[float, float]]) -> None:
    """Keeps labels off a line, piece by piece."""
    for (x0, y0), (x1, y1) in pairwise(run):
        pieces = max(1, math.ceil(math.hypot(x1 - x0, y1 - y0) / 8))
        for piece in range(pieces + 1):
            x, y = x0 + (x1 - x0) * piece / pieces, y0 + (y1 - y0) * piece / pieces
            placer.block(Box(left=x - 2, top=y - 2, right=x + 2, bottom=y + 2))


def _spots(spot: tuple[float, float], lanes: Lanes, canvas: Canvas) -> list[Spot]:
    """Above and below a point in turn, further off with a leader."""
    x, y = spot
    found = []
    for distance in (9.0, 24.0, 42.0, 62.0):
        gap = distance * canvas.scale
        tip = (x, y) if distance > 9 else None
        found += [
            Spot(x=x, y=y - gap, side="above", tip=tip and (x, y - 7 * canvas.scale)),
            Spot(x=x, y=y + gap, side="below", tip=tip and (x, y + 7 * canvas.scale)),
        ]
    return [one for one in found if lanes.box.top <= one.y <= lanes.box.bottom]


def _name_ends(
    canvas: Canvas,
    lines: Sequence[Sequence[Place]],
    names: Sequence[tuple[str, ...]],
    size: float,
    right: float,
) -> None:
    """Each line's name behind its last point, moved apart where two would meet, with a thin line from where it ends."""
    colours = (canvas.style.current, canvas.style.base_line)
    lasts = [next((spot for spot in reversed(line) if spot), None) for line in lines]
    ends = [(end, name, colour) for end, name, colour in zip(lasts, names, colours, strict=False) if end]
    ends.sort(key=lambda end: end[0][1])
    levels = [end[0][1] for end in ends]
    apart = size * LINE * sum(len(name) for _, name, _ in ends) / 2 + size * 0.1
    if len(levels) == 2 and levels[1] - levels[0] < apart:
        middle = sum(levels) / 2
        levels = [middle - apart / 2, middle + apart / 2]
    left = right - max(widest(name, size, True) for _, name, _ in ends) if ends else right
    for y, ((x, level), name, colour) in zip(levels, ends, strict=True):
        start, end = x + END_GAP * canvas.scale, left - END_GAP * canvas.scale
        if end - start > END_GAP * canvas.scale or abs(y - level) > size:
            # The name is told which point it is the end of, where it does not stand right behind it.
            canvas.path([(start, level), (max(start, end), y)], colour, THIN_LINE * canvas.scale)
        for place, line in enumerate(name):
            at = y + (place - (len(name) - 1) / 2) * LINE * size
            canvas.text(line, left, at, size, colour, bold=True, middle=True)


ABOUT = About(
    question="where do the two lines part?",
    also=("line chart", "actual against plan over time"),
    drawn="The current line over the base, and below them, on its own scale, a strip of variance bars.",
    example="""\
  marvex draw trend ledger.csv --every month --for 2026 --versus year-ago --where kind=income --base-as area""",
    view=Trend,
    turns=True,
    takes=("base_as",),
    only_time=True,
    with_beyond=True,
)
