"""Variance bars around zero, with labels beyond their ends: a view of their own, and the strip below a trend."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction
from typing import TYPE_CHECKING

from marvex.core.exact import ZERO, difference, rounded_ratio
from marvex.core.rules.judging import Judged
from marvex.core.words.side_names import window_text
from marvex.views.drawing import lanes as lane
from marvex.views.drawing.labels import LINE, Label, Piece, Placer, Spot
from marvex.views.drawing.lanes import Lanes
from marvex.views.drawing.look import Look

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas


Measure = Callable[[Judged], Decimal | None]


def changed(one: Judged) -> Decimal | None:
    """What a variance bar measures unless told otherwise."""
    return one.point.change


def rooms(
    canvas: Canvas,
    look: Look,
    points: Sequence[Judged],
    labels: Mapping[int, Label],
    *,
    measure: Measure = changed,
    horizontal: bool = False,
) -> tuple[float, float]:
    """So much room the labels need below the lowest bar (or left of it) and above the highest, in every panel alike."""
    known = [(measure(points[place]) or ZERO, label) for place, label in labels.items()]
    if labels:
        labelled = ((measure(one) or ZERO, look.label(one)) for one in look.everyone)
        known += [(movement, label.joined if horizontal else label) for movement, label in labelled]
    low = [label for movement, label in known if movement < 0]
    high = [label for movement, label in known if movement >= 0]
    return lane.label_room(canvas, low, horizontal=horizontal), lane.label_room(canvas, high, horizontal=horizontal)


def column_labels(canvas: Canvas, look: Look, points: Sequence[Judged], width: float) -> dict[int, Label]:
    """The labels of variance columns: of many only the largest, the two extremes with their date and both values.

    Where they would not fit side by side they do without their marks, for a bar says its direction.
    """
    places = look.labelled(points, side_by_side=True)
    labels = {place: look.label(points[place], marked=True) for place in sorted(places)}
    slot = width / len(points)
    if not look.thins and any(label.extent(canvas.least)[0] > slot for label in labels.values()):
        labels = {place: label.without_marks for place, label in labels.items()}
    known = [place for place, one in enumerate(points) if one.point.change is not None]
    if look.is_crowded(points) and known:
        for extreme in (max, min):
            place = extreme(known, key=lambda place: points[place].point.movement)
            labels[place] = _in_full(look, points[place])
    return labels


def _in_full(look: Look, one: Judged) -> Label:
    """A point's change with its date and both values."""
    point = one.point
    day = window_text(point.pair.period, look.figures.locale) if point.pair else point.label
    both = f"{look.figures.amount(point.current)} against {look.figures.amount(point.base)}"
    label = look.label(one, marked=True)
    return replace(
        label,
        pieces=(
            *label.pieces,
            Piece(text=day, colour=look.style.ink, bold=False),
            Piece(text=both, colour=look.style.soft, bold=False),
        ),
    )


def draw_bars(
    canvas: Canvas, lanes: Lanes, bars: Sequence[tuple[Judged, Decimal | None]], look: Look, placer: Placer
) -> None:
    """The variance bars, each with what it measures, and the line that they stand on.

    A change of nothing is a short stroke there.
    """
    thickness = lane.thickness_of(lanes, canvas)
    for place, (one, value) in enumerate(bars):
        if value is None:
            continue
        box = lanes.bar(place, ZERO, value, thickness)
        if not value:
            box = lanes.tick(place, ZERO, thickness, 3 * canvas.scale)
        placer.block(canvas.rectangle(box, look.fill(one), sentence=look.sentence(one)))
        lane.draw_turn(canvas, lanes, place, turned(look, one, value), thickness)
    lane.draw_zero(canvas, lanes)


def turned(look: Look, one: Judged, value: Decimal) -> Decimal | None:
    """Where a bar would end at which its colour turns: as far from zero as the current is then from the base."""
    turn, point = look.turns(one.point), one.point
    if turn is None or point.base is None or not point.change:
        return None
    # As the bar measures the change, whatever its unit and its sign.
    return rounded_ratio(Fraction(difference(turn, point.base)) * Fraction(value) / Fraction(point.change), 9)


def ask_for_label(
    canvas: Canvas, placer: Placer, lanes: Lanes, place: int, bar: tuple[Judged, Decimal | None], label: Label
) -> None:
    """The label beyond its bar's end, or at zero where there is no bar."""
    one, change = bar[0], bar[1] or ZERO
    gap = lane.GAP * 0.6 * canvas.scale
    line = canvas.sized(canvas.style.label_size) * LINE
    spots = [lanes.beyond(place, change, gap + further * line, is_low=change < 0) for further in (0.0, 1.0, 2.0)]
    spots[1:] = [replace(spot, tip=_tip(spots[0])) for spot in spots[1:]] if not lanes.horizontal else []
    if not lanes.horizontal and len(label.pieces) > 1:
        # A long label of a bar near the edge stands beside the bar's end.
        level, middle = lanes.scale.place(change), lanes.middle(place)
        height = label.extent(canvas.sized(canvas.style.label_size))[1] / 2
        y = level - height if change < 0 else level + height
        spots += [
            replace(spots[0], x=middle + gap, y=y, side="right"),
            replace(spots[0], x=middle - gap, y=y, side="left"),
        ]
    placer.want(label, spots, one.point)


def _tip(spot: Spot) -> tuple[float, float]:
    """Where the thin line of a label ends that stands further off than its spot."""
    return spot.x, spot.y
