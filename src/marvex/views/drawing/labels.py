"""Text that fits: wrapped, made smaller or shortened by its measured extent; labels that never overlap.

Names are fitted; labels are handed to a `Placer`, which finds room for the weightiest first and says
which it had to leave out.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import field, replace
from decimal import Decimal
from fractions import Fraction
from typing import TYPE_CHECKING

from marvex.core.compare.point import Point
from marvex.core.values import dataclass
from marvex.views.drawing.box import Align, Box
from marvex.views.drawing.style import Shape
from marvex.views.drawing.text_metrics import measured, widest

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

ELLIPSIS = "…"
SHRINK = 0.94
SIGN = 0.52  # of a label's size
AFTER_SIGN = 0.28
LINE, BASELINE = 1.18, 0.95
APART = 0.55  # between figures in one line
CROWDED = 0.86  # the size where not all find room
MANY = 60  # more labels than these are tried in three sizes only
PITCH = 64.0  # pixels: the side of the squares by which what stands near is found

# A line may break after a space, a dash or a slash, and between ideographs.
_DASHES, _IDEOGRAPHS = r"\-–—/", r"\u3040-\u30ff\u3400-\u9fff"
_PIECES = re.compile(rf"[^\s{_DASHES}]*[{_DASHES}]+\s*|[{_IDEOGRAPHS}]|[^\s{_DASHES}{_IDEOGRAPHS}]+\s*|\s+")


@dataclass(frozen=True, slots=True)
class Fitted:
    """Texts as lines in one size in which all of them fit."""

    lines: tuple[tuple[str, ...], ...]
    size: float

    @property
    def most_lines(self) -> int:
        return max((len(lines) for lines in self.lines), default=0)


def wrapped(text: str, width: float, size: float, bold: bool = False) -> tuple[str, ...] | None:
    """The text in lines of at most that width, as even as the words allow; None where a word is wider."""
    pieces = _PIECES.findall(text) or [text]
    if any(measured(piece.strip(), size, bold).width > width for piece in pieces):
        return None
    return _in_lines(pieces, width, size, bold)


def _in_lines(pieces: Sequence[str], width: float, size: float, bold: bool) -> tuple[str, ...]:
    lines, current = [], ""
    for piece in pieces:
        if current and measured((current + piece).rstrip(), size, bold).width > width:
            lines.append(current.strip())
            current = ""
        current += piece
    return (*lines, current.strip())


def fitted(
    texts: Sequence[str], width: float, most_lines: int, size: float, least: float, bold: bool = False
) -> Fitted | None:
    """All texts wrapped in the largest one size that fits; None where even the least does not."""
    while size >= least:
        lines = [wrapped(text, width, size, bold) for text in texts]
        found = [one for one in lines if one is not None and len(one) <= most_lines]
        if len(found) == len(lines):
            return Fitted(tuple(found), size)
        size *= SHRINK
    return None


def fitted_or_cut(text: str, width: float, most_lines: int, size: float, least: float, bold: bool = False) -> Fitted:
    """A text wrapped in the largest size that fits, else in the least, and words and lines too many cut."""
    found = fitted([text], width, most_lines, size, least, bold)
    if found is not None:
        return found
    pieces = _PIECES.findall(text) or [text]
    words = [(piece.strip(), piece[len(piece.rstrip()) :]) for piece in pieces]
    lines = _in_lines([shortened(word, width, least, bold) + space for word, space in words], width, least, bold)
    if len(lines) > most_lines:
        lines = (*lines[: most_lines - 1], shortened(" ".join(lines[most_lines - 1 :]), width, least, bold))
    return Fitted((lines,), least)


def shortened(text: str, width: float, size: float, bold: bool = False) -> str:
    """The text cut at its end with an ellipsis, where it is wider than the room."""
    if widest([text], size, bold) <= width:
        return text
    low, high = 0, len(text)
    while low < high:
        middle = (low + high + 1) // 2
        if measured(text[:middle].rstrip() + ELLIPSIS, size, bold).width <= width:
            low = middle
        else:
            high = middle - 1
    return text[:low].rstrip() + ELLIPSIS


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """One figure of a label: its text, its colour, and the sign before it, None where it is no change."""

    text: str
    colour: str
    direction: int | None = None
    shape: Shape = Shape.DIRECTION
    bold: bool = True

    def width(self, size: float) -> float:
        sign = 0.0 if self.direction is None else size * (SIGN + AFTER_SIGN)
        return sign + measured(self.text, size, self.bold).width

    def draw(self, canvas: Canvas, x: float, y: float, size: float) -> None:
        """The figure from `x` on with its baseline at `y`, its sign before it."""
        if self.direction is not None:
            sign = size * SIGN
            if self.shape is Shape.DIRECTION:
                canvas.sign(self.direction, x + sign / 2, y - size * 0.32, sign, self.colour)
            else:
                canvas.shape(self.shape, x + sign / 2, y - size * 0.32, sign, self.colour)
            x += sign + size * AFTER_SIGN
        canvas.text(self.text, x, y, size, self.colour, bold=self.bold)


@dataclass(frozen=True, slots=True)
class Label:
    """What a point says: its figures, in lines below one another or all in one."""

    pieces: tuple[Piece, ...]
    in_one_line: bool = False

    @property
    def joined(self) -> Label:
        return Label(self.pieces, in_one_line=True)

    @property
    def without_marks(self) -> Label:
        return replace(self, pieces=tuple(replace(piece, direction=None) for piece in self.pieces))

    def in_ink(self, colour: str) -> Label:
        """The same in one colour."""
        return replace(self, pieces=tuple(replace(piece, colour=colour) for piece in self.pieces))

    def extent(self, size: float) -> tuple[float, float]:
        """Its width and height."""
        widths = [piece.width(size) for piece in self.pieces]
        if self.in_one_line:
            return sum(widths) + APART * size * (len(widths) - 1), LINE * size
        return max(widths), LINE * size * len(widths)

    def draw(self, canvas: Canvas, box: Box, size: float, align: Align) -> None:
        """Draws it in a box of its extent, its lines aligned within."""
        x, y = box.left, box.top + BASELINE * size
        for piece in self.pieces:
            width = piece.width(size)
            if self.in_one_line:
                piece.draw(canvas, x, y, size)
                x += width + APART * size
            else:
                piece.draw(canvas, _start(box, width, align), y, size)
                y += LINE * size


def _start(box: Box, width: float, align: Align) -> float:
    """Where a line of that width starts in a box."""
    if align == "left":
        return box.left
    return box.right - width if align == "right" else (box.left + box.right - width) / 2


@dataclass(frozen=True, slots=True, kw_only=True)
class Spot:
    """A place where a label may stand.

    Parameters
    ----------
    x, y : the point that the label lies at.
    side : where from there: `above`, `below`, `left`, `right`, or `on` it.
    leader : whether a thin line leads from the label to `tip`, since it lies away from it.
    """

    x: float
    y: float
    side: str
    tip: tuple[float, float] | None = None

    def box(self, width: float, height: float) -> Box:
        x, y = self.x, self.y
        match self.side:
            case "above":
                return Box(left=x - width / 2, top=y - height, right=x + width / 2, bottom=y)
            case "below":
                return Box(left=x - width / 2, top=y, right=x + width / 2, bottom=y + height)
            case "left":
                return Box(left=x - width, top=y - height / 2, right=x, bottom=y + height / 2)
            case "right":
                return Box(left=x, top=y - height / 2, right=x + width, bottom=y + height / 2)
            case _:
                return Box(left=x - width / 2, top=y - height / 2, right=x + width / 2, bottom=y + height / 2)

    @property
    def align(self) -> Align:
        return "right" if self.side == "left" else "left" if self.side == "right" else "center"


@dataclass(frozen=True, slots=True, kw_only=True)
class Wish:
    """A label that asks for room: the spots in which it may stand, the best first, and how much it weighs."""

    label: Label
    spots: tuple[Spot, ...]
    weight: Decimal | Fraction
    about: Point


@dataclass(slots=True)
class _Occupied:
    """The room that is taken, by squares of the picture."""

    squares: dict[tuple[int, int], list[Box]] = field(default_factory=dict)

    def add(self, box: Box) -> None:
        for square in _squares(box):
            self.squares.setdefault(square, []).append(box)

    def is_free(self, box: Box) -> bool:
        return not any(box.meets(one) for square in _squares(box) for one in self.squares.get(square, ()))


def _squares(box: Box) -> Iterator[tuple[int, int]]:
    for across in range(int(box.left // PITCH), int(box.right // PITCH) + 1):
        for down in range(int(box.top // PITCH), int(box.bottom // PITCH) + 1):
            yield across, down


class Placer:
    """Finds room for labels: in each's best spot that is free, smaller where that helps, else left out.

    Parameters
    ----------
    room : what no label may leave.
    """

    def __init__(self, canvas: Canvas, room: Box) -> None:
        self.canvas, self.room = canvas, room
        self.blocked: list[Box] = []
        self.wishes: list[Wish] = []

    def block(self, box: Box) -> None:
        """A mark that no label may lie on."""
        self.blocked.append(box)

    def want(self, label: Label, spots: Sequence[Spot], about: Point) -> None:
        self.wishes.append(Wish(label=label, spots=tuple(spots), weight=abs(about.movement), about=about))

    def settle(self) -> tuple[Point, ...]:
        """Draws every label that finds room, and gives the points of those that do not."""
        canvas = self.canvas
        full = canvas.sized(canvas.style.label_size)
        sizes = [full]
        while len(self.wishes) <= MANY and sizes[-1] * SHRINK >= canvas.least:
            sizes.append(sizes[-1] * SHRINK)
        sizes.append(canvas.least)
        wishes = sorted(self.wishes, key=lambda one: one.weight, reverse=True)
        for size in sizes:
            found = self._placed(wishes, size)
            if len(found) == len(wishes):
                break
        else:
            size = max(canvas.least, CROWDED * full)
            found = self._placed(wishes, size)
        for wish, spot, box in found:
            if spot.tip is not None:
                end = box.bottom if box.bottom <= spot.tip[1] else box.top
                canvas.line(spot.x, end, *spot.tip, canvas.style.connector, canvas.style.connector_line)
            wish.label.draw(canvas, box, size, spot.align)
        kept = {id(wish) for wish, _, _ in found}
        return tuple(wish.about for wish in self.wishes if id(wish) not in kept)

    def _placed(self, wishes: Sequence[Wish], size: float) -> list[tuple[Wish, Spot, Box]]:
        taken = _Occupied()
        for box in self.blocked:
            taken.add(box)
        found = []
        for wish in wishes:
            width, height = wish.label.extent(size)
            for spot in wish.spots:
                box = spot.box(width, height)
                if self.room.holds(box) and taken.is_free(box):
                    taken.add(
                        Box(left=box.left - size * 0.2, top=box.top, right=box.right + size * 0.2, bottom=box.bottom)
                    )
                    found.append((wish, spot, box))
                    break
        return found
