"""Is each one over or under its mark? One bar a point in its band's colour, the base as a tick on it.

Categories in rows, periods in columns; over time the base is one stepped line.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import TYPE_CHECKING

from marvex.core.compare.point import Point
from marvex.core.exact import ZERO
from marvex.core.rules.bands import Band
from marvex.core.rules.judging import Judged
from marvex.views.drawing import lanes as lane
from marvex.views.drawing.about import About
from marvex.views.drawing.box import Box
from marvex.views.drawing.direction import stand_as_periods
from marvex.views.drawing.labels import Placer
from marvex.views.drawing.lanes import Lanes, Needs
from marvex.views.drawing.legend import LegendKey, Swatch, band_keys
from marvex.views.drawing.point_view import ViewOfPoints

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

TICK = 3.0
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
    """

    arrows: bool = False

    def legend_keys(self, bands: Sequence[Band], points: Sequence[Judged]) -> list[LegendKey]:
        style = self.look.style
        if not bands:
            return []
        over_time = all(one.point.is_period for one in points)
        swatch = Swatch.LINE if over_time else Swatch.TICK
        return [
            LegendKey(name=self.look.names.base, condition="", fill=style.base_line, swatch=swatch),
            *band_keys(bands, style),
        ]

    def note(self, points: Sequence[Judged]) -> str:
        """What the picture has to say of itself, for the foot."""
        return self.look.note(points)

    def least_height(self, canvas: Canvas, points: Sequence[Judged], width: float) -> float:  # noqa: ARG002
        if stand_as_periods(points):
            return lane.least_height_of_columns(canvas, self.look, LEAST_LINES)
        return lane.least_height_of_rows(canvas, len(points))

    def draw(
        self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]
    ) -> tuple[Point, ...]:
        lanes = self._lanes(canvas, room, points, reach)
        placer = Placer(canvas, Box(left=lanes.box.left, top=room.top, right=room.right, bottom=lanes.box.bottom))
        labelled = self.look.labelled(points, side_by_side=stand_as_periods(points))
        thickness = lane.thickness_of(lanes, canvas, BAR_BY_ARROW if self.arrows else lane.THICKNESS)
        shift = -ARROW * 0.75 * lanes.slot if self.arrows else 0.0
        for place, one in enumerate(points):
            now = one.point.current
            if now is not None:
                box = lanes.bar(place, ZERO, now, thickness, shift)
                placer.block(canvas.rectangle(box, self.look.fill(one), sentence=self.look.sentence(one)))
        lane.draw_zero(canvas, lanes)
        for box in self._draw_base(canvas, lanes, points, thickness):
            placer.block(box)
        for place, one in enumerate(points):
            if self.arrows:
                self._draw_arrow(canvas, lanes, place, one)
            if place in labelled:
                self._ask_for_label(canvas, placer, lanes, place, one)
        return placer.settle()

    def _lanes(self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]) -> Lanes:
        look = self.look
        labelled = look.labelled(points, side_by_side=stand_as_periods(points))
        labels = [look.label(one) for one in look.everyone or [points[place] for place in sorted(labelled)]]
        axis = look.grid or look.labels != "all" or (stand_as_periods(points) and look.is_crowded(points))
        if stand_as_periods(points):
            beyond = lane.label_room(canvas, labels, horizontal=False)
            needs = Needs(low=beyond if reach[0] < 0 else 0.0, high=beyond, axis=axis)
            return lane.columns(canvas, room, points, look, reach, needs)
        beyond = lane.label_room(canvas, [one.joined for one in labels], horizontal=True)
        needs = Needs(low=beyond if reach[0] < 0 else 0.0, high=beyond if reach[1] > 0 else 0.0, axis=axis)
        return lane.rows(canvas, room, points, lane.row_names(points, look), look, reach, needs)

    def _draw_base(self, canvas: Canvas, lanes: Lanes, points: Sequence[Judged], thickness: float) -> list[Box]:
        """The ticks, or over time the one stepped line through them; gives what no label may lie on."""
        style, width = canvas.style, max(2.0, TICK * canvas.scale)
        length = lanes.slot if not lanes.horizontal else thickness * TICK_LENGTH
        if self.arrows and lanes.horizontal:
            length = lanes.slot * 0.86
        found = []
        before: Decimal | None = None
        for place, one in enumerate(points):
            base = one.point.base
            if base is not None:
                tick = lanes.tick(place, base, length, width)
                canvas.rectangle(_grown(tick, 1.0), style.ground)
                found.append(canvas.rectangle(tick, style.base_line))
                if before is not None and not lanes.horizontal:
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
        """From the tick's level to the bar's end, beside the bar."""
        point = one.point
        if point.current is None or point.base is None or point.current == point.base:
            return
        shift = (BAR_BY_ARROW / 2 - ARROW * 0.75 + ARROW * 0.75) * lanes.slot
        thick = min(ARROW * lanes.slot, 16 * canvas.scale)
        points = lanes.arrow(place, point.base, point.current, thick, shift)
        canvas.polygon(points, self.look.ink(one))

    def _ask_for_label(self, canvas: Canvas, placer: Placer, lanes: Lanes, place: int, one: Judged) -> None:
        point, gap = one.point, lane.GAP * 0.6 * canvas.scale
        label = self.look.label(one, marked=point.is_period)
        known = [side for side in (point.current, point.base) if side is not None]
        is_low = (point.current if point.current is not None else known[0] if known else ZERO) < 0
        end = min((*known, ZERO)) if is_low else max((*known, ZERO))
        spots = [
            lanes.beyond(place, end, gap + further * canvas.scale, is_low=is_low) for further in (0.0, 6.0, 14.0)
        ]
        placer.want(label.joined if lanes.horizontal else label, spots, point)


def _grown(box: Box, by: float) -> Box:
    return Box(left=box.left, top=box.top - by, right=box.right, bottom=box.bottom + by)


ABOUT = About(
    question="is each one over or under its mark?",
    also=("actual against target", "bars with target marks"),
    drawn="One bar a point, coloured by its band; the base as a tick on each bar, or as one stepped line over time.",
    example="""\
  marvex draw against ledger.csv --by account_name --where kind=cost --source-sign negative --better down
  marvex draw against ledger.csv --every month --for 2026 --where account_name=Fuel --source-sign negative \\
      --better down""",
    view=Against,
    takes=("arrows",),
    show=("current", "change"),
)
