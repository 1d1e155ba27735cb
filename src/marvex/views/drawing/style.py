"""Colours and type, decided here and nowhere else; a tone becomes a colour through a style.

The styles are TOML files in `styles/`. Their fills were chosen by search: those that meet in one picture
are well apart in CAM02-UCS, under normal sight and simulated deuteranopia, protanopia and tritanopia,
and the three judging tones differ in lightness, so that they are told apart in greyscale.
"""

from __future__ import annotations

from collections.abc import Mapping
from enum import Enum
from functools import cache
from pathlib import Path
from typing import Any

from marvex.core.rules.bands import Tone
from marvex.core.values import dataclass

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
TRANSPARENT = "transparent"


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

    Parameters
    ----------
    is_transparent : the ground is not painted; `ground` is then the colour that it is thought to be.
    fonts : the files of the regular and the bold face, where they are not the bundled ones.
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
    is_transparent: bool = False
    fonts: tuple[Path, Path] | None = None

    def ink_on(self, fill: str) -> str:
        """The ink that is read on a fill: dark or light, by contrast with it."""
        from marvex.views.drawing.contrast import contrast

        return max((self.ink, self.ground), key=lambda ink: contrast(ink, fill))


KEYS: dict[str, tuple[str, ...]] = {
    "colours": ("current", "base", "base_line", "ink", "soft", "hairline", "connector", "ground"),
    "sizes": ("title", "subtitle", "label", "name", "foot", "least"),
    "lines": ("connector", "axis"),
    "fonts": ("regular", "bold"),
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
    return style_of({"inherits": name})


def style_of(said: Mapping[str, Any], folder: Path = Path()) -> Style:
    """The style that a file says, which has been checked; what it leaves out is as in the one that it inherits.

    Unless it names one, that is the style whose ground is nearest to its own.

    Parameters
    ----------
    folder : from where the paths of its fonts start.
    """
    import tomllib

    ground = said.get("colours", {}).get("ground", "")
    inherited = said.get("inherits") or (nearest_style(ground) if ground.startswith("#") else DEFAULT)
    whole = tomllib.loads(style_text(inherited))
    for table in whole:
        whole[table] |= {key: value for key, value in said.get(table, {}).items() if value != TRANSPARENT}
    tones = {tone.value: tone for tone in Tone}
    fills, texts = ({tones[key]: value for key, value in whole[table].items()} for table in ("fills", "texts"))
    rest: dict[str, Any] = dict(whole["colours"])
    rest |= {f"{key}_size": float(value) for key, value in whole["sizes"].items()}
    rest |= {f"{key}_line": float(value) for key, value in whole["lines"].items()}
    shapes = {tones[key]: Shape(value) for key, value in whole["shapes"].items()}
    fonts = said.get("fonts", {})
    regular = fonts.get("regular") or fonts.get("bold")
    return Style(
        fills=fills,
        texts=texts,
        shapes=shapes,
        is_transparent=ground == TRANSPARENT,
        fonts=(folder / regular, folder / (fonts.get("bold") or regular)) if regular else None,
        **rest,
    )


def nearest_style(ground: str) -> str:
    """The style that comes with Marvex whose ground is nearest to a colour, in its parts of red, green and blue."""

    def off(name: str) -> int:
        other = style_named(name).ground
        return sum(abs(int(ground[at : at + 2], 16) - int(other[at : at + 2], 16)) for at in (1, 3, 5))

    return min(style_names(), key=off)
