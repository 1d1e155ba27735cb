"""Forty pictures of ordinary tables, measured: what an analyst would have to mend by hand is not there."""

from __future__ import annotations

import contextlib
import html
import re
import shlex
from collections import Counter
from dataclasses import replace
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.colors import to_hex
from matplotlib.patches import Polygon, Rectangle
from test_views import check

from conftest import Desk
from marvex.app import draw
from marvex.app.draw import Painted
from marvex.app.session import Session
from marvex.cli import options
from marvex.cli.main import _parser
from marvex.views.drawing.box import Box
from marvex.views.drawing.text_metrics import POINTS_PER_PIXEL
from realistic import CALLS, write_tables

DOT = 24  # corners: fewer are an arrow


@pytest.fixture(scope="module")
def tables(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("tables")
    write_tables(folder)
    return folder


def drawn(folder: Path, words: str) -> Painted:
    """The picture of a call as it is typed."""
    with contextlib.chdir(folder), Session() as session:
        parsed = options.parse(_parser(), ["draw", *shlex.split(words)])
        return draw.painted(session, parsed.view, options.request_from(parsed))


def text_boxes(one: Painted) -> list[tuple[Any, Box]]:
    """Every text with its extent, from the top left."""
    renderer, high = FigureCanvasAgg(one.canvas.figure).get_renderer(), one.canvas.height
    found = []
    for text, _ in one.canvas.texts:
        box = text.get_window_extent(renderer)
        found.append((text, Box(left=box.x0, top=high - box.y1, right=box.x1, bottom=high - box.y0)))
    return found


@pytest.mark.parametrize("name", CALLS)
def test_an_ordinary_table_is_drawn_as_it_can_be_sent(tables: Path, name: str) -> None:
    one = drawn(tables, CALLS[name])
    check(one)
    texts = text_boxes(one)
    assert not [text.get_text() for text, _ in texts if "…" in text.get_text()]
    least = min(text.get_fontproperties().get_size() / POINTS_PER_PIXEL for text, _ in texts)
    assert least >= 11.99, least
    if name.startswith("statement"):
        labels = {line.label for line in one.shown.analysis.statement.lines}  # type: ignore[union-attr]
        sizes = [text.get_fontproperties().get_size() for text, _ in texts if text.get_text() in labels]
        assert sizes and min(sizes) / POINTS_PER_PIXEL >= 12.99
    if len(one.shown.points) >= 3:
        boxes = [box for _, box in texts] + [box for _, box in one.canvas.marks]
        across = max(box.right for box in boxes) - min(box.left for box in boxes)
        down = max(box.bottom for box in boxes) - min(box.top for box in boxes)
        assert across * down >= 0.8 * one.canvas.width * one.canvas.height
    assert one.shown.dropped == () or "days" in name or "panels" in name
    check_arrows(one)
    check_nearest(one, texts)


def check_arrows(one: Painted) -> None:
    """No arrow leaves the span between its tick and its end; a dot lies on the side that it went to."""
    if one.shown.view not in ("shift", "against"):
        return
    known = [point.judged.point for point in one.shown.points if point.judged.point.base is not None]
    brown = one.canvas.style.base_line.lower()
    ticks = [box for mark, box in one.canvas.marks if to_hex(mark.get_facecolor()) == brown and mark.get_gid()]
    if len(ticks) != len(known) or len(known) < 2 or one.shown.view == "against":
        assert one.shown.view == "against"
        return
    low, high = (pick(known, key=lambda point: point.base or 0) for pick in (min, max))
    ends = [ticks[known.index(point)].middle[0] for point in (low, high)]
    width = (ends[1] - ends[0]) / float((high.base or 0) - (low.base or 0))
    for point, tick in zip(known, ticks, strict=True):
        if point.current is None:
            continue
        start = tick.middle[0]
        end = start + width * float(point.current - (point.base or 0))
        shapes = [
            (mark, box)
            for mark, box in one.canvas.marks
            if isinstance(mark, Polygon) and mark.get_gid() and abs(box.middle[1] - tick.middle[1]) < 2
        ]
        assert len(shapes) == 1, point.label
        mark, box = shapes[0]
        if len(mark.get_xy()) > DOT:
            assert (box.middle[0] > start) is (end > start) or point.current == point.base
            assert abs(end - start) < 6
        else:
            assert min(start, end) - 1.5 <= box.left and box.right <= max(start, end) + 1.5, point.label


def check_nearest(one: Painted, texts: list[tuple[Any, Box]]) -> None:
    """A label stands nearer to its own mark than to any other."""
    if (
        one.shown.view not in ("waterfall", "variance")
        or len({one.judged.point.panel for one in one.shown.points}) > 1
    ):
        return
    marks = {}
    for mark, box in one.canvas.marks:
        if mark.get_gid():
            sentence = one.canvas.sentences[int(mark.get_gid().removeprefix("mark-"))]
            marks[sentence] = box
    figures, counts = one.shown.analysis.figures, Counter(text.get_text() for text, _ in texts)
    for point in (shown.judged.point for shown in one.shown.points):
        told = figures.change(-point.movement if one.view.look.by_effect and point.is_cost else point.movement)
        own = [box for sentence, box in marks.items() if sentence.startswith(f"{' '.join(point.label.split())}:")]
        if counts[told] != 1 or len(own) != 1:
            continue
        label = next(box for text, box in texts if text.get_text() == told)
        # Its mark of direction stands before the text.
        label = replace(label, left=label.left - 0.8 * label.height)
        nearest = min(_apart(label, box) for box in marks.values())
        assert _apart(label, own[0]) <= nearest + 1, point.label


def _apart(one: Box, other: Box) -> float:
    across = max(0.0, one.left - other.right, other.left - one.right)
    down = max(0.0, one.top - other.bottom, other.top - one.bottom)
    return float(across + down)


# What a reader sees as a figure, whatever its sign, its mark and its unit.
FIGURE = re.compile(r"^[▲▼·]?\s*([+−]?)(<?)([\d,]*\.?\d+)(%| pts)?$")
NOTE = "Figures may not add up because of rounding"
amounts = st.tuples(st.integers(-9_999_999, 9_999_999), st.sampled_from((0, 1, 2, 3))).map(
    lambda both: Decimal(both[0]).scaleb(-both[1])
)


def read(text: str) -> Decimal | None:
    """The figure that a text is, less than the least of all being nothing; None where it is none."""
    found = FIGURE.match(html.unescape(text).replace("**", ""))
    if found is None:
        return None
    size = Decimal(0) if found[2] else Decimal(found[3].replace(",", ""))
    return -size if found[1] == "−" else size


@settings(max_examples=80)
@given(rows=st.lists(st.tuples(amounts, amounts), min_size=2, max_size=7))
@example(rows=[(Decimal("20.6"), Decimal("0.4")), (Decimal(300), Decimal(200))])
@example(rows=[(Decimal(-565), Decimal(0)), (Decimal(-1070), Decimal(0)), (Decimal(9_000_000), Decimal(8_000_000))])
def test_every_printed_sum_comes_out_or_it_is_said(tmp_path_factory: pytest.TempPathFactory, rows: list[Any]) -> None:
    desk = Desk(tmp_path_factory.mktemp("sums"))
    names = "ABCDEFG"
    desk.write(
        "t.csv", [(names[place], now, then) for place, (now, then) in enumerate(rows)], ("item", "now", "then")
    )
    words = ("t.csv", "--current", "now", "--base", "then", "--numbers", "point")
    assume(desk.run("table", *words, "-o", "t.md").status == 0)  # all of one sign against all of the other is refused
    text = (desk.folder / "t.md").read_text()
    lines = [[cell.strip() for cell in line.strip("|").split("|")] for line in text.splitlines() if line[:2] == "| "]
    # Figures stand under now, then and Change; what is none (`n/m`) cannot be added up.
    table = [[read(cell) for cell in line[1:4]] for line in lines[2:]]
    holds = all(now - then == change for now, then, change in table if None not in (now, then, change))  # type: ignore[operator]
    for column in zip(*table, strict=True):
        *parts, whole = column
        holds &= None in column or sum(parts) == whole  # type: ignore[arg-type]
    assert holds is (NOTE not in text), text
    # No change that is none reads as one, and none that is one reads as nothing.
    for line, (now, then) in zip(lines[2:], rows, strict=False):
        if now != then:
            assert line[3] not in ("0", "0.0", "0.00", "0.000"), line
    walk = drawn(desk.folder, f"waterfall {shlex.join(words)} --upright")
    bars = sorted((box.middle[0], read(label.get_text())) for label, box in text_boxes(walk))
    told = [figure for _, figure in bars if figure is not None and not NOTE.startswith(str(figure))]
    assert len(told) == len(rows) + 2, told
    opening, *steps, closing = told
    assert (opening + sum(steps) == closing) is (NOTE not in walk.words.foot), (told, walk.words.foot)


def test_rectangles_of_marks_say_what_they_are(tables: Path) -> None:
    one = drawn(tables, "variance tills.csv --every day --for 2025 --versus year-ago")
    marks = [mark for mark, _ in one.canvas.marks if isinstance(mark, Rectangle) and mark.get_gid()]
    # Each of the days has its own words; the whole is described in a few sentences.
    assert len(marks) == 364 and len(set(one.canvas.sentences)) == len(one.canvas.sentences)
    assert len(one.description) < 700 and "more, each with its own words" in one.description
