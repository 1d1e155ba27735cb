"""The waterfall: standing opening, floating steps, standing closing, thin connectors.

In columns where names and labels fit side by side; horizontal, in rows, where they do not.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import field, replace
from decimal import Decimal
from itertools import groupby
from typing import TYPE_CHECKING, Any, Self

from marvex.core.compare.point import Point
from marvex.core.compare.result import Analysis
from marvex.core.exact import EXACT, ZERO, difference
from marvex.core.rules.bands import Band, Tone
from marvex.core.rules.judging import Judged
from marvex.core.structure.walk import Bar
from marvex.core.values import dataclass
from marvex.views.drawing import lanes as lane
from marvex.views.drawing.about import About
from marvex.views.drawing.box import Box
from marvex.views.drawing.direction import stand_where_they_fit
from marvex.views.drawing.labels import LINE, Label, Piece, Placer, Spot, shortened
from marvex.views.drawing.lanes import Lanes, Needs
from marvex.views.drawing.legend import LegendKey, band_keys
from marvex.views.drawing.look import Look, is_flagged
from marvex.views.drawing.point_view import with_stands
from marvex.views.drawing.text_metrics import measured, widest

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

STUB, CUT_GAP = 40.0, 8.0  # pixels from zero to where a cut scale goes on, and of the gap within
LEAST_LINES = 10.0  # of text: the height of a plot in a panel
BRACKET = 1.9  # of the name size
SLIM = 2.0  # pixels


@dataclass(frozen=True, slots=True, kw_only=True)
class Waterfall:
    """All that a waterfall looks like; what it shows comes with the walk's bars.

    Parameters
    ----------
    stands : in columns or not, where that is asked for.
    cuts : where the standing bars of a panel are cut, where they are; those of a single plot under None.
    inside : labels stand within the bars that have room for them.
    step_shape : `bar`, or `arrow`.
    connectors : whether thin lines lead from bar to bar, `on` or `off`.
    groups : the group of each step's category, for the brackets.
    """

    look: Look
    stands: bool | None = None
    cuts: Mapping[str | None, Decimal] = field(default_factory=dict)
    inside: bool = False
    step_shape: str = "bar"
    connectors: str = "on"
    groups: Mapping[str, str] = field(default_factory=dict)

    @classmethod
    def made(cls, look: Look, said: Mapping[str, Any], analysis: Analysis) -> Self:  # noqa: ARG003
        """The view of a walk; what else it takes has gone into the walk's bars."""
        mine = ("horizontal", "upright", "step_shape", "connectors", "cuts", "groups", "inside")
        return cls(look=look, **with_stands({name: said[name] for name in mine}))

    def legend_keys(self, bands: Sequence[Band], points: Sequence[Bar]) -> list[LegendKey]:
        judged = any(bar.judged.band is not None for bar in points)
        return band_keys(bands, self.look.style) if judged else []

    def sentence(self, bar: Bar) -> str:
        """What a bar says in words."""
        if bar.is_standing:
            return f"{bar.label}: {self.look.figures.amount(bar.end)}"
        return self.look.sentence(bar.judged)

    def values(self, points: Sequence[Bar]) -> Iterable[Decimal]:
        return (value for bar in points for value in (bar.start, bar.end))

    def least_width(self, canvas: Canvas, points: Sequence[Bar]) -> float:  # noqa: ARG002
        return 0.0

    def without(self, labels: frozenset[str]) -> Self:
        """The view with no label at the steps of these names."""
        return replace(self, look=replace(self.look, without=labels))

    def alike(self, canvas: Canvas, panels: Sequence[Sequence[Bar]], width: float) -> Self:
        """Lying in all panels where one has no room for columns."""
        return replace(self, stands=all(self._fits_columns(canvas, one, width) for one in panels))

    def least_height(self, canvas: Canvas, points: Sequence[Bar], width: float) -> float:
        if self._fits_columns(canvas, points, width):
            return lane.least_height_of_columns(canvas, self.look, LEAST_LINES)
        return lane.least_height_of_rows(canvas, len(points))

    def draw(
        self, canvas: Canvas, room: Box, points: Sequence[Bar], reach: tuple[Decimal, Decimal]
    ) -> tuple[Point, ...]:
        """In rows where columns have no room for every name and label, so that none is dropped."""
        lanes = self._lanes(canvas, room, points, reach)
        # In low rows the first and the last label are a little higher than their row.
        over = max(0.0, LINE * canvas.least - lanes.slot) if lanes.horizontal else 0.0
        placer = Placer(
            canvas, Box(left=lanes.box.left, top=room.top - over, right=room.right, bottom=lanes.box.bottom + over)
        )
        thickness = lane.thickness_of(lanes, canvas)
        boxes = [lanes.bar(place, bar.start, bar.end, thickness) for place, bar in enumerate(points)]
        self._draw_connectors(canvas, lanes, points, thickness)
        for place, (bar, box) in enumerate(zip(points, boxes, strict=True)):
            placer.block(self._draw_bar(canvas, lanes, place, bar, box))
            lane.draw_turn(canvas, lanes, place, self._turn(bar), thickness)
        lane.draw_zero(canvas, lanes)
        if self.groups:
            self._draw_brackets(canvas, room, lanes, points)
        labels = {place: self._label(points[place]) for place in sorted(self._labelled(points))}
        standing = [place for place in labels if points[place].is_standing]
        inside = not lanes.horizontal and all(
            self._fits_inside(canvas, labels[one], boxes[one], horizontal=False) for one in standing
        )
        for place, label in labels.items():
            label = label.joined if lanes.horizontal else label
            box = self._body(points[place], boxes[place], lanes)
            is_within = self.inside and self._fits_inside(canvas, label, box, horizontal=lanes.horizontal)
            if is_within or (inside and place in standing):
                self._draw_inside(canvas, lanes, label, points[place], box)
            else:
                self._ask_for_label(canvas, placer, lanes, place, points[place], label)
        return placer.settle()

    def _cut_of(self, bars: Sequence[Bar]) -> Decimal | None:
        """Where the standing bars of a panel are cut; they carry no panel's name, its steps do."""
        steps = [bar.point for bar in bars if not bar.is_standing]
        return self.cuts.get(steps[0].panel if steps else None)

    def _fits_columns(self, canvas: Canvas, bars: Sequence[Bar], width: float) -> bool:
        """Whether names and labels fit side by side in columns."""
        judged = [bar.judged for bar in bars]
        return stand_where_they_fit(canvas, self.look, judged, width, self._labels(bars), stands=self.stands)

    def _lanes(self, canvas: Canvas, room: Box, bars: Sequence[Bar], reach: tuple[Decimal, Decimal]) -> Lanes:
        labels, judged = self._labels(bars), [bar.judged for bar in bars]
        axis = self.look.grid or self.look.labels == "none"
        stub = STUB * canvas.scale
        hang = [self._label(bar) for bar in bars if _hangs(bar)]
        if self._fits_columns(canvas, bars, room.width):
            beyond = lane.label_room(canvas, labels, horizontal=False)
            low = lane.label_room(canvas, hang, horizontal=False) if hang else 0.0
            foot = canvas.sized(canvas.style.name_size) * BRACKET if self.groups else 0.0
            inner = Box(left=room.left, top=room.top, right=room.right, bottom=room.bottom - foot)
            needs = Needs(low=low, high=beyond, axis=axis, cut=self._cut_of(bars), stub=stub)
            return lane.columns(canvas, inner, judged, self.look, reach, needs)
        right = room.right - self._bracket_width(canvas, room)
        low = lane.label_room(canvas, [one.joined for one in hang], horizontal=True) if hang else 0.0
        ends = [(max(bar.start, bar.end), self._label(bar).joined) for bar in bars if not _hangs(bar)]
        high = lane.room_beyond(canvas, ends, reach, right - room.left)
        needs = Needs(low=low, high=high, axis=axis, cut=self._cut_of(bars), stub=stub)
        names = [self.look.name(one) for one in judged]
        return lane.rows(
            canvas,
            Box(left=room.left, top=room.top, right=right, bottom=room.bottom),
            judged,
            names,
            self.look,
            reach,
            needs,
        )

    def _draw_connectors(self, canvas: Canvas, lanes: Lanes, bars: Sequence[Bar], thickness: float) -> None:
        style = canvas.style
        if self.connectors == "off":
            return
        for place, bar in enumerate(bars[:-1]):
            at = lanes.scale.place(bar.end)
            # An arrow ends in a point, in the middle of its lane.
            is_pointed = self.step_shape == "arrow" and not bar.is_standing and bar.start != bar.end
            start, end = (
                lanes.middle(place) + (0 if is_pointed else thickness / 2),
                lanes.middle(place + 1) - thickness / 2,
            )
            line = (at, start, at, end) if lanes.horizontal else (start, at, end, at)
            canvas.line(*line, style.connector, style.connector_line)

    def _draw_bar(self, canvas: Canvas, lanes: Lanes, place: int, bar: Bar, box: Box) -> Box:
        """The bar, or a stroke where it has no height; gives what no label may lie on."""
        style, said = canvas.style, self.sentence(bar)
        fill = style.fills[Tone.STANDING] if bar.is_standing else self.look.fill(bar.judged)
        if (box.width if lanes.horizontal else box.height) < SLIM:
            # Too small to see, or nothing: a stroke in the band's colour.
            return canvas.rectangle(lanes.tick(place, bar.end, _across(box, lanes), SLIM), fill, sentence=said)
        if self.step_shape == "arrow" and not bar.is_standing:
            return canvas.polygon(lanes.pointed(place, bar.start, bar.end, _across(box, lanes)), fill, said)
        drawn = canvas.rectangle(box, fill, sentence=said)
        if lanes.scale.cut is not None and bar.is_standing:
            self._draw_cut(canvas, lanes, box)
        return drawn

    def _turn(self, bar: Bar) -> Decimal | None:
        """Where a step would end at which its colour turns."""
        turn = None if bar.is_standing else self.look.turns(bar.point)
        if turn is None or bar.point.base is None:
            return None
        moved = difference(turn, bar.point.base)
        is_turned = (bar.point.movement > 0) != (bar.movement > 0)
        return difference(bar.start, moved) if is_turned else EXACT.add(bar.start, moved)

    def _draw_cut(self, canvas: Canvas, lanes: Lanes, box: Box) -> None:
        """A gap across a standing bar with a straight stroke on either side."""
        scale, style = canvas.scale, canvas.style
        zero, cut = lanes.scale.place(ZERO), STUB * 0.62 * scale
        further = lanes.scale.place(lanes.scale.cut or ZERO) > zero
        middle = zero + (cut if further else -cut)
        half, over = CUT_GAP / 2 * scale, 4 * scale
        if lanes.horizontal:
            canvas.rectangle(
                Box(left=middle - half, top=box.top - over, right=middle + half, bottom=box.bottom + over),
                style.ground,
            )
        else:
            canvas.rectangle(
                Box(left=box.left - over, top=middle - half, right=box.right + over, bottom=middle + half),
                style.ground,
            )
        canvas.marks.pop()
        for at in (middle - half, middle + half):
            if lanes.horizontal:
                canvas.line(at, box.top - over, at, box.bottom + over, style.soft, 1.2 * scale)
            else:
                canvas.line(box.left - over, at, box.right + over, at, style.soft, 1.2 * scale)

    def _labels(self, bars: Sequence[Bar]) -> list[Label]:
        return [self._label(bars[place]) for place in self._labelled(bars)]

    def _label(self, bar: Bar) -> Label:
        """The figures at a bar, as `--show` asks; an absent side counts as nothing in its change."""
        if bar.is_standing:
            return Label((Piece(text=self.look.figures.amount(bar.end), colour=self.look.style.ink),))
        pieces = []
        for place, what in enumerate(self.look.show):
            if what == "change":
                pieces.append(self.look.movement(bar.judged, bar.movement, bold=not place))
            elif what == "percent":
                at_zero = Judged(bar.point.as_though_zero(), bar.judged.band)
                pieces.append(self.look.piece(at_zero, what, bold=not place, signed=not place))
            else:
                pieces.append(self.look.piece(bar.judged, what, bold=not place))
        return Label(tuple(pieces))

    def _labelled(self, bars: Sequence[Bar]) -> set[int]:
        """The places of the bars that carry a label; standing ones do unless there are none at all."""
        if self.look.labels == "none":
            return set()
        standing = {place for place, bar in enumerate(bars) if bar.is_standing}
        steps = [place for place, bar in enumerate(bars) if not bar.is_standing]
        match self.look.labels:
            case "ends":
                steps = []
            case "flagged":
                steps = [place for place in steps if is_flagged(bars[place].judged)]
            case "top" | "bottom":
                steps = self.look.ranked([bar.judged for bar in bars], steps)
        return {place for place in (*standing, *steps) if bars[place].label not in self.look.without}

    def _fits_inside(self, canvas: Canvas, label: Label, box: Box, *, horizontal: bool) -> bool:
        size = canvas.sized(canvas.style.label_size)
        width, height = label.extent(size)
        if horizontal:
            return width <= box.width - 1.2 * size and height <= box.height
        return width <= box.width - 4 and max(1.8 * size, height) + 0.4 * size <= box.height

    def _body(self, bar: Bar, box: Box, lanes: Lanes) -> Box:
        """What of a bar is as broad as it is: of an arrow all but its head."""
        if self.step_shape != "arrow" or bar.is_standing:
            return box
        head = lanes.head_of(box)
        if lanes.horizontal:
            return replace(box, right=box.right - head) if bar.movement > 0 else replace(box, left=box.left + head)
        return replace(box, top=box.top + head) if bar.movement > 0 else replace(box, bottom=box.bottom - head)

    def _draw_inside(self, canvas: Canvas, lanes: Lanes, label: Label, bar: Bar, box: Box) -> None:
        """Within a bar, near its end where it stands, in the middle of a step, in an ink that is read on its fill."""
        size, style = canvas.sized(canvas.style.label_size), canvas.style
        width, height = label.extent(size)
        fill = style.fills[Tone.STANDING] if bar.is_standing else self.look.fill(bar.judged)
        label = label.in_ink(style.texts[Tone.STANDING] if bar.is_standing else style.ink_on(fill))
        edge, (middle, level) = 0.35 * size, box.middle
        left, top = middle - width / 2, level - height / 2
        if bar.is_standing and lanes.horizontal:
            left = box.right - edge - width if bar.end > 0 else box.left + edge
        elif bar.is_standing:
            top = box.top + edge if bar.end > 0 else box.bottom - edge - height
        label.draw(canvas, Box(left=left, top=top, right=left + width, bottom=top + height), size, "center")

    def _ask_for_label(
        self, canvas: Canvas, placer: Placer, lanes: Lanes, place: int, bar: Bar, label: Label
    ) -> None:
        gap = lane.GAP * 0.6 * canvas.scale
        low, high = sorted((bar.start, bar.end))
        hangs = _hangs(bar)
        spots: list[Spot] = [lanes.beyond(place, low if hangs else high, gap, is_low=hangs)]
        spots.append(lanes.beyond(place, high if hangs else low, gap, is_low=not hangs))
        spots.append(lanes.beyond(place, low if hangs else high, 2.6 * gap, is_low=hangs))
        placer.want(label, spots, bar.point)

    def _runs(self, bars: Sequence[Bar]) -> list[tuple[str, int, int]]:
        """Each run of steps of one group: its name, its first place and its last."""
        runs = []
        places = [(None if bar.is_standing else self.groups.get(bar.label)) for bar in bars]
        first = 0
        for name, group in groupby(places):
            count = len(list(group))
            if name:
                runs.append((name, first, first + count - 1))
            first += count
        return runs

    def _bracket_width(self, canvas: Canvas, room: Box) -> float:
        """The room at the right that brackets take in rows."""
        if not self.groups:
            return 0.0
        size = canvas.sized(canvas.style.name_size * 0.94)
        return min(widest(list(self.groups.values()), size), room.width * 0.2) + 3 * lane.GAP * canvas.scale

    def _draw_brackets(self, canvas: Canvas, room: Box, lanes: Lanes, bars: Sequence[Bar]) -> None:
        """A thin line under each run of steps of one group, named; in rows to the right of them."""
        size, style = canvas.sized(canvas.style.name_size * 0.94), canvas.style
        for name, first, last in self._runs(bars):
            start, end = lanes.middle(first) - 0.36 * lanes.slot, lanes.middle(last) + 0.36 * lanes.slot
            if lanes.horizontal:
                x = room.right - self._bracket_width(canvas, room) + 2 * lane.GAP * canvas.scale
                canvas.line(x, start, x, end, style.connector)
                text = shortened(name, room.right - x - lane.GAP * canvas.scale, size)
                canvas.text(text, x + lane.GAP * canvas.scale, (start + end) / 2, size, style.soft, middle=True)
                continue
            y = room.bottom - size * 1.45
            canvas.line(start, y, end, y, style.connector)
            text = shortened(name, end - start + 0.2 * lanes.slot, size)
            if measured(text, size).width <= lanes.slot * (last - first + 1):
                canvas.text(text, (start + end) / 2, y + size * 1.2, size, style.soft, align="center")


def _hangs(bar: Bar) -> bool:
    """Whether a label stands below its bar: a step below zero, where the axis would cross it above."""
    return not bar.is_standing and max(bar.start, bar.end) <= 0 and min(bar.start, bar.end) < 0


def _across(box: Box, lanes: Lanes) -> float:
    return box.height if lanes.horizontal else box.width


ABOUT = About(
    question="how did we get from there to here?",
    also=("bridge", "walk", "cascade"),
    drawn="From the standing base, through each category's change, to the standing current total.",
    example="""\
  marvex draw waterfall ledger.csv --by route --for 2026 --versus 2025 -o routes.png
  marvex draw waterfall ledger.csv --by account_name --where kind=cost --source-sign negative --better down \\
      --band 'Overspend [worse]: change > 5% and change > 10k' --band 'Watch [watch]: change > 0' \\
      --band 'Within budget [better]: otherwise'""",
    view=Waterfall,
    takes=(
        *(
            "horizontal",
            "upright",
            "volume",
            "no_mix",
            "walk",
            "standing",
            "deductions",
            "plug",
            "subtotal_after",
            "via",
        ),
        *("brackets", "step_shape", "connectors", "opening_name", "closing_name", "axis_break", "inside"),
    ),
    turns=True,
    walks=True,
    by_effect=True,
)
