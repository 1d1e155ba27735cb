"""Colours and type, decided here and nowhere else; a tone becomes a colour through a style.

The default's fills were chosen by search: any two that meet in one picture are at least 17 apart in
CAM02-UCS, under normal sight and simulated deuteranopia, protanopia and tritanopia, and the three
judging tones differ by at least 14 in L*, so that they are told apart in greyscale.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from types import MappingProxyType

from marvex.core.rules import Tone

FONTS = Path(__file__).parent / "fonts"
FAMILY = ("IBM Plex Sans", "DejaVu Sans")
# For scripts that neither has, whichever of these a machine has installed.
SPARE_FAMILIES = (
    *("Noto Sans CJK JP", "Noto Sans CJK SC", "WenQuanYi Zen Hei", "Droid Sans Fallback", "Yu Gothic"),
    *("Hiragino Sans", "Microsoft YaHei", "Malgun Gothic", "PingFang SC", "Arial Unicode MS", "Noto Sans"),
)
SEMIBOLD_FAMILY = "IBM Plex Sans SmBld"


@dataclass(frozen=True, slots=True)
class Style:
    """The look of a picture: fills and text shades by tone, the sides, ink, and type sizes in pixels.

    Sizes are those of a picture of 1280x800 and grow with it.
    """

    fills: Mapping[Tone, str]
    texts: Mapping[Tone, str]
    current: str = "#073B7E"
    base: str = "#EDE0C9"
    base_line: str = "#8D5930"
    ink: str = "#22242C"
    soft: str = "#6A6B73"
    hairline: str = "#D9D5CD"
    connector: str = "#6A6B73"
    ground: str = "#FFFFFF"
    title_size: float = 29.0
    subtitle_size: float = 17.5
    label_size: float = 17.5
    name_size: float = 16.0
    foot_size: float = 13.5
    least_size: float = 10.5  # no text is made smaller than this, it is dropped or thinned instead


@cache
def default_style() -> Style:
    """The style of the design: teal for better, plum for worse, ochre for watch, stone for what stands."""
    fills = {
        Tone.BETTER: "#238573",
        Tone.WORSE: "#870C42",
        Tone.WATCH: "#D2A43A",
        Tone.PLAIN: "#9AA2AA",
        Tone.STANDING: "#D9D6D1",
        Tone.FAINT: "#B9B6B0",
    }
    texts = {
        Tone.BETTER: "#1F816F",
        Tone.WORSE: "#870C42",
        Tone.WATCH: "#926E0E",
        Tone.PLAIN: "#6D737A",
        Tone.STANDING: "#22242C",
        Tone.FAINT: "#6A6B73",
    }
    return Style(MappingProxyType(fills), MappingProxyType(texts))
