"""A picture in pixels: rectangles, lines, signs and text with measured extents, from the top left.

Views place everything themselves, so that nothing is moved afterwards; Matplotlib draws it.
"""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal
from xml.sax.saxutils import escape

from matplotlib import rc_context
from matplotlib.backends.backend_agg import FigureCanvasAgg, RendererAgg
from matplotlib.figure import Figure
from matplotlib.font_manager import FontProperties, fontManager
from matplotlib.lines import Line2D
from matplotlib.patches import Polygon, Rectangle
from matplotlib.text import Text

from marvex.views.style import FAMILY, FONTS, SEMIBOLD_FAMILY, Style

Align = Literal["left", "center", "right"]

DPI = 100
POINTS_PER_PIXEL = 72 / DPI
REFERENCE_AREA = 1280 * 800

for _font in sorted(FONTS.glob("*.ttf")):
    fontManager.addfont(_font)


@dataclass(frozen=True, slots=True)
class Box:
    """A rectangle in pixels, `top` above `bottom` and so smaller."""

    left: float
    top: float
    right: float
    bottom: float

    @property
    def width(self) -> float:
        return self.right - self.left

    @property
    def height(self) -> float:
        return self.bottom - self.top


@dataclass(frozen=True, slots=True)
class Extent:
    """How much room a text takes: its width, and its line's height whatever its letters."""

    width: float
    height: float


class Canvas:
    """One picture being drawn.

    Parameters
    ----------
    width, height : in pixels.
    """

    def __init__(self, width: int, height: int, style: Style) -> None:
        self.width, self.height, self.style = width, height, style
        self.texts: list[Text] = []
        self.figure = Figure(figsize=(width / DPI, height / DPI), dpi=DPI, facecolor=style.ground)

    @property
    def scale(self) -> float:
        """How much larger or smaller than at 1280x800 everything is drawn."""
        return min(3.0, max(0.62, math.sqrt(self.width * self.height / REFERENCE_AREA)))

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
        artist = Text(
            x / self.width,
            1 - y / self.height,
            text,
            color=colour,
            fontproperties=_font_of(size, bold),
            horizontalalignment=align,
            verticalalignment="center_baseline" if middle else "baseline",
            parse_math=False,
            transform=self.figure.transFigure,
        )
        self.texts.append(artist)
        self.figure.add_artist(artist)

    def rectangle(self, box: Box, colour: str, edge: str | None = None) -> None:
        """A filled rectangle on whole pixels, at least one pixel high and wide."""
        left, top = round(box.left), round(box.top)
        width, height = max(1, round(box.right) - left), max(1, round(box.bottom) - top)
        self.figure.add_artist(
            Rectangle(
                (left / self.width, 1 - (top + height) / self.height),
                width / self.width,
                height / self.height,
                facecolor=colour,
                edgecolor=edge or "none",
                linewidth=0.8 * POINTS_PER_PIXEL if edge else 0,
                transform=self.figure.transFigure,
            )
        )

    def line(self, x0: float, y0: float, x1: float, y1: float, colour: str, width: float = 1.0) -> None:
        """A straight line; level and upright ones lie on whole pixels."""
        middle = 0.5 if round(width) % 2 else 0.0
        if y0 == y1:
            y0 = y1 = round(y0 - middle) + middle
        if x0 == x1:
            x0 = x1 = round(x0 - middle) + middle
        self.figure.add_artist(
            Line2D(
                [x0 / self.width, x1 / self.width],
                [1 - y0 / self.height, 1 - y1 / self.height],
                color=colour,
                linewidth=width * POINTS_PER_PIXEL,
                solid_capstyle="butt",
                transform=self.figure.transFigure,
            )
        )

    def sign(self, direction: int, x: float, y: float, size: float, colour: str) -> None:
        """A triangle upwards or downwards, or a dot for 0, in the square about (x, y)."""
        half = size / 2
        if direction == 0:
            points = [(x - half / 2, y), (x, y - half / 2), (x + half / 2, y), (x, y + half / 2)]
        else:
            tip = -half if direction > 0 else half
            points = [(x, y + tip), (x + half, y - tip), (x - half, y - tip)]
        self.figure.add_artist(
            Polygon(
                [(px / self.width, 1 - py / self.height) for px, py in points],
                closed=True,
                facecolor=colour,
                linewidth=0,
                transform=self.figure.transFigure,
            )
        )

    def saved(self, ending: str, title: str, description: str) -> bytes:
        """The picture as `.png`, `.svg` or `.pdf`, with its words inside; the same bytes every time."""
        content = io.BytesIO()
        with rc_context({"svg.hashsalt": "marvex", "svg.fonttype": "path", "pdf.fonttype": 42}):
            match ending:
                case ".png":
                    FigureCanvasAgg(self.figure).print_png(
                        content, metadata={"Title": title, "Description": description, "Software": "Marvex"}
                    )
                case ".svg":
                    metadata = {"Title": title, "Date": None, "Creator": "Marvex"}
                    self.figure.savefig(content, format="svg", metadata=metadata)
                    return _with_description(content.getvalue(), description)
                case _:
                    metadata = {"Title": title, "Subject": description, "Creator": "Marvex"}
                    self.figure.savefig(content, format="pdf", metadata={**metadata, "CreationDate": None})
        return content.getvalue()


def _with_description(svg: bytes, description: str) -> bytes:
    """The SVG with a `<desc>` behind its `<title>`, for those who hear the picture."""
    mark = b"</title>"
    return svg.replace(mark, mark + f"\n <desc>{escape(description)}</desc>".encode(), 1)


@lru_cache(maxsize=64)
def _font_of(size: float, bold: bool) -> FontProperties:
    family = (SEMIBOLD_FAMILY, *FAMILY) if bold else FAMILY
    return FontProperties(family=list(family), size=size * POINTS_PER_PIXEL)


@lru_cache(maxsize=1)
def _renderer() -> RendererAgg:
    return RendererAgg(1, 1, DPI)


@lru_cache(maxsize=4096)
def measured(text: str, size: float, bold: bool = False) -> Extent:
    """The room that a line of text takes."""
    if not text:
        return Extent(0.0, size * 1.2)
    width, _, _ = _renderer().get_text_width_height_descent(text, _font_of(size, bold), False)
    return Extent(width, size * 1.2)


def widest(texts: Sequence[str], size: float, bold: bool = False) -> float:
    """The width of the widest of the texts; 0 where there are none."""
    return max((measured(text, size, bold).width for text in texts), default=0.0)
