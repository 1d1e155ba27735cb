"""A picture in pixels: rectangles, lines, shapes, signs and text, from the top left.

Views place everything themselves, so that nothing is moved afterwards; Matplotlib draws it. A mark
may carry a sentence, which an SVG shows where the pointer rests on it.
"""

from __future__ import annotations

import copy
import math
from collections.abc import Sequence
from typing import Any

from matplotlib.artist import Artist
from matplotlib.figure import Figure
from matplotlib.lines import Line2D
from matplotlib.patches import Polygon, Rectangle
from matplotlib.text import Text

from marvex.core.words.printable import printable
from marvex.views.drawing.box import Align, Box
from marvex.views.drawing.ends import Ends
from marvex.views.drawing.style import Shape, Style
from marvex.views.drawing.text_metrics import DPI, POINTS_PER_PIXEL, ascent, font_of, has_all, measured

ROUND = 24  # corners of a circle: more are not seen at the size of a sign

REFERENCE_WIDTH, TALLEST = 1280, 1.2
REFERENCE_AREA = 1280 * 800

_BEFORE = {"left": 0.0, "center": 0.5, "right": 1.0}  # how much of a line's width stands left of where it is put


class _Line(Text):
    """One line of text that knows where it begins, so that Matplotlib does not measure it again for each file.

    Painting a picture as PNG, SVG and PDF takes a sixth less, and a pack of 24 views a tenth to a fifth.
    """

    beginning = (0.0, 0.0)  # of its baseline, in parts of the figure

    def draw(self, renderer: Any) -> None:
        x, y = self.get_transform().transform(self.beginning)
        if renderer.flipy():
            y = renderer.get_canvas_width_height()[1] - y
        renderer.open_group("text", self.get_gid())
        pen = renderer.new_gc()
        pen.set_foreground(self.get_color())
        renderer.draw_text(pen, x, y, self.get_text(), self.get_fontproperties(), 0.0, mtext=self)
        pen.restore()
        renderer.close_group("text")


class Canvas:
    """One picture being drawn.

    Parameters
    ----------
    width, height : in pixels.
    typed_for : the height that the type is sized for, where the picture has grown from there.
    """

    def __init__(self, width: int, height: int, style: Style, typed_for: int | None = None) -> None:
        self.width, self.height, self.style = width, height, style
        # A tall picture has no room across for the type that its area would have.
        size = min(math.sqrt(width * (typed_for or height) / REFERENCE_AREA), TALLEST * width / REFERENCE_WIDTH)
        self._scale = min(3.0, max(0.62, size))
        self.zoom = 1.0
        self.ends: Ends | None = None
        self.texts: list[tuple[Text, bool]] = []  # each with whether it is bold
        self.marks: list[tuple[Artist, Box]] = []  # the filled ones, each with its extent
        self.sentences: list[str] = []
        self._layers = 0
        self.figure = Figure(
            figsize=(width / DPI, height / DPI), dpi=DPI, facecolor="none" if style.is_transparent else style.ground
        )

    def zoomed(self, zoom: float, ends: Ends | None = None) -> Canvas:
        """The same picture for what stands within a panel, which is smaller than the picture, and ends its scales."""
        panel = copy.copy(self)
        panel.zoom, panel.ends = zoom, ends
        return panel

    @property
    def scale(self) -> float:
        """How much larger or smaller than at 1280x800 everything is drawn."""
        return self._scale * self.zoom

    @property
    def least(self) -> float:
        """The least size of text, in pixels."""
        return self.style.least_size * self._scale

    def sized(self, size: float) -> float:
        """A type size of the style as it is in this picture, never below the least."""
        return max(size * self.scale, self.least)

    def smaller(self, size: float) -> float:
        """A size a little below another, for what is said more quietly; never below the least."""
        return max(size * 0.94, self.least)

    def text(
        self,
        text: str,
        x: float,
        y: float,
        size: float,
        colour: str,
        *,
        bold: bool = False,
        align: Align = "left",
        middle: bool = False,
    ) -> None:
        """One line of text with its baseline at `y`, or centred on it where `middle`."""
        text = printable(text)
        if not text:
            return
        artist = (_Line if has_all(text, bold) else Text)(
            x / self.width,
            1 - y / self.height,
            text,
            color=colour,
            fontproperties=font_of(text, size, bold),
            horizontalalignment=align,
            verticalalignment="center_baseline" if middle else "baseline",
            parse_math=False,
            transform=self.figure.transFigure,
        )
        if isinstance(artist, _Line):
            left = x - measured(text, size, bold).width * _BEFORE[align]
            baseline = y + (ascent(bold) * size / 2 if middle else 0.0)
            artist.beginning = left / self.width, 1 - baseline / self.height
        self.texts.append((artist, bold))
        self._add(artist)

    def rectangle(self, box: Box, colour: str, edge: str | None = None, sentence: str | None = None) -> Box:
        """A filled rectangle on whole pixels, at least one pixel high and wide; gives where it is."""
        left, top = round(box.left), round(box.top)
        width, height = max(1, round(box.right) - left), max(1, round(box.bottom) - top)
        patch = Rectangle(
            (left / self.width, 1 - (top + height) / self.height),
            width / self.width,
            height / self.height,
            facecolor=colour,
            edgecolor=edge or "none",
            linewidth=0.8 * POINTS_PER_PIXEL if edge else 0,
            transform=self.figure.transFigure,
        )
        drawn = Box(left=left, top=top, right=left + width, bottom=top + height)
        self._mark(patch, drawn, sentence)
        return drawn

    def ground(self, box: Box, colour: str) -> None:
        """A tint behind everything that is drawn later, which text may lie on."""
        self.rectangle(box, colour)
        self.marks.pop()

    def ground_shape(self, points: Sequence[tuple[float, float]], colour: str) -> None:
        """A shaded shape behind lines, which text may lie on."""
        self.polygon(points, colour)
        self.marks.pop()

    def polygon(self, points: Sequence[tuple[float, float]], colour: str, sentence: str | None = None) -> Box:
        """A filled shape through the points; gives its extent."""
        patch = Polygon(
            [(x / self.width, 1 - y / self.height) for x, y in points],
            closed=True,
            facecolor=colour,
            linewidth=0,
            transform=self.figure.transFigure,
        )
        across, down = [x for x, _ in points], [y for _, y in points]
        extent = Box(left=min(across), top=min(down), right=max(across), bottom=max(down))
        self._mark(patch, extent, sentence)
        return extent

    def line(self, x0: float, y0: float, x1: float, y1: float, colour: str, width: float = 1.0) -> None:
        """A straight line; level and upright ones lie on whole pixels."""
        middle = 0.5 if round(width) % 2 else 0.0
        if y0 == y1:
            y0 = y1 = round(y0 - middle) + middle
        if x0 == x1:
            x0 = x1 = round(x0 - middle) + middle
        self.path([(x0, y0), (x1, y1)], colour, width)

    def path(self, points: Sequence[tuple[float, float]], colour: str, width: float) -> None:
        """A line through the points."""
        self._add(
            Line2D(
                [x / self.width for x, _ in points],
                [1 - y / self.height for _, y in points],
                color=colour,
                linewidth=width * POINTS_PER_PIXEL,
                solid_capstyle="butt",
                solid_joinstyle="round",
                transform=self.figure.transFigure,
            )
        )

    def sign(self, direction: int, x: float, y: float, size: float, colour: str, sentence: str | None = None) -> None:
        """A triangle upwards or downwards, or a small diamond for 0, in the square about (x, y)."""
        half = size / 2
        if direction == 0:
            points = [(x - half / 2, y), (x, y - half / 2), (x + half / 2, y), (x, y + half / 2)]
        else:
            tip = -half if direction > 0 else half
            points = [(x, y + tip), (x + half, y - tip), (x - half, y - tip)]
        self.polygon(points, colour, sentence)

    def shape(self, shape: Shape, x: float, y: float, size: float, colour: str, sentence: str | None = None) -> None:
        """A tone's own shape in the square about (x, y)."""
        half = size / 2
        if shape is Shape.CIRCLE:
            turns = [math.tau * place / ROUND for place in range(ROUND)]
            points = [(x + half * math.cos(turn), y + half * math.sin(turn)) for turn in turns]
        elif shape is Shape.DIAMOND:
            points = [(x - half, y), (x, y - half), (x + half, y), (x, y + half)]
        elif shape is Shape.TRIANGLE:
            points = [(x, y - half), (x + half, y + half), (x - half, y + half)]
        else:
            points = [(x - half, y - half), (x + half, y - half), (x + half, y + half), (x - half, y + half)]
        self.polygon(points, colour, sentence)

    def _add(self, artist: Artist) -> None:
        """What is drawn later lies above what was drawn before."""
        artist.set_zorder(len(self.figure.get_children()))
        self.figure.add_artist(artist)

    def _mark(self, artist: Artist, extent: Box, sentence: str | None) -> None:
        if sentence:
            artist.set_gid(f"mark-{len(self.sentences)}")
            self.sentences.append(printable(sentence))
        self.marks.append((artist, extent))
        self._add(artist)
