"""The letters: the bundled fonts, those to fall back on, and how wide a text is in them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

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
    """The bundled font alone where it has every letter, which is quick; else with those to fall back on."""
    from matplotlib.font_manager import FontProperties

    _fonts()
    family = [*((SEMIBOLD_FAMILY,) if bold else ()), *FAMILY]
    if _FACES[bold].has_all(text):
        return FontProperties(family=family, fname=str(_FACES[bold].path), size=size * POINTS_PER_PIXEL)
    return FontProperties(family=[*family, *_spare_families()], size=size * POINTS_PER_PIXEL)


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
        main = _FACES[bold]
        for sign in text:
            if main.has(sign):
                family = SEMIBOLD_FAMILY if bold else FAMILY[0]
                found.setdefault((family, main.path), set()).add(sign)
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

    def __init__(self, path: Path) -> None:
        self.path = path
        self._font: FT2Font | None = None
        self._advances: dict[str, float | None] = {}

    def has(self, sign: str) -> bool:
        return self._advance(sign) is not None

    def has_all(self, text: str) -> bool:
        return all(self.has(sign) for sign in text)

    def width(self, text: str) -> float:
        """The width in parts of the size; a letter the font lacks is taken to be a full square."""
        return sum(1.0 if (found := self._advance(sign)) is None else found for sign in text)

    def _advance(self, sign: str) -> float | None:
        if sign not in self._advances:
            from matplotlib.ft2font import FT2Font, LoadFlags

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
