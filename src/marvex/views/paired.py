"""How far apart are the two, each month? Base and current side by side, between them a piece pointed at the current.

The changes stand as figures under the names, or at the right of rows where names do not fit side by side.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from typing import TYPE_CHECKING, Self

from marvex.core.compare.point import Point
from marvex.core.exact import ZERO
from marvex.core.rules.bands import Band
from marvex.core.rules.judging import Judged
from marvex.core.values import dataclass
from marvex.views.drawing import lanes as lane
from marvex.views.drawing.about import About
from marvex.views.drawing.box import Box
from marvex.views.drawing.direction import stand_where_they_fit
from marvex.views.drawing.figure_columns import head_of_rows
from marvex.views.drawing.labels import Label, Piece
from marvex.views.drawing.lanes import Lanes, Needs
from marvex.views.drawing.legend import LegendKey, band_keys
from marvex.views.drawing.look import Look
from marvex.views.drawing.point_view import ViewOfPoints
from marvex.views.drawing.text_metrics import widest

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

BESIDE = 0.8  # of the width: the rest is for the axis, and for what the rows of figures are called
BAR, PIECE = 0.33, 0.13  # of a lane
FEW, WIDEST_PAIR = 3, 560.0  # pairs with their change between the bars; pixels of one
FEW_BAR, FEW_GAP, FEW_PIECE, MOST_PIECE, LARGE = (
    0.27,
    0.34,
    0.3,
    56.0,
    1.5,
)  # of a lane, of the gap; pixels; of a label
LEAST_LANE = 1.9  # of the least type: a row with two bars and a piece between them
LEAST_LINES = 11.0  # of text: the height of a plot in a panel


@dataclass(frozen=True, slots=True)
class Paired(ViewOfPoints):
    """Two bars a point.

    Parameters
    ----------
    stands : in columns or not, where that is asked for.
    """

    stands: bool | None = None

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
        return replace(self, stands=not any(self._lies(canvas, points, width) for points in panels))

    def least_height(self, canvas: Canvas, points: Sequence[Judged], width: float) -> float:
        if not self._lies(canvas, points, width):
            return lane.least_height_of_columns(canvas, self.look, LEAST_LINES)
        axis = canvas.sized(canvas.style.name_size) * 1.9
        head = head_of_rows(canvas, self.look, self._figures())
        return head + axis + len(points) * LEAST_LANE * canvas.least

    def _lies(self, canvas: Canvas, points: Sequence[Judged], width: float) -> bool:
        return not stand_where_they_fit(canvas, self.look, points, width * BESIDE, stands=self.stands)

    def draw(
        self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]
    ) -> tuple[Point, ...]:
        if self._are_few(canvas, points, room.width):
            FewPairs(self.look).draw(canvas, room, points, reach)
            return ()
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
            lane.draw_turn(canvas, lanes, place, look.turns(point), thickness, apart)
            for side, shift in ((point.base, -apart), (point.current, apart)):
                if side is None and look.names.base:
                    _draw_absent(canvas, lanes, place, shift, thickness)
        lane.draw_zero(canvas, lanes)
        return lane.without_figures(points, lanes, self._figures())

    def _are_few(self, canvas: Canvas, points: Sequence[Judged], width: float) -> bool:
        """Whether the pairs are so few that each has room for its change between its bars, and that is wanted."""
        if len(points) > FEW or not self._figures() or self.look.in_panels or self._lies(canvas, points, width):
            return False
        return FewPairs(self.look).fits(canvas, points, width / len(points))

    def _figures(self) -> tuple[str, ...]:
        return self.look.show if self.look.labels != "none" else ()

    def _lanes(self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]) -> Lanes:
        look = self.look
        needs = Needs(low=0.0, high=6 * canvas.scale, figures=self._figures(), axis=True)
        if not self._lies(canvas, points, room.width):
            return lane.columns(canvas, room, points, look, reach, needs)
        return lane.rows(canvas, room, points, lane.row_names(points, look), look, reach, needs)


@dataclass(frozen=True, slots=True)
class FewPairs:
    """One to three pairs: the values over their bars, level lines from both, and between them the change, large."""

    look: Look

    def draw(self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]) -> None:
        look, size = self.look, canvas.sized(canvas.style.label_size)
        large = max(self._change(one).extent(size * LARGE)[1] for one in points) + 2 * lane.GAP * canvas.scale
        lowest = large if any(self._hangs(one) for one in points) else 1.8 * size if reach[0] < 0 else 0.0
        needs = Needs(low=lowest, high=large + size if reach[1] > 0 else 1.8 * size)
        # One or two pairs stand together in the middle, not each at the far end of the page.
        free = max(0.0, room.width - len(points) * WIDEST_PAIR * canvas.scale) / 2
        inner = Box(left=room.left + free, top=room.top, right=room.right - free, bottom=room.bottom)
        lanes = lane.columns(canvas, inner, points, look, reach, needs)
        thickness, gap = lanes.slot * FEW_BAR, lanes.slot * FEW_GAP
        labelled = look.labelled(points)
        for place, one in enumerate(points):
            self._draw_pair(canvas, lanes, place, one, thickness, gap)
            if place in labelled:
                self._draw_change(canvas, lanes, place, one, gap)
        lane.draw_zero(canvas, lanes)

    def fits(self, canvas: Canvas, points: Sequence[Judged], slot: float) -> bool:
        """Whether the values fit over their bars, and the changes between them."""
        size, slot = canvas.sized(canvas.style.label_size), min(slot, WIDEST_PAIR * canvas.scale)
        sides = [(one.point, side) for one in points for side in (one.point.current, one.point.base)]
        values = widest([self.look.figures.amount_of(*one) for one in sides], size)
        changes = max(self._change(one).extent(size)[0] for one in points)
        return values <= slot * FEW_BAR and changes <= slot * FEW_GAP

    def _hangs(self, one: Judged) -> bool:
        """Whether the change stands below: both sides are negative."""
        return all(side is None or side < 0 for side in (one.point.current, one.point.base))

    def _change(self, one: Judged) -> Label:
        """The change and what else is shown, the sides aside, whose figures stand at the bars."""
        shown = [what for what in self.look.show if what not in ("current", "base")]
        return self.look.label(one, shown or ["change"])

    def _draw_pair(self, canvas: Canvas, lanes: Lanes, place: int, one: Judged, thickness: float, gap: float) -> None:
        look, style, point = self.look, canvas.style, one.point
        size, said, apart = canvas.sized(style.label_size), look.sentence(one), (thickness + gap) / 2
        middle = lanes.middle(place)
        for side, shift, fill in ((point.base, -apart, style.base), (point.current, apart, style.current)):
            if side is None:
                _draw_absent(canvas, lanes, place, shift, thickness)
                continue
            box = canvas.rectangle(lanes.bar(place, ZERO, side, thickness, shift), fill, sentence=said)
            y = box.top - size * 0.5 if side >= 0 else box.bottom + size * 1.15
            canvas.text(look.figures.amount_of(point, side), middle + shift, y, size, style.ink, align="center")
            level = lanes.scale.place(side)
            start = middle + shift + (thickness / 2 if shift < 0 else -thickness / 2)
            canvas.line(start, level, middle + (gap / 2 if shift < 0 else -gap / 2), level, style.connector)
        if point.change and point.base is not None and point.current is not None:
            piece = min(gap * FEW_PIECE, MOST_PIECE * canvas.scale)
            canvas.polygon(lanes.pointed(place, point.base, point.current, piece), look.fill(one), said)

    def _draw_change(self, canvas: Canvas, lanes: Lanes, place: int, one: Judged, gap: float) -> None:
        """The change between the two bars, beyond the farther of their levels."""
        size, middle = canvas.sized(canvas.style.label_size), lanes.middle(place)
        levels = [lanes.scale.place(side or ZERO) for side in (one.point.current, one.point.base)]
        label = self._change(one)
        large = min(size * LARGE, size * gap / label.extent(size)[0])
        width, height = label.extent(large)
        edge = lane.GAP * 0.8 * canvas.scale
        top = max(levels) + edge if self._hangs(one) else min(levels) - edge - height
        box = Box(left=middle - width / 2, top=top, right=middle + width / 2, bottom=top + height)
        label.draw(canvas, box, large, "center")


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
    turns=True,
    takes=("horizontal", "upright"),
    show=("change", "percent"),
    needs_base=True,
)
