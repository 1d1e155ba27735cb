"""A picture as the bytes of a file: PNG, SVG with its fonts and sentences inside, or PDF."""

from __future__ import annotations

import base64
import contextlib
import io
import re
import warnings
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any
from xml.sax.saxutils import escape

from matplotlib import rc_context
from matplotlib.backends.backend_agg import FigureCanvasAgg

from marvex.core.values import dataclass
from marvex.core.words.printable import printable
from marvex.views.drawing.svg_tags import in_tags
from marvex.views.drawing.text_metrics import faces_of

if TYPE_CHECKING:
    from fontTools.ttLib import TTFont

    from marvex.views.drawing.canvas import Canvas

# Unhinted letters have the same width at every size and in every kind of file.
_DRAWING: Any = {
    "text.hinting": "no_hinting",
    "svg.hashsalt": "marvex",
    "svg.fonttype": "none",
    "pdf.fonttype": 42,
}
MAKER = "Marvex"


@dataclass(frozen=True, slots=True)
class Saved:
    """The bytes of a picture, and whether no font had some letter of it."""

    content: bytes
    lacks_letters: bool


def saved(canvas: Canvas, ending: str, title: str, description: str) -> Saved:
    """The picture as `.png`, `.svg` or `.pdf`, with its words inside; the same bytes every time."""
    content = io.BytesIO()
    figure, title, description = canvas.figure, printable(title), printable(description)
    with rc_context(_DRAWING), letters_heard() as heard:
        match ending:
            case ".png":
                words = {"Title": title, "Description": description, "Software": MAKER}
                FigureCanvasAgg(figure).print_png(content, metadata=words)
            case ".svg":
                content.write(with_fonts(drawn_svg(canvas, title, description), canvas).encode())
            case _:
                about = {"Title": title, "Subject": description, "Creator": MAKER, "CreationDate": None}
                with _quick_fonts():
                    figure.savefig(content, format="pdf", metadata=about)
    return Saved(content.getvalue(), heard.are_lacking)


@dataclass(slots=True)
class Letters:
    """Whether letters were lacking."""

    are_lacking: bool = False


@contextlib.contextmanager
def letters_heard() -> Iterator[Letters]:
    """Tells, in the end, whether the drawing library warned of letters that no font has; prints none of it."""
    letters = Letters()
    with warnings.catch_warnings(record=True) as warned:
        warnings.simplefilter("always")
        yield letters
    letters.are_lacking = any("missing from font" in str(one.message) for one in warned)


def pages_of(canvases: Sequence[Canvas]) -> Saved:
    """A PDF with a page for each canvas, which share their fonts; the same bytes every time."""
    from matplotlib.backends.backend_pdf import PdfPages

    content = io.BytesIO()
    with (
        rc_context(_DRAWING),
        _quick_fonts(),
        letters_heard() as heard,
        PdfPages(content, metadata={"Creator": MAKER, "CreationDate": None}) as pages,
    ):
        for canvas in canvases:
            pages.savefig(canvas.figure)
    return Saved(content.getvalue(), heard.are_lacking)


def for_page(svg: str) -> str:
    """An SVG as a part of a page: without fonts, which all of its pictures share, and without a head of its own."""
    svg = re.sub(r"<metadata>.*?</metadata>", "", svg[svg.index("<svg") :], flags=re.DOTALL)
    svg = re.sub(r' (?:width|height)="[\d.]+pt"', "", svg, count=2)
    # Its words stand beside it, names that nothing asks for are none, and a tenth of a point is not seen.
    svg = re.sub(r"<(desc|style)\b.*?</\1>|<defs>\s*</defs>", "", svg, flags=re.DOTALL)
    svg = re.sub(r'<g id="(?:patch|line2d|text|figure)_\d+">', "<g>", svg)
    svg = in_tags(lambda tag: re.sub(r"(\d\.\d)\d+", r"\1", tag), svg)
    svg = re.sub(r"\s*\n\s*", " ", svg)
    svg = re.sub(r"<!--.*?-->", "", svg)
    return re.sub(r"<g> *(<(?:path|text)[^>]*/>|<text[^>]*>[^<]*</text>) *</g>", r"\1", svg)


def with_fonts(svg: str, canvas: Canvas) -> str:
    """An SVG with the fonts that its texts need inside."""
    return svg.replace('<style type="text/css">', f'<style type="text/css">{_font_faces(canvas)}', 1)


def drawn_svg(canvas: Canvas, title: str, description: str) -> str:
    """The SVG with a `<desc>` for those who hear it and a `<title>` at each mark, but without fonts."""
    content, title, description = io.BytesIO(), printable(title), printable(description)
    with rc_context(_DRAWING):
        metadata = {"Title": title, "Date": None, "Creator": MAKER}
        canvas.figure.savefig(content, format="svg", metadata=metadata)
    svg = content.getvalue().decode()
    svg = svg.replace("</title>", f"</title>\n <desc>{escape(description)}</desc>", 1)
    said = [escape(sentence) for sentence in canvas.sentences]
    return re.sub(r'(<g id="mark-(\d+)">)', lambda found: f"{found[1]}<title>{said[int(found[2])]}</title>", svg)


def faces_in(canvas: Canvas) -> dict[tuple[str, Path], set[str]]:
    """The fonts that the texts use, by family and file, each with the letters that they need of it."""
    return faces_of([(artist.get_text(), bold) for artist, bold in canvas.texts])


def _font_faces(canvas: Canvas) -> str:
    return font_rules(faces_in(canvas))


def font_rules(faces: Mapping[tuple[str, Path], set[str]]) -> str:
    """Each font cut down to its letters, as rules of a style sheet, so that texts look the same everywhere."""
    rules = []
    for (family, path), letters in sorted(faces.items()):
        data = base64.b64encode(_subset(path, letters)).decode()
        rules.append(f"@font-face{{font-family:'{family}';src:url(data:font/woff;base64,{data}) format('woff')}}")
    return "".join(rules)


def _without_layout(font: TTFont) -> TTFont:
    """The font without the tables that move or replace letters: they stand where Matplotlib has measured them.

    Cutting a font down with those tables takes ten times as long: an SVG and a PDF take 0.3 s each.
    """
    for table in ("FFTM", "GDEF", "GPOS", "GSUB"):
        if table in font:
            del font[table]
    return font


@contextlib.contextmanager
def _quick_fonts() -> Iterator[None]:
    """Lets Matplotlib too cut fonts down without those tables."""
    from fontTools import subset

    usual = subset.load_font
    subset.load_font = lambda *file, **how: _without_layout(usual(*file, **how))
    try:
        yield
    finally:
        subset.load_font = usual


def _subset(path: Path, letters: set[str]) -> bytes:
    from fontTools.subset import Options, Subsetter
    from fontTools.ttLib import TTFont

    options = Options(hinting=False, notdef_outline=True, name_IDs=[0, 1, 2])
    font = _without_layout(TTFont(path, recalcTimestamp=False, fontNumber=0))
    subsetter = Subsetter(options)
    subsetter.populate(unicodes=[ord(letter) for letter in letters])
    subsetter.subset(font)
    font.flavor = "woff"
    content = io.BytesIO()
    font.save(content)
    return content.getvalue()
