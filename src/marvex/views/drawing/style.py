"""Colours and type, decided here and nowhere else; a tone becomes a colour through a style.

The styles are TOML files in `styles/`. Their fills were chosen by search: those that meet in one picture
are well apart in CAM02-UCS, under normal sight and simulated deuteranopia, protanopia and tritanopia,
and the three judging tones differ in lightness, so that they are told apart in greyscale.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum
from functools import cache
from pathlib import Path
from types import MappingProxyType
from typing import Any

from marvex.core.rules.bands import Tone

FONTS = Path(__file__).parent / "fonts"
FAMILY = ("IBM Plex Sans", "DejaVu Sans")
# For scripts that neither has, whichever of these a machine has installed.
SPARE_FAMILIES = (
    *("Noto Sans CJK JP", "Noto Sans CJK SC", "WenQuanYi Zen Hei", "Droid Sans Fallback", "Yu Gothic"),
    *("Hiragino Sans", "Microsoft YaHei", "Malgun Gothic", "PingFang SC", "Arial Unicode MS", "Noto Sans"),
)
SEMIBOLD_FAMILY = "IBM Plex Sans SmBld"


STYLES = Path(__file__).parent / "styles"
DEFAULT = "teal"


class Shape(Enum):
    """What stands beside a figure so that colour does not say it alone.

    `direction` is a triangle up or down by the change itself; the others are the tone's own, in the
    legend as well.
    """

    DIRECTION = "direction"
    SQUARE = "square"
    CIRCLE = "circle"
    DIAMOND = "diamond"
    TRIANGLE = "triangle"


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Style:
    """The look of a picture: fills and text shades by tone, the sides, ink, type sizes in pixels, line widths.

    Sizes are those of a picture of 1280x800 and grow with it.
    """

    fills: Mapping[Tone, str]
    texts: Mapping[Tone, str]
    shapes: Mapping[Tone, Shape]
    current: str
    base: str
    base_line: str
    ink: str
    soft: str
    hairline: str
    connector: str
    ground: str
    title_size: float
    subtitle_size: float
    label_size: float
    name_size: float
    foot_size: float
    least_size: float  # no text is made smaller than this, it is dropped or thinned instead
    connector_line: float
    axis_line: float

    def ink_on(self, fill: str) -> str:
        """The ink that is read on a fill: dark or light, by contrast with it."""
        from marvex.views.drawing.contrast import contrast

        return max((self.ink, self.ground), key=lambda ink: contrast(ink, fill))


KEYS: dict[str, tuple[str, ...]] = {
    "colours": ("current", "base", "base_line", "ink", "soft", "hairline", "connector", "ground"),
    "sizes": ("title", "subtitle", "label", "name", "foot", "least"),
    "lines": ("connector", "axis"),
}


def style_names() -> tuple[str, ...]:
    """The styles that come with Marvex, the default first."""
    return (DEFAULT, *sorted(path.stem for path in STYLES.glob("*.toml") if path.stem != DEFAULT))


def style_text(name: str) -> str:
    """A style that comes with Marvex, as it is written in its file."""
    return (STYLES / f"{name}.toml").read_text(encoding="utf-8")


@cache
def style_named(name: str) -> Style:
    """A style that comes with Marvex."""
    import tomllib

    return style_of({} if name == DEFAULT else tomllib.loads(style_text(name)))


def style_of(said: Mapping[str, Mapping[str, Any]]) -> Style:
    """The style that the tables of a file say, which have been checked; what they leave out is as in the default."""
    import tomllib

    whole = tomllib.loads(style_text(DEFAULT))
    for table, values in said.items():
        whole[table] |= values
    tones = {tone.value: tone for tone in Tone}
    fills, texts = ({tones[key]: value for key, value in whole[table].items()} for table in ("fills", "texts"))
    rest: dict[str, Any] = dict(whole["colours"])
    rest |= {f"{key}_size": float(value) for key, value in whole["sizes"].items()}
    rest |= {f"{key}_line": float(value) for key, value in whole["lines"].items()}
    shapes = {tones[key]: Shape(value) for key, value in whole["shapes"].items()}
    return Style(
        fills=MappingProxyType(fills), texts=MappingProxyType(texts), shapes=MappingProxyType(shapes), **rest
    )
