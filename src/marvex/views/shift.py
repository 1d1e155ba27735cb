"""Who moved, from where to where? One row a category: the base as a tick, an arrow to a solid head at the current."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from typing import TYPE_CHECKING

from marvex.core.compare.point import Point
from marvex.core.rules.bands import Band
from marvex.core.rules.judging import Judged
from marvex.core.values import dataclass
from marvex.views.drawing import lanes as lane
from marvex.views.drawing.about import About
from marvex.views.drawing.box import Box
from marvex.views.drawing.figure_columns import head_of_rows
from marvex.views.drawing.lanes import Lanes, Needs
from marvex.views.drawing.legend import LegendKey, Swatch, band_keys
from marvex.views.drawing.point_view import ViewOfPoints
from marvex.views.drawing.style import Shape
from marvex.views.drawing.text_metrics import measured

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

TICK, TICK_LENGTH = 4.0, 0.46  # pixels; of a row
HEAD, DOT = 0.44, 0.36  # of a row; of a head
MOST_HEAD, MOST_TICK = 30.0, 36.0


@dataclass(frozen=True, slots=True)
class Shift(ViewOfPoints):
    """Arrows from tick to head."""

    def legend_keys(self, bands: Sequence[Band], points: Sequence[Judged]) -> list[LegendKey]:  # noqa: ARG002
        style = self.look.style
        if not bands:
            return []
        return [
            LegendKey(name=self.look.names.base, condition="", fill=style.base_line, swatch=Swatch.TICK),
            *band_keys(bands, style),
        ]

    def least_height(self, canvas: Canvas, points: Sequence[Judged], width: float) -> float:  # noqa: ARG002
        figures = self.look.show if self.look.labels != "none" else ()
        ends = canvas.sized(canvas.style.name_size) * 2.2  # what the ends are called, and the axis
        return ends + head_of_rows(canvas, self.look, figures) + lane.least_height_of_rows(canvas, len(points))

    def draw(
        self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]
    ) -> tuple[Point, ...]:
        look, style = self.look, canvas.style
        edge = MOST_HEAD * 0.7 * canvas.scale
        figures = look.show if look.labels != "none" else ()
        width = measured(look.names.current, canvas.sized(look.style.name_size * 0.94), True).width
        high = min(max(edge, width), 0.12 * room.width)
        needs = Needs(low=edge, high=high, figures=figures, axis=True, hairlines=look.grid)
        names = lane.row_names(points, look)
        lanes = lane.rows(canvas, room, points, names, look, reach, needs)
        length = min(TICK_LENGTH * lanes.slot, MOST_TICK * canvas.scale)
        head = min(HEAD * lanes.slot, MOST_HEAD * canvas.scale)
        for place, one in enumerate(points):
            point, said = one.point, look.sentence(one)
            middle = lanes.middle(place)
            canvas.line(lanes.box.left, middle, lanes.box.right, middle, style.hairline)
            if point.base is not None:
                tick = lanes.tick(place, point.base, length, max(2.0, TICK * canvas.scale))
                canvas.rectangle(tick, style.base_line, sentence=said)
            if point.current is not None:
                self._draw_move(canvas, lanes, place, one, head)
        self._name_ends(canvas, lanes, points)
        return lane.without_figures(points, lanes, figures)

    def _draw_move(self, canvas: Canvas, lanes: Lanes, place: int, one: Judged, head: float) -> None:
        """An arrow to the current; a dot where it has no way to go, on the side of the tick that it went to."""
        point, fill, said = one.point, self.look.fill(one), self.look.sentence(one)
        assert point.current is not None
        now, dot = lanes.scale.place(point.current), max(6.0, head * DOT)
        if point.base is not None and abs(now - lanes.scale.place(point.base)) >= lane.SEEN:
            canvas.polygon(lanes.arrow(place, point.base, point.current, head), fill, said)
            return
        spot = now, lanes.middle(place)
        if point.base is not None and point.current != point.base:
            spot = lanes.beside(place, point.base, point.current, (TICK * canvas.scale + dot) / 2)
        canvas.shape(Shape.CIRCLE, *spot, dot, fill, said)

    def _name_ends(self, canvas: Canvas, lanes: Lanes, points: Sequence[Judged]) -> None:
        """Both ends named once, over the first row that has both."""
        look = self.look
        place, one = next(((place, one) for place, one in enumerate(points) if one.point.change), (0, points[0]))
        point = one.point
        if place or not look.names.base or point.current is None or point.base is None:
            return
        size = canvas.sized(look.style.name_size * 0.94)
        ends = [
            (lanes.scale.place(point.base), look.names.base, look.style.base_line),
            (lanes.scale.place(point.current), look.names.current, look.style.ink),
        ]
        ends.sort(key=lambda end: end[0])
        y = lanes.box.top - size * 0.85
        widths = [measured(text, size, True).width for _, text, _ in ends]
        left, right = ends[0][0] - widths[0] / 2, ends[1][0] - widths[1] / 2
        if left + widths[0] + size / 2 > right:
            middle = (ends[0][0] + ends[1][0]) / 2
            left, right = middle - widths[0] - size / 4, middle + size / 4
        if left >= lanes.box.left and right + widths[1] <= lanes.box.right + size / 2:
            for x, (_, text, colour) in zip((left, right), ends, strict=True):
                canvas.text(text, x, y, size, colour, bold=True)


ABOUT = About(
    question="who moved, from where to where?",
    also=("arrow plot", "before and after", "slope"),
    drawn="One row a category: the base as a tick, and an arrow from it to a solid head at the current.",
    example="""\
  marvex draw shift ledger.csv --by route --versus year-ago --where kind=income --order current""",
    view=Shift,
    show=("current", "change", "percent"),
    along_time=False,
    needs_base=True,
    needs_categories=True,
)
