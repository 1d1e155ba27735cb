"""A picture in pixels: rectangles, lines, signs and text with measured extents, from the top left.

Views place everything themselves, so that nothing is moved afterwards; Matplotlib draws it.
"""

from __future__ import annotations

import io
import math
import warnings
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal
from xml.sax.saxutils import escape

from matplotlib import rc_context
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.figure import Figure
from matplotlib.font_manager import FontProperties, fontManager
from matplotlib.ft2font import FT2Font, LoadFlags
from matplotlib.lines import Line2D
from matplotlib.patches import Polygon, Rectangle
from matplotlib.text import Text

from marvex.views.style import FAMILY, FONTS, SEMIBOLD_FAMILY, SPARE_FAMILIES, Shape, Style

ROUND = 24  # corners of a circle: more are not seen at the size of a sign
Align = Literal["left", "center", "right"]

DPI = 100
POINTS_PER_PIXEL = 72 / DPI
REFERENCE_AREA = 1280 * 800

# Unhinted letters have the same width at every size and in every kind of file.
_DRAWING: Any = {
    "text.hinting": "no_hinting",
    "svg.hashsalt": "marvex",
    "svg.fonttype": "path",
    "pdf.fonttype": 42,
}

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
        self.lacks_letters = False  # known once saved: whether no font had some letter
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
            fontproperties=_font_of(text, size, bold),
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
        self._polygon(points, colour)

    def shape(self, shape: Shape, x: float, y: float, size: float, colour: str) -> None:
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
        self._polygon(points, colour)

    def _polygon(self, points: Sequence[tuple[float, float]], colour: str) -> None:
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
        with rc_context(_DRAWING), warnings.catch_warnings(record=True) as warned:
            warnings.simplefilter("always")
            match ending:
                case ".png":
                    FigureCanvasAgg(self.figure).print_png(
                        content, metadata={"Title": title, "Description": description, "Software": "Marvex"}
                    )
                case ".svg":
                    metadata = {"Title": title, "Date": None, "Creator": "Marvex"}
                    self.figure.savefig(content, format="svg", metadata=metadata)
                    content = io.BytesIO(_with_description(content.getvalue(), description))
                case _:
                    metadata = {"Title": title, "Subject": description, "Creator": "Marvex"}
                    self.figure.savefig(content, format="pdf", metadata={**metadata, "CreationDate": None})
        self.lacks_letters = any("missing from font" in str(one.message) for one in warned)
        return content.getvalue()


def _with_description(svg: bytes, description: str) -> bytes:
    """The SVG with a `<desc>` behind its `<title>`, for those who hear the picture."""
    mark = b"</title>"
    return svg.replace(mark, mark + f"\n <desc>{escape(description)}</desc>".encode(), 1)


def _font_of(text: str, size: float, bold: bool) -> FontProperties:
    """The bundled font alone where it has every letter, which is quick; else with those to fall back on."""
    face = _FACES[bold]
    if all(face.has(sign) for sign in text):
        return FontProperties(fname=str(face.path), size=size * POINTS_PER_PIXEL)
    installed = set(fontManager.get_font_names())
    spare = (one for one in SPARE_FAMILIES if one in installed)
    family = (*((SEMIBOLD_FAMILY,) if bold else ()), *FAMILY, *spare)
    return FontProperties(family=list(family), size=size * POINTS_PER_PIXEL)


class _Face:
    """A font's letters and their advances, unhinted and so in proportion at every size."""

    SIZE = 1000

    def __init__(self, path: Path) -> None:
        self.path = path
        self._font: FT2Font | None = None
        self._advances: dict[str, float | None] = {}

    def has(self, sign: str) -> bool:
        return self._advance(sign) is not None

    def width(self, text: str) -> float:
        """The width in parts of the size; a letter the font lacks is taken to be a full square."""
        return sum(1.0 if (found := self._advance(sign)) is None else found for sign in text)

    def _advance(self, sign: str) -> float | None:
        if sign not in self._advances:
            if self._font is None:
                self._font = FT2Font(str(self.path))
                self._font.set_size(self.SIZE, 72)
            known = self._font.get_char_index(ord(sign)) != 0
            glyph = self._font.load_char(ord(sign), flags=LoadFlags.NO_HINTING) if known else None
            self._advances[sign] = glyph.linearHoriAdvance / 65536 / self.SIZE if glyph else None
        return self._advances[sign]


_FACES = {False: _Face(FONTS / "IBMPlexSans-Regular.ttf"), True: _Face(FONTS / "IBMPlexSans-SemiBold.ttf")}


def measured(text: str, size: float, bold: bool = False) -> Extent:
    """The room that a line of text takes."""
    return Extent(_FACES[bold].width(text) * size, size * 1.2)


def widest(texts: Sequence[str], size: float, bold: bool = False) -> float:
    """The width of the widest of the texts; 0 where there are none."""
    return max((measured(text, size, bold).width for text in texts), default=0.0)
