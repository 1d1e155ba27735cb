"""Is each one over or under its mark? One bar a point in its band's colour, the base as a tick on it.

Categories in rows, periods in columns; over time the base is one stepped line.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from typing import TYPE_CHECKING

from marvex.core.compare.point import Point
from marvex.core.exact import ZERO
from marvex.core.rules.bands import Band
from marvex.core.rules.judging import Judged
from marvex.core.values import dataclass
from marvex.views.drawing import lanes as lane
from marvex.views.drawing.about import About
from marvex.views.drawing.box import Box
from marvex.views.drawing.direction import stand_as_periods
from marvex.views.drawing.labels import Placer
from marvex.views.drawing.lanes import Lanes, Needs
from marvex.views.drawing.legend import LegendKey, Swatch, band_keys
from marvex.views.drawing.point_view import ViewOfPoints
from marvex.views.drawing.style import Shape

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

TICK, CASING = 3.0, 2.0  # pixels
OFF_TICK = 0.7  # of the label size: a label stands so far from a tick that it is not the value of
TICK_LENGTH = 1.28  # of a bar's thickness
ARROW = 0.2  # of a lane, beside the bar
LEAST_LINES = 9.0  # of text: the height of a plot in a panel
BAR_BY_ARROW = 0.46


@dataclass(frozen=True, slots=True)
class Against(ViewOfPoints):
    """Bars against ticks.

    Parameters
    ----------
    arrows : a slim arrow beside each bar leads from the tick's level to the bar's end.
    paint : what the band colours: the whole `bar`, or the `change`, the piece between base and current.
    stands : in columns or not, where that is asked for.
    """

    arrows: bool = False
    paint: str = "bar"
    stands: bool | None = None

    def legend_keys(self, bands: Sequence[Band], points: Sequence[Judged]) -> list[LegendKey]:
        style, names = self.look.style, self.look.names
        if not bands:
            return []
        over_time = all(one.point.is_period for one in points)
        swatch = Swatch.LINE if over_time else Swatch.TICK
        keys = [LegendKey(name=names.base, condition="", fill=style.base_line, swatch=swatch)]
        if self.paint == "change":
            keys.insert(0, LegendKey(name=names.current, condition="", fill=style.current))
        if {"current", "base"} <= set(self.look.show):
            figures = ((names.current, style.ink), (names.base, style.base_line))
            keys = [LegendKey(name=name, condition="", fill=ink, swatch=Swatch.FIGURE) for name, ink in figures]
        return [*keys, *band_keys(bands, style)]

    def note(self, points: Sequence[Judged]) -> str:
        """What the picture has to say of itself, for the foot."""
        return self.look.note(points)

    def least_height(self, canvas: Canvas, points: Sequence[Judged], width: float) -> float:  # noqa: ARG002
        if self._stands(points):
            return lane.least_height_of_columns(canvas, self.look, LEAST_LINES)
        return lane.least_height_of_rows(canvas, len(points))

    def _stands(self, points: Sequence[Judged]) -> bool:
        return stand_as_periods(points, self.stands)

    def draw(
        self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]
    ) -> tuple[Point, ...]:
        lanes = self._lanes(canvas, room, points, reach)
        placer = Placer(canvas, Box(left=lanes.box.left, top=room.top, right=room.right, bottom=lanes.box.bottom))
        labelled = self.look.labelled(points, side_by_side=self._stands(points))
        thickness = lane.thickness_of(lanes, canvas, BAR_BY_ARROW if self.arrows else lane.THICKNESS)
        shift = -ARROW * 0.75 * lanes.slot if self.arrows else 0.0
        for place, one in enumerate(points):
            for box in self._draw_bar(canvas, lanes, place, one, thickness, shift):
                placer.block(box)
            lane.draw_turn(canvas, lanes, place, self.look.turns(one.point), thickness, shift)
        lane.draw_zero(canvas, lanes)
        for box in (*self._draw_base(canvas, lanes, points, thickness), *lanes.words):
            placer.block(box)
        for place, one in enumerate(points):
            if self.arrows:
                self._draw_arrow(canvas, lanes, place, one)
            if place in labelled:
                self._ask_for_label(canvas, placer, lanes, place, one)
        return placer.settle()

    def _lanes(self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]) -> Lanes:
        look, stands = self.look, self._stands(points)
        labelled = look.labelled(points, side_by_side=stands)
        labels = [look.label(one) for one in look.everyone or [points[place] for place in sorted(labelled)]]
        axis = look.grid or look.labels != "all" or (stands and look.is_crowded(points))
        off = OFF_TICK * canvas.sized(canvas.style.label_size)
        if stands:
            beyond = lane.label_room(canvas, labels, horizontal=False) + off
            needs = Needs(low=beyond if reach[0] < 0 else 0.0, high=beyond, axis=axis)
            return lane.columns(canvas, room, points, look, reach, needs)
        beyond = lane.label_room(canvas, [one.joined for one in labels], horizontal=True) + off
        needs = Needs(low=beyond if reach[0] < 0 else 0.0, high=beyond if reach[1] > 0 else 0.0, axis=axis)
        return lane.rows(canvas, room, points, lane.row_names(points, look), look, reach, needs)

    def _draw_bar(
        self, canvas: Canvas, lanes: Lanes, place: int, one: Judged, thickness: float, shift: float
    ) -> list[Box]:
        """The bar in its band's colour, or in the current side's ink with the band's on the piece of the change."""
        point, said = one.point, self.look.sentence(one)
        if point.current is None:
            return []
        is_piece = self.paint == "change" and point.base is not None
        fill = self.look.style.current if self.paint == "change" else self.look.fill(one)
        found = [canvas.rectangle(lanes.bar(place, ZERO, point.current, thickness, shift), fill, sentence=said)]
        if is_piece and point.base is not None and point.change:
            piece = lanes.bar(place, point.base, point.current, thickness, shift)
            found.append(canvas.rectangle(piece, self.look.fill(one), sentence=said))
        return found

    def _draw_base(self, canvas: Canvas, lanes: Lanes, points: Sequence[Judged], thickness: float) -> list[Box]:
        """The ticks, or over time the one stepped line through them; gives what no label may lie on."""
        style, width = canvas.style, max(2.0, TICK * canvas.scale)
        is_line = not lanes.horizontal and all(one.point.is_period for one in points)
        length = lanes.slot if is_line else thickness * TICK_LENGTH
        if self.arrows:
            length = lanes.slot * 0.86
        found = []
        before: Decimal | None = None
        for place, one in enumerate(points):
            base = one.point.base
            if base is not None:
                tick = lanes.tick(place, base, length, width)
                canvas.rectangle(_cased(tick, lanes, one.point, CASING * canvas.scale), style.ground)
                canvas.marks.pop()
                found.append(canvas.rectangle(tick, style.base_line))
                if before is not None and is_line:
                    ends = sorted((lanes.scale.place(before), lanes.scale.place(base)))
                    riser = Box(
                        left=tick.left - width / 2,
                        top=ends[0] - width / 2,
                        right=tick.left + width / 2,
                        bottom=ends[1] + width / 2,
                    )
                    canvas.rectangle(riser, style.base_line)
            before = base
        return found

    def _draw_arrow(self, canvas: Canvas, lanes: Lanes, place: int, one: Judged) -> None:
        """From the tick's level to the bar's end, beside the bar; a dot where there is no way to go."""
        point = one.point
        if point.current is None or point.base is None or point.current == point.base:
            return
        shift = BAR_BY_ARROW / 2 * lanes.slot
        thick = min(ARROW * lanes.slot, 16 * canvas.scale)
        if abs(lanes.scale.place(point.current) - lanes.scale.place(point.base)) < lane.SEEN:
            dot = max(4.0, thick * 0.6)
            spot = lanes.beside(place, point.base, point.current, (TICK * canvas.scale + dot) / 2, shift)
            canvas.shape(Shape.CIRCLE, *spot, dot, self.look.ink(one))
            return
        canvas.polygon(lanes.arrow(place, point.base, point.current, thick, shift), self.look.ink(one))

    def _ask_for_label(self, canvas: Canvas, placer: Placer, lanes: Lanes, place: int, one: Judged) -> None:
        """Beyond the farther of bar and tick; off the tick, so that it is not read as the tick's value."""
        point, gap = one.point, lane.GAP * 0.6 * canvas.scale
        label = self.look.label(one, marked=point.is_period)
        known = [side for side in (point.current, point.base) if side is not None]
        now = point.current if point.current is not None else known[0] if known else ZERO
        is_low = now < 0
        end = min((*known, ZERO)) if is_low else max((*known, ZERO))
        if self.arrows or lanes.scale.place(end) != lanes.scale.place(now):
            gap += OFF_TICK * canvas.sized(canvas.style.label_size)
        spots = [
            lanes.beyond(place, end, gap + further * canvas.scale, is_low=is_low) for further in (0.0, 6.0, 14.0)
        ]
        if not lanes.horizontal:  # over the labels and the risers of its neighbours, with a thin line to its own
            height = label.extent(canvas.sized(canvas.style.label_size))[1]
            far = [lanes.beyond(place, end, gap + further * height, is_low=is_low) for further in (1.0, 2.0)]
            spots += [replace(spot, tip=(spots[0].x, spots[0].y)) for spot in far]
        placer.want(label.joined if lanes.horizontal else label, spots, point)


def _cased(tick: Box, lanes: Lanes, point: Point, by: float) -> Box:
    """The light casing of a tick, along the way that a bar goes; none behind it where that would hide the bar's end."""
    zero, end = (lanes.scale.place(one) for one in (ZERO, point.current or ZERO))
    edges = (tick.left, tick.right) if lanes.horizontal else (tick.top, tick.bottom)
    goes_on = end > zero
    beyond = end - edges[1] if goes_on else edges[0] - end
    behind = 0.0 if 0 < beyond <= 2 * by + 1 else by
    before, after = (by, behind) if goes_on else (behind, by)
    if lanes.horizontal:
        return Box(left=tick.left - before, top=tick.top, right=tick.right + after, bottom=tick.bottom)
    return Box(left=tick.left, top=tick.top - before, right=tick.right, bottom=tick.bottom + after)


ABOUT = About(
    question="is each one over or under its mark?",
    also=("actual against target", "bars with target marks"),
    drawn="One bar a point, coloured by its band; the base as a tick on each bar, or as one stepped line over time.",
    example="""\
  marvex draw against ledger.csv --by account_name --where kind=cost --source-sign negative --better down
  marvex draw against ledger.csv --every month --for 2026 --where account_name=Fuel --source-sign negative \\
      --better down""",
    view=Against,
    turns=True,
    takes=("arrows", "paint", "horizontal", "upright"),
    show=("current", "change"),
)
