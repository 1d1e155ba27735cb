"""Whether bars stand in columns or lie in rows: decided here, before anything is drawn."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from marvex.core.rules.judging import Judged
from marvex.views.drawing.axes import names_fit
from marvex.views.drawing.labels import SHRINK, Label
from marvex.views.drawing.look import Look

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

ROOM_OF_LABEL = 0.97  # of a slot


def stand_as_periods(points: Sequence[Judged], stands: bool | None = None) -> bool:
    """Whether points stand in columns: as is asked, else because they are periods; names of categories are longer."""
    return all(one.point.is_period for one in points) if stands is None else stands


def stand_where_they_fit(
    canvas: Canvas,
    look: Look,
    points: Sequence[Judged],
    width: float,
    labels: Sequence[Label] = (),
    *,
    stands: bool | None = None,
) -> bool:
    """Whether points stand in columns: as is asked, else where all names and all labels have room side by side."""
    if stands is not None:
        return stands
    slot, least = width / len(points), canvas.sized(canvas.style.label_size)
    while least * SHRINK >= canvas.least:
        least *= SHRINK
    if any(label.extent(least)[0] > slot * ROOM_OF_LABEL for label in labels):
        return False
    return names_fit(canvas, points, look, slot)
