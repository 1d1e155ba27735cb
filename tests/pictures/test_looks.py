"""The look: tones that are told apart by every eye and in greyscale, text that can be read."""

from __future__ import annotations

import itertools
import re
from pathlib import Path

import numpy as np
import pytest
from colorspacious import cspace_convert, deltaE
from PIL import Image

from conftest import Desk, typed
from marvex.core.rules.bands import Tone
from marvex.views.drawing.contrast import weaknesses
from marvex.views.drawing.style import style_named, style_names

JUDGING = (Tone.BETTER, Tone.WORSE, Tone.WATCH)
MEETING = (*JUDGING, Tone.NEUTRAL, Tone.STANDING)
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


@pytest.mark.parametrize("name", style_names())
@pytest.mark.parametrize("sight", SIGHTS)
def test_tones_that_meet_are_told_apart(name: str, sight: str) -> None:
    style = style_named(name)
    least = 16.5 if name == "teal" else 10
    for one, other in itertools.combinations(MEETING, 2):
        distance = apart(style.fills[one], style.fills[other], sight)
        assert distance >= least, (one, other, distance)
    if name == "teal":
        for side, tone in itertools.product((style.current, style.base, style.base_line), (*JUDGING, Tone.NEUTRAL)):
            assert apart(side, style.fills[tone], sight) >= least, (side, tone)


@pytest.mark.parametrize("name", style_names())
def test_judging_tones_differ_in_lightness(name: str) -> None:
    light = {tone: cspace_convert(rgb(style_named(name).fills[tone]), "sRGB1", "CIELab")[0] for tone in JUDGING}
    least = 14 if name == "teal" else 10
    assert all(abs(light[one] - light[other]) >= least for one, other in itertools.combinations(JUDGING, 2))


def contrast(colour: str, ground: str) -> float:
    """The contrast ratio of WCAG 2."""

    def luminance(one: str) -> float:
        linear = np.where(rgb(one) <= 0.04045, rgb(one) / 12.92, ((rgb(one) + 0.055) / 1.055) ** 2.4)
        return float(linear @ np.array([0.2126, 0.7152, 0.0722]))

    lighter, darker = sorted((luminance(colour), luminance(ground)), reverse=True)
    return (lighter + 0.05) / (darker + 0.05)


@pytest.mark.parametrize("name", style_names())
def test_text_can_be_read(name: str) -> None:
    style = style_named(name)
    for colour in (*style.texts.values(), style.ink, style.soft, style.current, style.base_line):
        assert contrast(colour, style.ground) >= 4.5, colour
    assert contrast(style.ink, style.fills[Tone.STANDING]) >= 4.5
    assert weaknesses(style) == ()


def test_a_style_of_ones_own_is_begun_read_and_warned_about(desk: Desk) -> None:
    desk.write("items.csv", [("Bar", 12, 10), ("Crew", 9, 10)], ("item", "now", "then"))
    words = ("draw", "waterfall", "items.csv", "--current", "now", "--base", "then")
    assert desk.run("begin", "--write", "style:dark", "-o", "ours.toml").status == 0
    found = desk.figures(*words, "--style", "ours.toml", "-o", "a.png")
    assert found["cautions"] == [] and found["bands"][0]["colour"] == style_named("dark").fills[Tone.BETTER]
    assert (desk.folder / "a.png").read_bytes() != b""
    # A tone's own shape stands beside its figures and in the legend: the picture is another one.
    (desk.folder / "ours.toml").write_text('[shapes]\nbetter = "circle"\nworse = "diamond"\n')
    assert desk.run(*words, "--style", "ours.toml", "-o", "shapes.png").status == 0
    assert desk.run(*words, "-o", "plain.png").status == 0
    assert (desk.folder / "shapes.png").read_bytes() != (desk.folder / "plain.png").read_bytes()
    # Red and green of one lightness: told apart by most, but not by the green-blind, nor in greyscale.
    (desk.folder / "weak.toml").write_text(
        '[fills]\nbetter = "#4C9A3F"\nworse = "#C06A5A"\n[texts]\nwatch = "#F2E27A"\n'
    )
    weak = desk.figures(*words, "--style", "weak.toml", "-o", "b.png")["cautions"]
    assert any("better and worse are hardly told apart in greyscale" in one for one in weak)
    assert any("the text of watch has a contrast of less than 4.5:1" in one for one in weak)
    for text, expected in {
        '[fill]\nbetter = "#000000"': "Did you mean [fills]?",
        '[fills]\nbeter = "#000000"': "Did you mean better?",
        '[fills]\nbetter = "teal"': "better cannot be 'teal'",
        "[sizes]\ntitle = 0": "title cannot be 0",
        '[shapes]\nbetter = "star"': "better cannot be 'star'",
        "[fills": "cannot be read",
    }.items():
        (desk.folder / "wrong.toml").write_text(text)
        assert expected in desk.refused(*words, "--style", "wrong.toml")
    assert "Did you mean grey?" in desk.refused(*words, "--style", "gray")
    assert "Did you mean dark?" in desk.refused("begin", "--write", "style:drak", "-o", "x.toml")


def test_a_style_inherits_has_a_font_of_ones_own_and_a_ground_that_is_not_painted(desk: Desk) -> None:
    import matplotlib

    desk.write("items.csv", [("Bar", 12, 10), ("Crew", 9, 10)], ("item", "now", "then"))
    words = ("draw", "waterfall", "items.csv", "--current", "now", "--base", "then")
    serif = Path(matplotlib.get_data_path()) / "fonts/ttf/DejaVuSerif.ttf"
    (desk.folder / "Serif.ttf").write_bytes(serif.read_bytes())
    (desk.folder / "s.toml").write_text(
        'inherits = "dark"\n[colours]\nground = "transparent"\n[fonts]\nregular = "Serif.ttf"\n'
    )
    assert desk.run(*words, "--style", "s.toml", "-o", "s.svg", "-o", "s.png").status == 0
    svg = (desk.folder / "s.svg").read_text()
    assert "font-family:'DejaVu Serif'" in svg and style_named("dark").fills[Tone.WORSE].lower() in svg.lower()
    with Image.open(desk.folder / "s.png") as picture:
        assert picture.convert("RGBA").getpixel((2, 2))[3] == 0  # type: ignore[index]
    # A nearly black ground: the rest is as in the dark style, whose ground is nearest.
    (desk.folder / "n.toml").write_text('[colours]\nground = "#101014"\n')
    assert desk.run(*words, "--style", "n.toml", "-o", "n.svg").status == 0
    assert style_named("dark").ink.lower() in (desk.folder / "n.svg").read_text().lower()
    for text, expected in {
        'inherits = "drak"': "inherits cannot be 'drak'",
        '[fonts]\nregular = "none.ttf"': "cannot be read",
        '[fonts]\nregular = "Cmex.ttf"': "lacks",
    }.items():
        (desk.folder / "Cmex.ttf").write_bytes((serif.parent / "cmex10.ttf").read_bytes())
        (desk.folder / "w.toml").write_text(text)
        assert expected in desk.refused(*words, "--style", "w.toml", "-o", "w.png"), text
    # What is hard to read is said where nothing else is.
    (desk.folder / "pale.toml").write_text('[texts]\nbetter = "#DDEEDD"\n')
    done = desk.run(*words, "--style", "pale.toml", "-q", "-o", "q.png")
    assert "the text of better has a contrast" in done.err and "wrote" not in done.err


def test_signs_and_marks_may_be_left_to_a_waterfalls_steps(desk: Desk) -> None:
    desk.write("items.csv", [("Bar", 12, 10), ("Crew", 9, 10)], ("item", "now", "then"))
    words = typed("items.csv --current now --base then --signs unsigned --marks off -o w.svg")
    assert desk.run("draw", "waterfall", *words, "--step-shape", "arrow", "--upright").status == 0
    assert "+2" not in re.findall(r">([+−]?\d+)</text>", (desk.folder / "w.svg").read_text())
    assert "nothing says a change's direction" in desk.refused("draw", "variance", *words)
    assert "asks for rows" in desk.refused("draw", "variance", *words[:5], "--upright", "--horizontal", "-o", "v.png")
