"""The letters: the bundled fonts, those to fall back on, and how wide a text is in them."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from functools import cache, cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from marvex.core.errors import Mistake
from marvex.core.values import dataclass
from marvex.views.drawing.style import FAMILY, FONTS, SEMIBOLD_FAMILY, SPARE_FAMILIES

if TYPE_CHECKING:
    from matplotlib.font_manager import FontManager, FontProperties
    from matplotlib.ft2font import FT2Font

DPI = 100
POINTS_PER_PIXEL = 72 / DPI


@dataclass(frozen=True, slots=True)
class Extent:
    """How much room a text takes: its width, and its line's height whatever its letters."""

    width: float
    height: float


def font_of(text: str, size: float, bold: bool) -> FontProperties:
    """The face in use alone where it has every letter, which is quick; else with those to fall back on."""
    from matplotlib.font_manager import FontProperties

    _fonts()
    face, points = _IN_USE.get()[bold], size * POINTS_PER_PIXEL
    if face.has_all(text):
        return FontProperties(family=[face.family, FAMILY[-1]], fname=str(face.path), size=points)
    return FontProperties(family=[face.family, *FAMILY, *_spare_families()], size=points)


def has_all(text: str, bold: bool) -> bool:
    """Whether the face in use has every letter of the text, so that its width is known."""
    return _IN_USE.get()[bold].has_all(text)


def ascent(bold: bool) -> float:
    """How far letters rise above their baseline, in parts of the size."""
    return _IN_USE.get()[bold].ascent


@contextmanager
def typeface(fonts: tuple[Path, Path] | None) -> Iterator[None]:
    """Measures and draws with the faces of a style, where it has its own: the regular one and the bold one."""
    if fonts is None:
        yield
        return
    from matplotlib.font_manager import fontManager

    for path in fonts:
        fontManager.addfont(path)
    token = _IN_USE.set({bold: _Face(path) for bold, path in zip((False, True), fonts, strict=True)})
    try:
        yield
    finally:
        _IN_USE.reset(token)


NEEDED = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz+−–-.,%()/<>&:;…'"


def check_font(path: Path, style: str) -> None:
    """Raises Mistake where a font cannot be read, or lacks letters or signs that figures need."""
    try:
        lacking = [sign for sign in NEEDED if not _Face(path).has(sign)]
    except (OSError, RuntimeError, ValueError):
        raise Mistake(f"style {style}: the font {path} cannot be read", "Name a .ttf or .otf file.") from None
    if lacking:
        told = " ".join(lacking[:8])
        raise Mistake(
            f"style {style}: the font {path.name} lacks {told}{' …' if len(lacking) > 8 else ''}",
            "Name a font that has letters, digits and signs.",
        )


@cache
def _fonts() -> FontManager:
    """The fonts of this machine, and the bundled ones."""
    from matplotlib.font_manager import fontManager

    for font in sorted(FONTS.glob("*.ttf")):
        fontManager.addfont(font)
    return fontManager


@cache
def _spare_families() -> tuple[str, ...]:
    """Those of the families to fall back on that this machine has."""
    installed = set(_fonts().get_font_names())
    return tuple(one for one in SPARE_FAMILIES if one in installed)


def faces_of(texts: Sequence[tuple[str, bool]]) -> dict[tuple[str, Path], set[str]]:
    """Which letters of some texts each font gives: by the font's family and file."""
    found: dict[tuple[str, Path], set[str]] = {}
    for text, bold in texts:
        main = _IN_USE.get()[bold]
        for sign in text:
            if main.has(sign):
                found.setdefault((main.family, main.path), set()).add(sign)
                continue
            for family in (*FAMILY, *_spare_families()):
                spare = _spare_face(family)
                if spare.has(sign):
                    found.setdefault((family, spare.path), set()).add(sign)
                    break
    return found


@cache
def _spare_face(family: str) -> _Face:
    from matplotlib.font_manager import FontProperties

    return _Face(Path(_fonts().findfont(FontProperties(family=[family]))))


class _Face:
    """A font's letters and their advances, unhinted and so in proportion at every size."""

    SIZE = 1000

    def __init__(self, path: Path, family: str = "") -> None:
        self.path, self._family = path, family
        self._advances: dict[str, float | None] = {}

    @property
    def family(self) -> str:
        """The font's name, as its file says it."""
        if not self._family:
            from matplotlib.font_manager import FontProperties

            self._family = FontProperties(fname=str(self.path)).get_name()
        return self._family

    def has(self, sign: str) -> bool:
        return self._advance(sign) is not None

    def has_all(self, text: str) -> bool:
        return all(self.has(sign) for sign in text)

    def width(self, text: str) -> float:
        """The width in parts of the size; a letter the font lacks is taken to be a full square."""
        return sum(1.0 if (found := self._advance(sign)) is None else found for sign in text)

    @cached_property
    def ascent(self) -> float:
        """How far letters rise above their baseline, in parts of the size, as the font's table `OS/2` says it."""
        table = self._font.get_sfnt_table("OS/2")
        return (table["sTypoAscender"] if table else self._font.ascender) / self._font.units_per_EM

    @cached_property
    def _font(self) -> FT2Font:
        from matplotlib.ft2font import FT2Font

        # From memory: an open file's place is shared with processes that are forked to paint.
        font = FT2Font(io.BytesIO(self.path.read_bytes()))
        font.set_size(self.SIZE, 72)
        return font

    def _advance(self, sign: str) -> float | None:
        if sign not in self._advances:
            from matplotlib.ft2font import LoadFlags

            known = self._font.get_char_index(ord(sign)) != 0
            glyph = self._font.load_char(ord(sign), flags=LoadFlags.NO_HINTING) if known else None
            self._advances[sign] = glyph.linearHoriAdvance / 65536 / self.SIZE if glyph else None
        return self._advances[sign]


_BUNDLED = {
    False: _Face(FONTS / "IBMPlexSans-Regular.ttf", FAMILY[0]),
    True: _Face(FONTS / "IBMPlexSans-SemiBold.ttf", SEMIBOLD_FAMILY),
}
# Text is measured in dozens of places that know no style: the face is that of the picture being drawn.
_IN_USE: ContextVar[dict[bool, _Face]] = ContextVar("typeface", default=_BUNDLED)


def measured(text: str, size: float, bold: bool = False) -> Extent:
    """The room that a line of text takes."""
    return Extent(_IN_USE.get()[bold].width(text) * size, size * 1.2)


def widest(texts: Sequence[str], size: float, bold: bool = False) -> float:
    """The width of the widest of the texts; 0 where there are none."""
    return max((measured(text, size, bold).width for text in texts), default=0.0)
