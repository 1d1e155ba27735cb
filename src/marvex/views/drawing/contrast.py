"""Whether the tones of a style are told apart by every eye and in greyscale, and its text can be read.

Distances are in CAM02-UCS (Luo, Cui and Li 2006), weak sight is simulated at full severity (Machado,
Oliveira and Fernandes 2009), contrast is that of WCAG 2.
"""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING, Any

from marvex.core.rules.bands import Tone

if TYPE_CHECKING:
    from marvex.views.drawing.style import Style

JUDGING = (Tone.BETTER, Tone.WORSE, Tone.WATCH)
MEETING = (*JUDGING, Tone.NEUTRAL, Tone.STANDING)
SIGHTS = {
    "normal": "",
    "deuteranomaly": " by the green-blind",
    "protanomaly": " by the red-blind",
    "tritanomaly": " by the blue-blind",
}
LEAST_APART = 10.0  # in CAM02-UCS
LEAST_LIGHTER = 7.0  # in L*
LEAST_CONTRAST = 4.5


def weaknesses(style: Style) -> tuple[str, ...]:
    """A sentence for each pair of tones that is not told apart, and for each text that is hard to read."""
    found = []
    for one, other in combinations(MEETING, 2):
        weak = [
            spoken
            for sight, spoken in SIGHTS.items()
            if apart(style.fills[one], style.fills[other], sight) < LEAST_APART
        ]
        if weak:
            found.append(f"the fills of {one.value} and {other.value} are hardly told apart{weak[0]}")
    for one, other in combinations(JUDGING, 2):
        if abs(lightness(style.fills[one]) - lightness(style.fills[other])) < LEAST_LIGHTER:
            found.append(f"the fills of {one.value} and {other.value} are hardly told apart in greyscale")
    texts = {f"the text of {tone.value}": colour for tone, colour in style.texts.items()}
    texts |= {"ink": style.ink, "soft ink": style.soft}
    for name, colour in texts.items():
        if contrast(colour, style.ground) < LEAST_CONTRAST:
            found.append(f"{name} has a contrast of less than {LEAST_CONTRAST}:1 on the ground")
    if contrast(style.texts[Tone.STANDING], style.fills[Tone.STANDING]) < LEAST_CONTRAST:
        found.append(f"the text of standing has a contrast of less than {LEAST_CONTRAST}:1 on a standing bar")
    return tuple(found)


def apart(one: str, other: str, sight: str) -> float:
    """How far apart two colours are seen, with a weakness of sight or `normal`."""
    # A style of one's own is the only one that waits for this library.
    from colorspacious import deltaE

    return float(deltaE(_seen(one, sight), _seen(other, sight), "sRGB1", uniform_space="CAM02-UCS"))


def lightness(colour: str) -> float:
    """L* of CIELab, from 0 for black to 100 for white."""
    from colorspacious import cspace_convert

    return float(cspace_convert(_rgb(colour), "sRGB1", "CIELab")[0])


def contrast(one: str, other: str) -> float:
    """The contrast ratio of two colours, from 1 to 21 (WCAG 2)."""
    lighter, darker = sorted((_luminance(one), _luminance(other)), reverse=True)
    return (lighter + 0.05) / (darker + 0.05)


def _luminance(colour: str) -> float:
    linear = [part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in _rgb(colour)]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def _seen(colour: str, sight: str) -> Any:
    import numpy as np
    from colorspacious import cspace_convert

    if sight == "normal":
        return _rgb(colour)
    space = {"name": "sRGB1+CVD", "cvd_type": sight, "severity": 100}
    return np.clip(cspace_convert(_rgb(colour), space, "sRGB1"), 0, 1)


def _rgb(colour: str) -> tuple[float, float, float]:
    red, green, blue = (int(colour[place : place + 2], 16) / 255 for place in (1, 3, 5))
    return red, green, blue
