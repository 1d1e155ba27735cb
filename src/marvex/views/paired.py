"""How far apart are the two, each month? Base and current side by side, between them a piece pointed at the current.

The changes stand as figures under the names, or at the right of rows where names do not fit side by side.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import TYPE_CHECKING, Self

from marvex.core.compare.point import Point
from marvex.core.exact import ZERO
from marvex.core.rules.bands import Band
from marvex.core.rules.judging import Judged
from marvex.views.drawing import lanes as lane
from marvex.views.drawing.about import About
from marvex.views.drawing.box import Box
from marvex.views.drawing.direction import stand_where_they_fit
from marvex.views.drawing.labels import Piece
from marvex.views.drawing.lanes import Lanes, Needs
from marvex.views.drawing.legend import LegendKey, band_keys
from marvex.views.drawing.point_view import ViewOfPoints

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

BESIDE = 0.8  # of the width: the rest is for the axis, and for what the rows of figures are called
BAR, PIECE = 0.33, 0.13  # of a lane
LEAST_LANE = 20.0  # pixels of a row with two bars and a piece between them
LEAST_LINES = 11.0  # of text: the height of a plot in a panel


@dataclass(frozen=True, slots=True)
class Paired(ViewOfPoints):
    """Two bars a point.

    Parameters
    ----------
    horizontal : rows instead of columns.
    """

    horizontal: bool = False

    def legend_keys(self, bands: Sequence[Band], points: Sequence[Judged]) -> list[LegendKey]:  # noqa: ARG002
        names, style = self.look.names, self.look.style
        if not bands:
            return []
        sides = [
            LegendKey(name=names.base, condition="", fill=style.base),
            LegendKey(name=names.current, condition="", fill=style.current),
        ]
        return [*sides, *band_keys(bands, style)]

    def alike(self, canvas: Canvas, panels: Sequence[Sequence[Judged]], width: float) -> Self:
        """Lying in all panels where one has no room for columns."""
        return replace(self, horizontal=any(self._lies(canvas, points, width) for points in panels))

    def least_height(self, canvas: Canvas, points: Sequence[Judged], width: float) -> float:
        if not self._lies(canvas, points, width):
            return lane.least_height_of_columns(canvas, self.look, LEAST_LINES)
        return len(points) * LEAST_LANE * canvas.least / canvas.style.least_size

    def _lies(self, canvas: Canvas, points: Sequence[Judged], width: float) -> bool:
        return not stand_where_they_fit(canvas, self.look, points, width * BESIDE, horizontal=self.horizontal)

    def draw(
        self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]
    ) -> tuple[Point, ...]:
        look, style = self.look, canvas.style
        lanes = self._lanes(canvas, room, points, reach)
        thickness = lane.thickness_of(lanes, canvas, BAR)
        between = max(2.0, min(PIECE * lanes.slot, 30 * canvas.scale))
        apart = (thickness + between) / 2 + 1
        for place, one in enumerate(points):
            point, said = one.point, look.sentence(one)
            if point.base is not None:
                canvas.rectangle(lanes.bar(place, ZERO, point.base, thickness, -apart), style.base, sentence=said)
            if point.current is not None:
                canvas.rectangle(
                    lanes.bar(place, ZERO, point.current, thickness, apart), style.current, sentence=said
                )
            if point.change:
                assert point.base is not None and point.current is not None
                canvas.polygon(lanes.pointed(place, point.base, point.current, between), look.fill(one), said)
            for side, shift in ((point.base, -apart), (point.current, apart)):
                if side is None and look.names.base:
                    _draw_absent(canvas, lanes, place, shift, thickness)
        lane.draw_zero(canvas, lanes)
        return lane.without_figures(points, lanes, self._figures())

    def _figures(self) -> tuple[str, ...]:
        return self.look.show if self.look.labels != "none" else ()

    def _lanes(self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]) -> Lanes:
        look = self.look
        needs = Needs(low=0.0, high=6 * canvas.scale, figures=self._figures(), axis=True)
        if not self._lies(canvas, points, room.width):
            return lane.columns(canvas, room, points, look, reach, needs)
        return lane.rows(canvas, room, points, lane.row_names(points, look), look, reach, needs)


def _draw_absent(canvas: Canvas, lanes: Lanes, place: int, shift: float, thickness: float) -> None:
    """A word where a side has no rows, in the place of its bar; nothing where the bar would be too slim for it."""
    size = canvas.sized(canvas.style.name_size * 0.85)
    piece = Piece(text="n/a", colour=canvas.style.soft, bold=False)
    width = piece.width(size)
    box = lanes.tick(place, ZERO, thickness, 0.0, shift)
    if lanes.horizontal:
        if thickness >= size * 0.9:
            piece.draw(canvas, box.right + 4 * canvas.scale, (box.top + box.bottom) / 2 + size * 0.36, size)
    elif width <= thickness:
        piece.draw(canvas, (box.left + box.right - width) / 2, box.top - size * 0.4, size)


ABOUT = About(
    question="how far apart are the two, each month?",
    also=("side-by-side columns", "clustered columns", "grouped bars"),
    drawn="Base and current bars side by side, between them a piece pointed from the one's level to the other's.",
    example="""\
  marvex draw paired ledger.csv --every month --where account_name=Fuel --source-sign negative --better down""",
    view=Paired,
    takes=("horizontal",),
    show=("change", "percent"),
    needs_base=True,
)
