"""A whole picture: title block, legend and foot line, and a view in one plot or in a panel each."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from decimal import Decimal
from typing import Protocol, Self, TypeVar

from marvex.core.compare.point import Point
from marvex.core.errors import Mistake, setting
from marvex.core.rules.bands import Band
from marvex.core.values import dataclass
from marvex.views.drawing.box import Box
from marvex.views.drawing.canvas import Canvas
from marvex.views.drawing.ends import Ends, Free, are_apart, innermost
from marvex.views.drawing.frame import Framing, draw_frame
from marvex.views.drawing.labels import shortened
from marvex.views.drawing.legend import LegendKey
from marvex.views.drawing.look import Look
from marvex.views.drawing.panel import Drawable, Panel
from marvex.views.drawing.scale import reaching
from marvex.views.drawing.text_metrics import measured

BEST_SHAPE = 1.7  # a panel's width by its height
BETWEEN = (34.0, 26.0)  # pixels between panels, across and down
LEAST_ZOOM = 0.62
PLOT = (1188.0, 572.0)  # the room of a plot at 1280x800, at which a panel's type is full size

DrawableIn = TypeVar("DrawableIn", contravariant=True)


class View(Protocol[DrawableIn]):
    """What a view is to a picture; its own fields are all its settings."""

    @property
    def look(self) -> Look: ...

    def legend_keys(self, bands: Sequence[Band], points: Sequence[DrawableIn]) -> list[LegendKey]: ...

    def sentence(self, one: DrawableIn, /) -> str: ...

    def values(self, points: Sequence[DrawableIn]) -> Iterable[Decimal]:
        """What the scale must reach."""
        ...

    def least_width(self, canvas: Canvas, points: Sequence[DrawableIn]) -> float:
        """So wide a panel must be for the points to be legible; zero where they fit any."""
        ...

    def least_height(self, canvas: Canvas, points: Sequence[DrawableIn], width: float) -> float:
        """So high a plot of that width must be for the points to be legible."""
        ...

    def alike(self, canvas: Canvas, panels: Sequence[Sequence[DrawableIn]], width: float) -> Self:
        """The view as all panels of that width can have it, where some cannot be as it would be otherwise."""
        ...

    def without(self, labels: frozenset[str]) -> Self:
        """The view with no label at the points of these names."""
        ...

    def draw(
        self, canvas: Canvas, room: Box, points: Sequence[DrawableIn], reach: tuple[Decimal, Decimal]
    ) -> tuple[Point, ...]:
        """Draws the points; gives those whose label found no room."""
        ...


@dataclass(frozen=True, slots=True, eq=False)
class Drawn:
    """A picture, and the points whose label was left out for want of room."""

    canvas: Canvas
    dropped: tuple[Point, ...]


def drawn(
    view: View[Drawable],
    panels: Sequence[Panel[Drawable]],
    bands: Sequence[Band],
    framing: Framing,
    size: tuple[int, int],
    *,
    can_grow: bool,
    own_scale: bool = False,
) -> Drawn:
    """The picture of all panels.

    Parameters
    ----------
    size : width and height in pixels.
    can_grow : whether the height may grow where the points need it.
    own_scale : each panel has its own scale instead of one for all.

    Raises Mistake where the points do not fit the size and it cannot grow.
    """
    keys = view.legend_keys(bands, [one for panel in panels for one in panel.points])
    width, height = size
    while True:
        canvas = Canvas(width, height, view.look.style, size[1] if can_grow else None)
        plot = draw_frame(canvas, framing, keys)
        least = max(view.least_width(canvas, panel.points) for panel in panels) if len(panels) > 1 else 0.0
        grid = _grid(canvas, plot, len(panels), least)
        if len(panels) > 1:
            view = view.alike(canvas.zoomed(grid.zoom), [panel.points for panel in panels], grid.cell(0).width)
        missing = _missing(view, canvas, panels, grid)
        if missing <= 0:
            break
        height += math.ceil(missing * grid.down)
    if height > size[1] and not can_grow:
        count = sum(len(panel.points) for panel in panels)
        raise Mistake(
            f"{count} points do not fit legibly in {size[0]}x{size[1]} pixels",
            f"Give {setting('size', f'{width}x{height}')}, or show fewer.",
        )
    dropped, ends = _with_panels(view, canvas, panels, grid, {}, own_scale=own_scale)
    # Equal amounts are equally long in all panels of one scale, though some need less room for their labels.
    shared = {} if own_scale else innermost(ends)

    def again(view: View[Drawable]) -> tuple[Canvas, list[Point]]:
        anew = Canvas(width, height, view.look.style, size[1] if can_grow else None)
        draw_frame(anew, framing, keys)
        return anew, _with_panels(view, anew, panels, grid, shared, own_scale=own_scale)[0]

    if shared and are_apart(ends, shared):
        canvas, dropped = again(view)
    if dropped and len(panels) > 1:
        # What has no room in one panel is left out in all: their labels stand alike.
        left_out = frozenset(point.label for point in dropped)
        canvas, more = again(view.without(left_out))
        dropped = [one.point for panel in panels for one in panel.points if one.point.label in left_out] + more
    return Drawn(canvas, tuple(dropped))


def _with_panels(
    view: View[Drawable],
    canvas: Canvas,
    panels: Sequence[Panel[Drawable]],
    grid: _PanelGrid,
    free: Mapping[str, Free],
    *,
    own_scale: bool,
) -> tuple[list[Point], list[Ends]]:
    """Draws all panels; gives the points whose label found no room, and where the scales of each panel end.

    Parameters
    ----------
    free : what the scales of each leave free, where that is not as the panel itself needs it.
    """
    reach_of_all = _reach(view, [one for panel in panels for one in panel.points])
    dropped, found = list[Point](), list[Ends]()
    for place, panel in enumerate(panels):
        cell = grid.cell(place)
        if len(panels) > 1:
            cell = _draw_heading(canvas, panel, cell, grid.zoom)
        reach = _reach(view, panel.points) if own_scale else reach_of_all
        ends = Ends(cell, free)
        dropped += view.draw(canvas.zoomed(grid.zoom, ends), cell, panel.points, reach)
        found.append(ends)
    return dropped, found


def _reach(view: View[Drawable], points: Sequence[Drawable]) -> tuple[Decimal, Decimal]:
    """The ends of the scale: as asked for, or all that the points reach, zero among them."""
    lowest, highest = reaching(view.values(points))
    if view.look.axis is None:
        return lowest, highest
    low, high = view.look.axis
    if lowest < low or highest > high:
        amount = view.look.figures.amount
        raise Mistake(
            f"{setting('axis', f'{low}/{high}')} leaves out what lies between {amount(lowest)} and {amount(highest)}",
            "Give ends that hold zero and every figure.",
        )
    return low, high


@dataclass(frozen=True, slots=True, kw_only=True)
class _PanelGrid:
    """Where panels stand: so many across and down in a room."""

    room: Box
    across: int
    down: int
    gap: tuple[float, float]
    zoom: float

    def cell(self, place: int) -> Box:
        row, column = divmod(place, self.across)
        width = (self.room.width - self.gap[0] * (self.across - 1)) / self.across
        height = (self.room.height - self.gap[1] * (self.down - 1)) / self.down
        left = self.room.left + column * (width + self.gap[0])
        top = self.room.top + row * (height + self.gap[1])
        return Box(left=left, top=top, right=left + width, bottom=top + height)


def _grid(canvas: Canvas, room: Box, count: int, least_width: float) -> _PanelGrid:
    """So many panels across that each comes nearest to the best shape, of those that leave each its width."""
    gap = (BETWEEN[0] * canvas.scale, BETWEEN[1] * canvas.scale)
    found = []
    for across in range(1, count + 1):
        down = math.ceil(count / across)
        grid = _PanelGrid(room=room, across=across, down=down, gap=gap, zoom=1.0)
        cell = grid.cell(0)
        if cell.width < 40 or cell.height < 20 or (across > 1 and cell.width < least_width):
            continue
        off = abs(math.log(cell.width / cell.height / BEST_SHAPE)) + 0.25 * (across * down - count) / count
        zoom = min(1.0, max(LEAST_ZOOM, math.sqrt(min(cell.width / PLOT[0], cell.height / PLOT[1]) / canvas.scale)))
        found.append(
            (off, across, _PanelGrid(room=room, across=across, down=down, gap=gap, zoom=zoom if count > 1 else 1.0))
        )
    if not found:
        return _PanelGrid(
            room=room,
            across=max(1, round(math.sqrt(count))),
            down=math.ceil(count / max(1, round(math.sqrt(count)))),
            gap=gap,
            zoom=LEAST_ZOOM,
        )
    return min(found, key=lambda one: one[:2])[2]


def _missing(view: View[Drawable], canvas: Canvas, panels: Sequence[Panel[Drawable]], grid: _PanelGrid) -> float:
    """By how many pixels the panels are too low for their points."""
    cell = grid.cell(0)
    head = 0.0 if len(panels) == 1 else _heading_height(canvas, grid.zoom)
    needed = max(view.least_height(canvas.zoomed(grid.zoom), panel.points, cell.width) for panel in panels)
    return needed + head - cell.height


def _heading_height(canvas: Canvas, zoom: float) -> float:
    return canvas.sized(canvas.style.name_size * max(zoom, 0.8)) * 1.75


def _draw_heading(canvas: Canvas, panel: Panel[Drawable], cell: Box, zoom: float) -> Box:
    """A panel's name and finding on its first line; gives the room below."""
    style = canvas.style
    size = canvas.sized(style.name_size * max(zoom, 0.8))
    name = shortened(panel.name, cell.width * (0.62 if panel.finding else 1.0), size, bold=True)
    canvas.text(name, cell.left, cell.top + size, size, style.ink, bold=True)
    used = measured(name, size, True).width + size * 0.6
    finding = shortened(panel.finding, cell.width - used, size)
    if len(finding) > 2:
        canvas.text(finding, cell.left + used, cell.top + size, size, panel.colour or style.soft)
    return Box(left=cell.left, top=cell.top + _heading_height(canvas, zoom), right=cell.right, bottom=cell.bottom)
