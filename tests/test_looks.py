"""The look: tones that are told apart by every eye and in greyscale, text that can be read."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from colorspacious import cspace_convert, deltaE

from marvex.core.rules import Tone
from marvex.views.style import default_style

STYLE = default_style()
JUDGING = (Tone.BETTER, Tone.WORSE, Tone.WATCH)
MEETING = (*JUDGING, Tone.PLAIN, Tone.STANDING)
SIGHTS = ("normal", "deuteranomaly", "protanomaly", "tritanomaly")


def rgb(colour: str) -> np.ndarray:
    return np.array([int(colour[place : place + 2], 16) / 255 for place in (1, 3, 5)])


def seen(colour: str, sight: str) -> np.ndarray:
    """The colour as it is seen, with the named weakness at full severity (Machado 2009)."""
    if sight == "normal":
        return rgb(colour)
    space = {"name": "sRGB1+CVD", "cvd_type": sight, "severity": 100}
    return np.clip(cspace_convert(rgb(colour), space, "sRGB1"), 0, 1)


def apart(one: str, other: str, sight: str) -> float:
    return float(deltaE(seen(one, sight), seen(other, sight), "sRGB1", uniform_space="CAM02-UCS"))


@pytest.mark.parametrize("sight", SIGHTS)
def test_tones_that_meet_are_told_apart(sight: str) -> None:
    for one, other in itertools.combinations(MEETING, 2):
        distance = deltaE(
            seen(STYLE.fills[one], sight), seen(STYLE.fills[other], sight), "sRGB1", uniform_space="CAM02-UCS"
        )
        assert distance >= 16.5, (one, other, distance)
    for side, tone in itertools.product((STYLE.current, STYLE.base, STYLE.base_line), (*JUDGING, Tone.PLAIN)):
        distance = deltaE(seen(side, sight), seen(STYLE.fills[tone], sight), "sRGB1", uniform_space="CAM02-UCS")
        assert distance >= 16.5, (side, tone, distance)


def test_judging_tones_differ_in_lightness() -> None:
    light = {tone: cspace_convert(rgb(STYLE.fills[tone]), "sRGB1", "CIELab")[0] for tone in JUDGING}
    assert all(abs(light[one] - light[other]) >= 14 for one, other in itertools.combinations(JUDGING, 2))


def contrast(colour: str, ground: str) -> float:
    """The contrast ratio of WCAG 2."""

    def luminance(one: str) -> float:
        linear = np.where(rgb(one) <= 0.04045, rgb(one) / 12.92, ((rgb(one) + 0.055) / 1.055) ** 2.4)
        return float(linear @ np.array([0.2126, 0.7152, 0.0722]))

    lighter, darker = sorted((luminance(colour), luminance(ground)), reverse=True)
    return (lighter + 0.05) / (darker + 0.05)


def test_text_can_be_read() -> None:
    for colour in (*STYLE.texts.values(), STYLE.ink, STYLE.soft, STYLE.current, STYLE.base_line):
        assert contrast(colour, STYLE.ground) >= 4.5, colour
    assert contrast(STYLE.ink, STYLE.fills[Tone.STANDING]) >= 4.5
