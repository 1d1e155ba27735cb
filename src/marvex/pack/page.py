"""The page of a pack: one file that asks nothing of anywhere, with everything in it."""

from __future__ import annotations

import base64
import dataclasses
import hashlib
import html
import re
from collections.abc import Iterable, Mapping, Sequence
from importlib.resources import files
from itertools import zip_longest
from pathlib import Path
from typing import Any

from jinja2 import DictLoader, Environment, StrictUndefined
from markupsafe import Markup

from marvex.app.styling import styled
from marvex.pack.kept import PLAIN, Pieces
from marvex.pack.pack_file import Pack
from marvex.pack.piece import Piece, Record, ranked
from marvex.pack.windows import Chooser
from marvex.views.drawing.style import DEFAULT, Style, style_named
from marvex.views.drawing.svg_tags import in_tags

DARK = "dark"  # the style that stands in for the default one where a reader's screen is dark
SENTENCES_SHOWN = 4  # beside a picture
RESTATED_SHOWN = 8  # figures that were restated, before the others are folded away
LONGEST_WORDS = 2_000  # letters: what is longer is a file
_ID = re.compile(r'(\bid="|url\(#|href="#)')
_MARK = re.compile(r'<g id="([\w-]*mark-\d+)"><title>(.*?)</title>', re.DOTALL)
_STYLE = re.compile(r' style="([^"]*)"')
_COLOUR = re.compile(r"#[0-9a-fA-F]{6}\b")


def page(pack: Pack, period: str, views: Mapping[str, Pieces], chooser: Chooser, fonts: str) -> str:
    """The page as HTML.

    Parameters
    ----------
    views : the pieces of each view, in order, by what is chosen.
    fonts : as `fonts_of` gives them.
    """
    style = styled(pack.style)
    twin = style_named(DARK) if pack.style in (None, DEFAULT) else None
    colours = _Colours(style, twin)
    plain = [pieces[PLAIN] for pieces in views.values()]
    script = _asset("page.js")
    variables = colours.rules()
    environment = Environment(
        loader=DictLoader({"page.html": _asset("page.html"), "view.html": _asset("view.html")}),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    sections = [
        {"plain": pieces[PLAIN], "place": place, "key": PLAIN, "others": [
            {"key": key, "piece": piece, "svg": colours.inline(piece.svg, f"v{place}c{other}-")}
            for other, (key, piece) in enumerate(pieces.items()) if key != PLAIN
        ], "svg": colours.inline(pieces[PLAIN].svg, f"v{place}-")}
        for place, pieces in enumerate(views.values())
    ]  # fmt: skip
    css = fonts + variables + colours.looks() + _asset("page.css")
    return environment.get_template("page.html").render(
        pack=pack,
        title=pack.title or plain[0].title,
        period=period,
        findings=ranked(plain),
        sections=sections,
        chooser=chooser,
        css=Markup(css),
        script=Markup(script),
        script_hash=_hash(script),
        download=_download,
        most=SENTENCES_SHOWN,
        doubts=dict.fromkeys(doubt for piece in plain for doubt in piece.doubts),
        failing=[(piece.name, band) for piece in plain for band in piece.failing],
        since_doubts=dict.fromkeys(doubt for piece in plain for doubt in piece.since_doubts),
        restated=_restated(plain),
        most_restated=RESTATED_SHOWN,
    )


def _restated(pieces: Sequence[Piece]) -> list[tuple[str, str, Record | None]]:
    """What was restated and by which view, each once, with the rows behind it."""
    found: dict[str, tuple[str, str, Record | None]] = {}
    for piece in pieces:
        texts = (*piece.restated, *piece.rebanded)
        for text, rows in zip_longest(texts, piece.restated_rows[: len(piece.restated)]):
            found.setdefault(text, (piece.name, text, rows))
    return list(found.values())


def _asset(name: str) -> str:
    return (files("marvex.pack") / "assets" / name).read_text(encoding="utf-8")


def _hash(text: str) -> str:
    return base64.b64encode(hashlib.sha256(text.encode()).digest()).decode()


def _download(text: str, kind: str) -> str:
    """A file as an address that holds it."""
    return f"data:{kind};base64,{base64.b64encode(text.encode()).decode()}"


def fonts_of(pieces: Sequence[Piece], *texts: str) -> str:
    """The fonts that all pictures and words of a page together need, each with the letters of all."""
    from marvex.views.drawing.saving import font_rules
    from marvex.views.drawing.text_metrics import NEEDED, faces_of

    words = "".join(
        sorted({*NEEDED, *"".join(texts), *"".join(_words_in(dataclasses.astuple(one)) for one in pieces)})
    )
    letters = {face: set(own) for face, own in faces_of([(words, False), (words, True)]).items()}
    for piece in pieces:
        for family, path, own in piece.faces:
            letters.setdefault((family, Path(path)), set()).update(own)
    return font_rules(letters)


def _words_in(value: Any) -> str:
    """The letters of all texts in a stored piece, but for files."""
    if isinstance(value, str):
        return "".join(set(value)) if len(value) < LONGEST_WORDS else ""
    if isinstance(value, dict):
        value = value.values()
    return "".join(map(_words_in, value)) if isinstance(value, Iterable) else ""


class _Colours:
    """The colours of a style as variables, which a twin for dark screens has others of."""

    def __init__(self, style: Style, twin: Style | None) -> None:
        self._style, self._known, self._looks = style, dict[str, str](), dict[str, int]()
        for one, other in _pairs(style, twin or style):
            self._known.setdefault(one.lower(), other.lower())
        self._twin = twin

    def inline(self, svg: str, prefix: str) -> Markup:
        """A picture as part of the page: its names its own, its marks reached by keyboard, its colours variables."""
        if not svg:
            return Markup("")
        svg = in_tags(lambda tag: _ID.sub(lambda found: found[1] + prefix, tag), svg)
        svg = svg.replace("<svg ", '<svg role="group" focusable="false" ', 1)
        svg = _MARK.sub(
            lambda found: (
                f'<g id="{found[1]}" class="mark" tabindex="0" role="img" aria-label="{_attribute(found[2])}">'
            ),
            svg,
        )
        svg = in_tags(lambda tag: _STYLE.sub(self._class_of, tag), svg)
        # The picture's own name is the heading above it.
        svg = re.sub(r"<title>.*?</title>", "", svg, count=1, flags=re.DOTALL)
        return Markup(svg)

    def _class_of(self, found: re.Match[str]) -> str:
        """A style as a class, which all that look so share."""
        look = _COLOUR.sub(self._variable, found[1].replace("&quot;", '"'))
        return f' class="s{self._looks.setdefault(look, len(self._looks))}"'

    def looks(self) -> str:
        """The classes, once all pictures are known."""
        return "".join(f".s{number}{{{look}}}" for look, number in self._looks.items())

    def _variable(self, found: re.Match[str]) -> str:
        colour = found[0].lower()
        return f"var(--c{colour[1:]})" if colour in self._known else colour

    def rules(self) -> str:
        """The variables: of the style, of its twin where the screen is dark, and of the style again on paper."""
        style = self._style
        own = "".join(f"--c{colour[1:]}:{colour};" for colour in self._known) + _page_colours(style)
        rules = f":root{{{own}}}"
        if self._twin is not None:
            other = "".join(f"--c{colour[1:]}:{dark};" for colour, dark in self._known.items())
            rules += f"@media screen and (prefers-color-scheme:dark){{:root{{{other}{_page_colours(self._twin)}}}}}"
        return rules


def _page_colours(style: Style) -> str:
    names = {"ink": style.ink, "soft": style.soft, "ground": style.ground, "hairline": style.hairline}
    tones = {f"fill-{tone.value}": colour for tone, colour in style.fills.items()}
    texts = {f"text-{tone.value}": colour for tone, colour in style.texts.items()}
    return "".join(f"--{name}:{colour};" for name, colour in {**names, **tones, **texts}.items())


def _pairs(style: Style, twin: Style) -> Iterable[tuple[str, str]]:
    for name in ("ink", "soft", "ground", "hairline", "connector", "current", "base", "base_line"):
        yield getattr(style, name), getattr(twin, name)
    for table in ("fills", "texts"):
        for tone, colour in getattr(style, table).items():
            yield colour, getattr(twin, table)[tone]


def _attribute(text: str) -> Any:
    """A text of an SVG, as the value of an attribute."""
    return html.escape(html.unescape(text), quote=True)
