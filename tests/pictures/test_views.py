"""Every view over awkward data: measured in pixels, no text overlaps, leaves or is hidden, and bars stand on zero."""

from __future__ import annotations

import itertools
import re
import xml.etree.ElementTree as ET
from dataclasses import replace
from datetime import date, timedelta
from typing import Any

import pytest
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.colors import to_hex
from matplotlib.patches import Rectangle

from conftest import DEMO, Desk, painted, planned
from marvex.app.draw import Painted, drawn_as
from marvex.core.errors import Mistake
from marvex.request.settings import Settings
from marvex.request.values import Size
from marvex.request.wording import as_options
from marvex.views import about_view
from marvex.views.drawing.contrast import contrast

TIMED = ("against", "paired", "trend", "variance")
VIEWS = ("waterfall", *TIMED, "shift")
SIZES = ((1280, 800), (400, 300), (2560, 1440), (3840, 2160))
LONG = "The name of a cost centre that nobody was ever meant to read in full, number {:02}"

BY_NAME: dict[str, list[tuple[str, int | str, int | str]]] = {
    "one": [("Fares", 500, 530)],
    "two": [("Fares", 500, 530), ("Freight", 200, 180)],
    "twelve": [(f"Item {n}", n * 37 % 90, n * 53 % 90) for n in range(12)],
    "sixty": [(f"Cost centre {n}", n * 37 % 900, n * 53 % 900) for n in range(60)],
    "all equal": [("Fares", 500, 500), ("Freight", 500, 500), ("Café", 500, 500)],
    "all negative": [("Fuel", -800, -950), ("Crew", -1200, -1100), ("Dues", -300, -300)],
    "crossing zero": [("Fares", 200, 50), ("Freight", 100, -150), ("Café", -50, -220), ("Charter", 120, 400)],
    "absent sides": [("Fares", 500, 530), ("Charter", "", 90), ("Parking", 40, ""), ("Freight", 0, 20)],
    "huge beside tiny": [("Fares", 100, 101), ("Sale of vessel", 0, 1_000_000), ("Café", 90, 93)],
    "long names": [(LONG.format(n), n, 2 * n + 3) for n in range(9)],
    "one word too long": [("Passagierschifffahrtsgesellschaftsbeteiligungsverwaltung", 5, 9), ("Fuel", 7, 3)],
    "nothing at all": [("Fares", 0, 0)],
    "Greek and signs": [("Εισιτήρια επιβατών", 500, 430), ("$100 & <b>", 5, 7)],
    "Arabic": [("تذاكر الركاب", 500, 430), ("وقود", 60, 70)],
    "Japanese": [("旅客運賃", 500, 430), ("燃料費", 60, 70)],
}


def amount(day: date, kind: str) -> int:
    wave = day.toordinal() * 37 % 91 + (day.year - 2020) * 3
    return {"equal": 50, "negative": -wave - 5, "crossing": wave - 45, "huge": 10**6 if day.day == 9 else wave}.get(
        kind, wave
    )


def along_time(points: int, kind: str = "plain", step: str = "day") -> list[tuple[str, int]]:
    """Rows of two years, so many points in the second one; `gaps` lacks some of either side."""
    rows = []
    for year in (2023, 2024):
        for place in range(points):
            day = date(year, 1, 1) + timedelta(days=place)
            if step == "month":
                day = date(year + place // 12, place % 12 + 1, 1)
            if kind == "gaps" and (place * 7 + year) % 5 == 0:
                continue
            rows.append((day.isoformat(), amount(day, kind)))
    return rows


OVER_TIME = {
    "1 day": along_time(1),
    "2 days": along_time(2, "crossing"),
    "12 months": along_time(12, step="month"),
    "12 months with gaps": along_time(12, "gaps", "month"),
    "60 days crossing zero": along_time(60, "crossing"),
    "60 days all equal": along_time(60, "equal"),
    "366 days": along_time(366),
    "366 days all negative": along_time(366, "negative"),
    "90 days, some huge": along_time(90, "huge"),
}


def check(one: Painted) -> None:
    """Measures all texts and marks of a picture."""
    canvas = one.canvas
    renderer = FigureCanvasAgg(canvas.figure).get_renderer()
    texts = [(text, text.get_window_extent(renderer)) for text, _ in canvas.texts]
    for text, box in texts:
        assert box.x0 >= -1 and box.x1 <= canvas.width + 1, text.get_text()
        assert box.y0 >= -1 and box.y1 <= canvas.height + 1, text.get_text()
    for (text, box), (other, near) in itertools.combinations(texts, 2):
        # The extent of a line has room for the tallest letters: a fifth of it may be shared.
        slack = 0.2 * min(box.height, near.height)
        apart = box.x1 <= near.x0 + 1 or near.x1 <= box.x0 + 1
        above = box.y0 >= near.y1 - slack or near.y0 >= box.y1 - slack
        assert apart or above, (text.get_text(), other.get_text())
    for text, box in texts:
        for mark, extent in canvas.marks:
            inside = box.x0 + 2 < extent.right and extent.left < box.x1 - 2
            level = (canvas.height - box.y1) + 3 < extent.bottom and extent.top < (canvas.height - box.y0) - 3
            if inside and level and to_hex(mark.get_facecolor()) != canvas.style.ground.lower():
                assert mark.get_zorder() < text.get_zorder(), text.get_text()
                assert contrast(to_hex(mark.get_facecolor()), to_hex(text.get_color())) >= 4.5, text.get_text()


def check_bars_stand_on_zero(one: Painted) -> None:
    """All bars with a sentence share one level: zero."""
    bars = [box for mark, box in one.canvas.marks if mark.get_gid() and isinstance(mark, Rectangle)]
    if len(bars) < 2:
        return
    near = max(2, one.canvas.scale * 2)
    upright = [(bar.top, bar.bottom) for bar in bars], [(bar.left, bar.right) for bar in bars]
    shared = [
        [
            level
            for level in ends[0]
            if all(min(abs(level - top), abs(level - bottom)) <= near for top, bottom in ends)
        ]
        for ends in upright
    ]
    assert shared[0] or shared[1]


@pytest.mark.parametrize("case", BY_NAME)
@pytest.mark.parametrize("view", [one for one in VIEWS if one != "trend"])
def test_categories(desk: Desk, view: str, case: str) -> None:
    desk.write("list.csv", BY_NAME[case], ("item", "then", "now"))
    settings = Settings(current="now", base="then")
    plan = planned(view, [str(desk.folder / "list.csv")], settings)
    # The height may grow for many rows; where it is given, it must do or be refused.
    grows = len(BY_NAME[case]) > 12 or case == "long names"
    for size in (None,) if grows else SIZES:
        try:
            one = drawn_as(plan, replace(settings, size=Size(*size) if size else None))
        except Mistake as refusal:  # with a size that does
            said = re.search(r"--size (\d+)x(\d+)", as_options(refusal.mend))
            assert said and size == (400, 300), refusal
            one = drawn_as(plan, replace(settings, size=Size(int(said[1]), int(said[2]))))
        check(one)
        if view in ("against", "paired"):
            check_bars_stand_on_zero(one)
        check_labels(one)


def check_labels(one: Painted) -> None:
    """Every label's figures are its point's; what has no label is said."""
    analysis = one.shown.analysis
    figures, texts = analysis.figures, [text.get_text() for text, _ in one.canvas.texts]
    dropped = {(point.panel, point.label) for point in one.shown.dropped}
    for judged in analysis.first.points:
        point = judged.point
        change = point.movement if one.shown.view == "waterfall" else point.change
        if (point.panel, point.label) not in dropped and change is not None:
            assert figures.change(change) in texts, point.label


@pytest.mark.parametrize("case", OVER_TIME)
@pytest.mark.parametrize("view", TIMED)
def test_periods(desk: Desk, view: str, case: str) -> None:
    desk.write("rows.csv", OVER_TIME[case], ("date", "net"))
    settings = Settings(for_=("2024",), versus=("year-ago",))
    plan = planned(view, [str(desk.folder / "rows.csv")], settings)
    for size in SIZES:
        one = drawn_as(plan, replace(settings, size=Size(*size)))
        check(one)
        if view in ("against", "paired", "variance"):
            check_bars_stand_on_zero(one)
        names = [text.get_text() for text, _ in one.canvas.texts]
        months = [name for name in names if name in ("Jan", "Feb", "Mar", "Apr", "May", "Jun")]
        assert months == sorted(months, key=["Jan", "Feb", "Mar", "Apr", "May", "Jun"].index)


PANELS: dict[str, Any] = {
    "a panel a route, by month": {"panels_by": "route"},
    "a panel a month, by route": {"panels_by": "month", "by": ("route",)},
    "a panel a route, by kind": {"panels_by": "route", "by": ("kind",)},
    "a panel an account, by month": {"panels_by": "account_name"},
    "36 panels": {"panels_by": "month", "by": ("kind",), "for_": ("2024/2026",)},
}


def can_show(view: str, case: str) -> bool:
    """Whether a view has the axis of a case: categories alone, periods alone, or both."""
    about, along_time = about_view(view), "by" not in PANELS[case]
    return not (about.only_time and not along_time) and not (along_time and (about.walks or about.needs_categories))


@pytest.mark.parametrize(("view", "case"), [one for one in itertools.product(VIEWS, PANELS) if can_show(*one)])
def test_panels(view: str, case: str) -> None:
    one = painted(view, [str(DEMO)], Settings(versus=("year-ago",), **PANELS[case]))
    check(one)
    assert len(one.panels) > 5
    own = painted(view, [str(DEMO)], Settings(versus=("year-ago",), own_scale=True, **PANELS[case]))
    assert [box for _, box in own.canvas.marks] != [box for _, box in one.canvas.marks]


def test_an_svg_can_be_searched_and_says_each_mark(desk: Desk) -> None:
    done = desk.run("draw", "variance", str(DEMO), "--by", "route", "--versus", "year-ago", "-o", "v.svg")
    assert done.status == 0, done.err
    text = (desk.folder / "v.svg").read_text(encoding="utf-8")
    root = ET.fromstring(text)
    written = [one.text for one in root.iter("{http://www.w3.org/2000/svg}text")]
    assert "Harrow Skerry loop" in written
    spoken = [one.text or "" for one in root.iter("{http://www.w3.org/2000/svg}title")]
    assert sum(one.startswith("Merle–Finmouth: ") for one in spoken) == 1
    assert re.search(r"@font-face\{font-family:'IBM Plex Sans';src:url\(data:font/woff;base64,", text)
