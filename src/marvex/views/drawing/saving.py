"""A picture as the bytes of a file: PNG, SVG with its fonts and sentences inside, or PDF."""

from __future__ import annotations

import base64
import io
import re
import warnings
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any
from xml.sax.saxutils import escape

from matplotlib import rc_context
from matplotlib.backends.backend_agg import FigureCanvasAgg

from marvex.core.words.printable import printable
from marvex.views.drawing.text_metrics import faces_of

if TYPE_CHECKING:
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
    with rc_context(_DRAWING), warnings.catch_warnings(record=True) as warned:
        warnings.simplefilter("always")
        match ending:
            case ".png":
                words = {"Title": title, "Description": description, "Software": MAKER}
                FigureCanvasAgg(figure).print_png(content, metadata=words)
            case ".svg":
                content.write(_as_svg(canvas, title, description, with_fonts=True).encode())
            case _:
                about = {"Title": title, "Subject": description, "Creator": MAKER, "CreationDate": None}
                figure.savefig(content, format="pdf", metadata=about)
    return Saved(content.getvalue(), any("missing from font" in str(one.message) for one in warned))


def pages_of(canvases: Sequence[Canvas]) -> bytes:
    """A PDF with a page for each canvas, which share their fonts; the same bytes every time."""
    from matplotlib.backends.backend_pdf import PdfPages

    content = io.BytesIO()
    with rc_context(_DRAWING), PdfPages(content, metadata={"Creator": MAKER, "CreationDate": None}) as pages:
        for canvas in canvases:
            pages.savefig(canvas.figure)
    return content.getvalue()


def for_page(canvas: Canvas, title: str, description: str) -> str:
    """The SVG as a part of a page: without fonts, which all of its pictures share, and without a head of its own."""
    svg = _as_svg(canvas, printable(title), printable(description), with_fonts=False)
    svg = re.sub(r"<metadata>.*?</metadata>", "", svg[svg.index("<svg") :], flags=re.DOTALL)
    svg = re.sub(r' (?:width|height)="[\d.]+pt"', "", svg, count=2)
    # Its words stand beside it, names that nothing asks for are none, and a tenth of a point is not seen.
    svg = re.sub(r"<(desc|style)\b.*?</\1>|<defs>\s*</defs>", "", svg, flags=re.DOTALL)
    svg = re.sub(r'<g id="(?:patch|line2d|text|figure)_\d+">', "<g>", svg)
    svg = re.sub(r"(\d\.\d)\d+", r"\1", svg)
    svg = re.sub(r"\s*\n\s*", " ", svg)
    svg = re.sub(r"<!--.*?-->", "", svg)
    return re.sub(r"<g> *(<(?:path|text)[^>]*/>|<text[^>]*>[^<]*</text>) *</g>", r"\1", svg)


def _as_svg(canvas: Canvas, title: str, description: str, *, with_fonts: bool) -> str:
    """The SVG with a `<desc>` for those who hear it, its fonts, and a `<title>` at each mark."""
    content = io.BytesIO()
    with rc_context(_DRAWING):
        metadata = {"Title": title, "Date": None, "Creator": MAKER}
        canvas.figure.savefig(content, format="svg", metadata=metadata)
    svg = content.getvalue().decode()
    svg = svg.replace("</title>", f"</title>\n <desc>{escape(description)}</desc>", 1)
    if with_fonts:
        svg = svg.replace('<style type="text/css">', f'<style type="text/css">{_font_faces(canvas)}', 1)
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


def _subset(path: Path, letters: set[str]) -> bytes:
    from fontTools.subset import Options, Subsetter
    from fontTools.ttLib import TTFont

    # Letters stand where Matplotlib measured them, which knows nothing of the tables that move or replace them.
    unused = ["FFTM", "GDEF", "GPOS", "GSUB"]
    options = Options(hinting=False, notdef_outline=True, name_IDs=[0, 1, 2], drop_tables=unused)
    font = TTFont(path, recalcTimestamp=False, fontNumber=0)
    subsetter = Subsetter(options)
    subsetter.populate(unicodes=[ord(letter) for letter in letters])
    subsetter.subset(font)
    font.flavor = "woff"
    content = io.BytesIO()
    font.save(content)
    return content.getvalue()
