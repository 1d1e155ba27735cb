"""What a picture's settings do, measured in it: labels, axes, panels, files, and the words at every mark."""

from __future__ import annotations

import io
import itertools
import re
import xml.etree.ElementTree as ET
from datetime import date, timedelta
from decimal import Decimal
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import Any

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from matplotlib.colors import to_hex
from matplotlib.lines import Line2D
from matplotlib.patches import Polygon, Rectangle
from matplotlib.text import Text
from PIL import Image, ImageOps

from conftest import DEMO, Desk, painted
from marvex.app.draw import Painted
from marvex.core.compare.point import Point
from marvex.core.time.calendar import CIVIL, Grain, MonthYears, WeekYears, YearEnd
from marvex.core.time.notation import read_calendar
from marvex.core.time.period import period_of
from marvex.core.words.period_names import levels
from marvex.request.settings import Settings
from marvex.request.values import Counted, Ends, Size, labelled
from marvex.views.drawing.axes import mixed, round_values
from marvex.views.drawing.box import Align, Box
from marvex.views.drawing.canvas import Canvas
from marvex.views.drawing.labels import Label, Piece, Placer, Spot
from marvex.views.drawing.saving import saved
from marvex.views.drawing.style import DEFAULT, style_named

BY_ROUTE: dict[str, Any] = {"by": ("route",), "versus": ("year-ago",), "where": ("kind=income",)}
FUEL: dict[str, Any] = {"where": ("account_name=Fuel",), "source_sign": ("negative",), "better": "down"}
BY_MONTH: dict[str, Any] = {"every": "month", **FUEL}
STATEMENT = DEMO.parent / "statement.toml"
CALLS: dict[str, dict[str, Any]] = {
    "waterfall": BY_ROUTE,
    "against": BY_MONTH,
    "paired": BY_MONTH,
    "trend": BY_MONTH,
    "variance": BY_ROUTE,
    "shift": BY_ROUTE,
    "statement": {"statement": STATEMENT},
}


def drawn(view: str, **how: Any) -> Painted:
    return painted(view, [str(DEMO)], Settings(**{**CALLS[view], **how}))


def texts(one: Painted) -> list[str]:
    return [text.get_text() for text, _ in one.canvas.texts]


def fills(one: Painted) -> set[str]:
    return {to_hex(mark.get_facecolor()) for mark, _ in one.canvas.marks}


def words_of(view: str) -> list[str]:
    """The call of a view as it is typed."""
    words = ["draw", view, str(DEMO)]
    for name, value in CALLS[view].items():
        values = value if isinstance(value, tuple) else (value,)
        for one in values:
            words += ["--" + name.replace("_", "-"), str(one)]
    return words


@pytest.mark.parametrize("view", CALLS)
def test_every_view_is_written_the_same_twice_with_its_words_inside(desk: Desk, view: str) -> None:
    for run in "ab":
        files = [word for ending in ("png", "svg", "pdf") for word in ("-o", f"{run}.{ending}")]
        done = desk.run(*words_of(view), *files)
        assert done.status == 0, done.err
    for ending in ("png", "svg", "pdf"):
        assert (desk.folder / f"a.{ending}").read_bytes() == (desk.folder / f"b.{ending}").read_bytes()
    with Image.open(desk.folder / "a.png") as picture:
        title, description = picture.info["Title"], picture.info["Description"]
    root = ET.parse(desk.folder / "a.svg").getroot()
    namespace = "{http://www.w3.org/2000/svg}"
    first = {child.tag.removeprefix(namespace): child.text for child in root}
    assert (first["title"], first["desc"]) == (title, description)
    # Every mark with a title says what the description says of its point.
    said = [one.text or "" for one in root.iter(f"{namespace}title")][1:]
    assert said and all(one.partition(",")[0] in description for one in said)
    written = [one.text for one in root.iter(f"{namespace}text")]
    assert title.split()[0] in str(written)


@pytest.mark.parametrize("way", ["--horizontal", "--upright"])
@pytest.mark.parametrize("goes_on", [True, False])
@pytest.mark.parametrize("base", [263, -263])
def test_a_bar_just_beyond_its_tick_is_seen_behind_it(desk: Desk, base: int, goes_on: bool, way: str) -> None:
    further = (4 if way == "--horizontal" else 8) * (1 if goes_on else -1)  # some three pixels
    current = base + (further if base > 0 else -further)
    desk.write(
        "t.csv", [("A", current, base), ("B", 4 * base, base), ("C", base // 9, base)], ("Item", "Actual", "Budget")
    )
    desk.run("draw", "against", "t.csv", way, "-o", "t.png")
    tick = tuple(bytes.fromhex(style_named(DEFAULT).base_line[1:]))
    with Image.open(desk.folder / "t.png") as picture:
        pixels, (width, height) = picture.convert("RGB").load(), picture.size
    assert pixels is not None
    # The tick of the first bar: a run of its colour that is longer than the key of the legend.
    lines = [[pixels[x, y] for x in range(width)] for y in range(height)]
    lines = lines if way == "--upright" else [list(one) for one in zip(*lines, strict=True)]
    runs = [(at, [place for place, one in enumerate(line) if one == tick]) for at, line in enumerate(lines)]
    first = min(min(own) for _, own in runs if len(own) > 40)
    edges = [at for at, own in runs if len(own) > 40 and first + 20 in own]
    # Upwards and to the left a smaller place is farther from zero.
    is_lower = (current > 0) is (way == "--upright")
    behind = min(edges) - 1 if is_lower else max(edges) + 1
    assert (lines[behind][first + 20] != (255, 255, 255)) is goes_on


@pytest.mark.parametrize("style", ["red-green", "grey", "dark"])
@pytest.mark.parametrize("view", CALLS)
def test_every_style_colours_every_view(view: str, style: str) -> None:
    plain, styled = fills(drawn(view)), fills(drawn(view, style=style))
    assert plain != styled
    tones = {colour.lower() for colour in style_named(style).fills.values()}
    assert tones & styled


@pytest.mark.parametrize("view", [one for one in CALLS if one != "statement"])
def test_the_legend_stands_where_it_is_asked_for(view: str) -> None:
    for where in ("top", "right", "none"):
        one = drawn(view, legend=where)
        conditions = [text for text, _ in one.canvas.texts if text.get_text() == "change > 0"]
        assert len(conditions) == (where != "none")
        if where == "right":
            assert conditions[0].get_position()[0] > 0.75


@pytest.mark.parametrize("view", ["against", "variance", "waterfall"])
def test_labels_are_of_the_largest_of_the_figure_that_is_named(desk: Desk, view: str) -> None:
    # The largest change is of b, +60; the largest amount of a, 500; the largest percentage of c, +400%.
    path = desk.folder / desk.write(
        "l.csv", [("a", 501, 500), ("b", 100, 160), ("c", 2, 10)], ("item", "then", "now")
    )
    for named, shown in (("top:1", "+60"), ("top:1:current", "−1"), ("top:1:percent", "+8")):
        how = Settings(current="now", base="then", labels=labelled(named), show=("change",))
        found = set(texts(painted(view, [str(path)], how))) & {"+60", "−1", "+8"}
        assert found == {shown}


@pytest.mark.parametrize("view", ["against", "variance", "trend", "paired"])
def test_labels_are_thinned_as_asked(view: str) -> None:
    def number(word: str, count: int = 0) -> int:
        how = {**BY_MONTH, "labels": Counted(word, count), "show": ("change",)}
        one = painted(view, [str(DEMO)], Settings(**how))
        changes = {
            one.shown.analysis.figures.change(judged.point.change) for judged in one.shown.analysis.first.points
        }
        return sum(text in changes for text in texts(one))

    assert number("all") == 10
    assert number("none") == 0
    assert number("ends") == 2
    assert number("top", 3) == 3
    assert number("bottom", 2) == 2
    assert number("flagged") == 9  # fuel was over budget in every month but February


def test_a_point_with_a_remark_is_always_labelled_and_marked() -> None:
    remark = ("2026-02: boat in dock",)
    one = drawn("against", labels=Counted("none"), remark=remark)
    assert "−12 [1]" in texts(one) and "[1] boat in dock" in texts(one)
    rows = drawn("variance", remark=("Night freight: quiet",))
    assert "Night freight [1]" in texts(rows)
    shifted = drawn("shift", remark=("Head office: sold",))
    assert "Head office [1]" in texts(shifted)
    lines = drawn("statement", remark=("Fuel: dear",))
    assert "Fuel [1]" in texts(lines)


def test_the_axis_has_the_ends_that_are_given(desk: Desk) -> None:
    def tallest(one: Painted) -> float:
        return max(box.height for mark, box in one.canvas.marks if isinstance(mark, Rectangle) and mark.get_gid())

    natural = tallest(drawn("against"))
    half = tallest(drawn("against", axis=Ends(Decimal(0), Decimal(302_000))))  # fuel reached 151k
    assert abs(half / natural - 0.5) < 0.02
    words = words_of("against")
    assert "leaves out what lies between" in desk.refused(*words, "--axis", "0/100k", "-o", "a.png")
    assert "zero must lie between" in desk.refused(*words, "--axis", "50k/200k", "-o", "a.png").lower()
    assert "150" not in texts(drawn("against")) and "150" in texts(drawn("against", grid=True))


def test_what_a_view_cannot_show_is_refused(desk: Desk) -> None:
    ledger = str(DEMO)
    for words, message in (
        (("trend", ledger, "--by", "route", "--panels-by", "month"), "is of points along time"),
        (("shift", ledger), "nothing says what to compare by"),
        (("shift", ledger, "--panels-by", "route"), "is of categories"),
        (("variance", ledger, "--by", "route", "--versus", "none"), "there is no base"),
        (("statement", ledger), "sets a statement"),
        (("against", ledger, "--by", "route", "--arrow"), "Did you mean --arrows?"),
        (("against", ledger, "--by", "route", "--own-scale"), "is about panels"),
        (("against", ledger, "--by", "route", "--versus", "none", "--arrows"), "lead from the base"),
        (("trend", ledger, "--versus", "none", "--base-as", "area"), "is about the base"),
        (("waterfall", ledger, "--by", "kind", "--panels-by", "route", "--axis-break", "10k"), "there are panels"),
        (("paired", ledger, "--by", "route", "--base-as", "area"), "cannot use --base-as"),
        (("variance", ledger, "--by", "route", "--panels-by", "day", "--versus", "year-ago"), "and 36 are the most"),
        (("variance", ledger, "--by", "kind", "--panels-by", "rout"), "Did you mean route?"),
        (("variance", ledger, "--by", "kind", "--panels-by", "route", "--every", "month"), "make panels of time"),
        (("variance", ledger, "--by", "kind", "--panels-by", "quarter", "--every", "month"), "both about time"),
        (
            ("variance", ledger, "--statement", str(STATEMENT), "--panels-by", "route", "--every", "month"),
            "makes panels of the lines",
        ),
    ):
        assert message in desk.refused("draw", *words, "-o", "x.png"), words
    desk.write("rates.csv", [("A", 5, 0, "actual"), ("A", 6, 0, "budget")], ("item", "net", "hours", "scenario"))
    rates = ("rates.csv", "--by", "item", "--amount", "net")
    assert "no point has a figure" in desk.refused("draw", "variance", *rates, "--per", "hours", "-o", "x.png")
    assert "the data have no dates" in desk.refused("table", *rates, "--per-day", "working")
    absent = desk.run("table", *rates, "--per", "hours").out
    assert "Net per hours n/a" in absent and "new" not in absent


def test_panels_hold_the_categories_of_their_own_rows(desk: Desk) -> None:
    words = ("draw", "against", str(DEMO), "--versus", "year-ago", "--where", "kind=income", "-o", "p.png")
    by_column = desk.figures(*words, "--by", "account_name", "--panels-by", "route")
    by_month = desk.figures(*words, "--by", "route", "--panels-by", "month")
    whole = desk.figures(*words, "--by", "route")
    routes = {point["label"]: point["current"] for point in whole["points"]}
    for route, current in routes.items():
        assert sum(p["current"] or 0 for p in by_column["points"] if p["panel"] == route) == current
        assert sum(p["current"] or 0 for p in by_month["points"] if p["label"] == route) == current
    months = list(dict.fromkeys(point["panel"] for point in by_month["points"]))
    assert months == [f"2026-{month:02}" for month in range(1, 11)]
    assert {(p["from"], p["base_to"]) for p in by_month["points"] if p["panel"] == "2026-02"} == {
        ("2026-02-01", "2025-02-28")
    }


def test_panels_share_one_order_and_gather_the_rest_of_each(desk: Desk) -> None:
    words = ("draw", "variance", str(DEMO), "--by", "account_name", "--panels-by", "route", "--versus", "year-ago")
    found = desk.figures(*words, "--where", "kind=cost", "--order", "change", "--keep", "top:2", "-o", "k.png")
    panels: dict[str, list[str]] = {}
    for point in found["points"]:
        panels.setdefault(point["panel"], []).append(point["label"])
    kept = {tuple(label for label in labels if not label.startswith("Other")) for labels in panels.values()}
    assert all(len(one) <= 2 for one in kept)
    assert all(labels[-1].startswith("Other (") for labels in panels.values() if len(labels) > 2)
    ranks = desk.figures(*words, "--band", "First [watch]: rank = 1", "--band", "Rest: otherwise", "-o", "k.png")
    firsts = [point["panel"] for point in ranks["points"] if point["band"] == "First"]
    assert len(firsts) >= len(set(firsts)) == 6  # rank is within a panel


def test_each_panel_has_its_own_finding_and_one_scale(desk: Desk) -> None:
    rows = [
        (f"{year}-06-17", route, item, (1 + place) * year)
        for place, route in enumerate("AB")
        for item in "xy"
        for year in (2025, 2026)
    ]
    desk.write("p.csv", rows, ("date", "route", "item", "net"))
    how: dict[str, Any] = {"by": ("item",), "panels_by": "route", "for_": ("2026-06-17",), "versus": ("2025-06-17",)}
    one = painted("paired", [str(desk.folder / "p.csv")], Settings(**how))
    assert "4,052, +2" in " ".join(texts(one)) and "8,104, +4" in " ".join(texts(one))
    bars = [box.height for mark, box in one.canvas.marks if isinstance(mark, Rectangle) and mark.get_gid()]
    assert abs(bars[4] / bars[0] - 2) < 0.03  # B is twice A
    own = painted("paired", [str(desk.folder / "p.csv")], Settings(**how, own_scale=True))
    bars = [box.height for mark, box in own.canvas.marks if isinstance(mark, Rectangle) and mark.get_gid()]
    assert abs(bars[4] / bars[0] - 1) < 0.03


sides_of = st.lists(st.tuples(st.integers(1, 1500), st.integers(1, 1500)), min_size=2, max_size=4)


@settings(max_examples=25)
@given(
    panels=st.lists(sides_of, min_size=2, max_size=3),
    sign=st.sampled_from((1, -1)),
    view=st.sampled_from(("waterfall", "variance", "against")),
    horizontal=st.booleans(),
)
@example(panels=[[(900, 30), (80, 1300)], [(90, 120), (10, 2)]], sign=-1, view="waterfall", horizontal=True)
@example(panels=[[(1, 1), (1, 21)], [(1, 1), (8, 1)]], sign=1, view="variance", horizontal=False)
def test_equal_amounts_are_equally_long_in_all_panels(
    desk: Desk, panels: list[list[tuple[int, int]]], sign: int, view: str, *, horizontal: bool
) -> None:
    panels = [[(sign * base, sign * current) for base, current in panel] for panel in panels]
    rows = [
        ("2026-06-17", f"Panel {place}", f"Item {item}", scenario, amount)
        for place, panel in enumerate(panels)
        for item, both in enumerate(panel)
        for scenario, amount in zip(("budget", "actual"), both, strict=True)
    ]
    desk.write("p.csv", rows, ("date", "route", "item", "scenario", "net"))
    how: dict[str, Any] = {"by": ("item",), "panels_by": "route", "versus": ("budget",), "horizontal": horizontal}
    one = painted(view, [str(desk.folder / "p.csv")], Settings(**how, upright=not horizontal))
    boxes = [box for mark, box in one.canvas.marks if isinstance(mark, Rectangle) and mark.get_gid()]
    changes = [[current - base for base, current in panel] for panel in panels]
    if view == "waterfall":  # between its budget and its actual
        ends = [([sum(base for base, _ in panel)], [sum(now for _, now in panel)]) for panel in panels]
        lengths = [[*first, *steps, *last] for steps, (first, last) in zip(changes, ends, strict=True)]
    else:
        lengths = changes if view == "variance" else [[current for _, current in panel] for panel in panels]
    amounts = [abs(length) for panel in lengths for length in panel]
    drawn = [box.width if horizontal else box.height for box in boxes]
    longest = max(range(len(amounts)), key=amounts.__getitem__)
    if amounts[longest]:  # a change of nothing has a mark of up to three pixels
        assert drawn == pytest.approx([drawn[longest] * one_of / amounts[longest] for one_of in amounts], abs=3.1)


def test_a_forecast_stands_on_tinted_ground_and_is_named() -> None:
    how: dict[str, Any] = {
        "of": "actual+forecast",
        "versus": ("budget",),
        "for_": ("2026",),
        "where": ("kind=income",),
    }
    for view in ("trend", "against", "variance", "paired"):
        one = painted(view, [str(DEMO)], Settings(every="month", **how))
        assert texts(one).count("forecast") == 1, view
        tint = mixed(one.canvas.style.ground, one.canvas.style.hairline, 0.34).lower()
        grounds = [mark for mark in one.canvas.figure.get_children() if isinstance(mark, Rectangle)]
        assert any(to_hex(mark.get_facecolor()) == tint for mark in grounds), view


def test_arrows_lead_from_tick_to_bars_end() -> None:
    plain, arrowed = (
        painted("against", [str(DEMO)], Settings(**BY_ROUTE, arrows=arrows)) for arrows in (False, True)
    )

    def shapes(one: Painted) -> list[Box]:
        return [box for mark, box in one.canvas.marks if isinstance(mark, Polygon)]

    assert len(shapes(arrowed)) == len(shapes(plain)) + 6
    longest = max(shapes(arrowed), key=lambda box: box.width)
    bars = [box for mark, box in arrowed.canvas.marks if isinstance(mark, Rectangle) and mark.get_gid()]
    # Merle–Finmouth grew most: its arrow ends where its bar does.
    assert min(abs(longest.right - bar.right) for bar in bars) <= 2


def test_the_base_of_a_trend_may_be_an_area() -> None:
    def areas(one: Painted) -> list[Any]:
        shapes = [mark for mark in one.canvas.figure.get_children() if isinstance(mark, Polygon)]
        return [mark for mark in shapes if to_hex(mark.get_facecolor()) == one.canvas.style.base.lower()]

    assert not areas(drawn("trend")) and len(areas(drawn("trend", base_as="area"))) == 1


def test_the_base_goes_on_thin_where_the_current_side_has_not_come_to(desk: Desk) -> None:
    one = painted("trend", [str(DEMO)], Settings(every="month", versus=("budget",), where=("kind=income",)))
    assert texts(one).count("n/a") == 2 and {"Nov", "Dec"} <= set(texts(one))
    assert "Budget for Nov–Dec 2026 is drawn thin and is in no total" in one.words.foot
    # In no total, and no point: ten months, and the base of the ten alone.
    found = desk.figures("draw", "trend", str(DEMO), "--versus", "budget", "--where", "kind=income", "-o", "t.png")
    table = desk.figures("table", str(DEMO), "--versus", "budget", "--where", "kind=income", "--by", "kind")
    assert len(found["points"]) == 10
    assert sum(point["base"] for point in found["points"]) == table["points"][-1]["base"]
    ended = painted("trend", [str(DEMO)], Settings(every="month", for_=("2025",), versus=("budget",)))
    assert "thin" not in ended.words.foot


def test_gaps_are_left_where_data_are_absent(desk: Desk) -> None:
    rows = [(f"{year}-{month:02}-01", month) for year in (2025, 2026) for month in range(1, 13)]
    rows = [row for row in rows if row[0] not in ("2026-05-01", "2025-08-01")]
    desk.write("g.csv", rows, ("month", "net"))
    how = Settings(for_=("2026",), versus=("year-ago",), every="month")
    one = painted("trend", [str(desk.folder / "g.csv")], how)
    assert texts(one).count("n/a") == 2
    lines = [len(line.get_xdata()) for line in one.canvas.figure.get_children() if isinstance(line, Line2D)]
    assert {4, 7} <= set(lines)  # January to April and June to December; before and after August


def test_many_days_have_their_extremes_named_and_the_rest_said(desk: Desk) -> None:
    days = [date(2025, 1, 1) + timedelta(days=place) for place in range(730)]
    rows = [(day.isoformat(), 100 + (day.toordinal() * 7919 % 37)) for day in days]
    rows = [(day, 990 if day == "2026-04-09" else 1 if day == "2026-09-02" else net) for day, net in rows]
    # A day without a current side is no change, however large its base.
    rows = [(day, 5_000 if day == "2025-06-05" else net) for day, net in rows if day != "2026-06-05"]
    desk.write("d.csv", rows, ("day", "net"))
    words = ("draw", "variance", "d.csv", "--for", "2026", "--versus", "year-ago", "--every", "day", "-o", "d.svg")
    found = desk.figures(*words)
    svg = (desk.folder / "d.svg").read_text(encoding="utf-8")
    for day in ("2026-04-09", "2026-09-02"):
        point = next(one for one in found["points"] if one["label"] == day)
        assert f">{point['current']} against {point['base']}</text>" in svg
    assert ">9 Apr 2026</text>" in svg and "Labelled are the 10 largest changes" in svg
    drops = found["labels_dropped"]
    assert all(set(one) == {"panel", "label", "count"} for one in drops) and len(drops) <= 10


def test_a_size_too_small_for_its_figures_says_what_it_dropped(desk: Desk) -> None:
    rows = [(f"Item {n}", 123_456 + n, 234_567 - n) for n in range(11)]
    desk.write("w.csv", rows, ("item", "then", "now"))
    words = ("draw", "paired", "w.csv", "--current", "now", "--base", "then", "-o", "w.png")
    assert desk.figures(*words)["labels_dropped"] == []
    small = desk.figures(*words, "--size", "400x460")
    assert {one["label"] for one in small["labels_dropped"]} <= {row[0] for row in rows}


@pytest.mark.parametrize(
    ("day", "grain", "calendar", "expected"),
    [
        (date(2026, 6, 18), Grain.DAY, CIVIL, ("18", "Jun", "2026")),
        (date(2026, 6, 18), Grain.WEEK, CIVIL, ("W25", "2026")),
        (date(2026, 6, 18), Grain.QUARTER, CIVIL, ("Q2", "2026")),
        (date(2026, 6, 18), Grain.HALF, CIVIL, ("H1", "2026")),
        (date(2026, 6, 18), Grain.YEAR, CIVIL, ("2026",)),
        (date(2026, 6, 18), Grain.MONTH, read_calendar("april", "end", None, None), ("Jun", "FY2027")),
        (date(2026, 6, 18), Grain.QUARTER, read_calendar("april", "end", None, None), ("Q1", "FY2027")),
    ],
)
def test_periods_are_named_level_by_level(day: date, grain: Grain, calendar: Any, expected: tuple[str, ...]) -> None:
    assert levels(period_of(day, grain, calendar), "en_GB") == expected


def test_periods_of_weeks_are_numbered() -> None:
    calendar = read_calendar(None, "end", "4-4-5", "last saturday of january")
    assert isinstance(calendar, WeekYears) and not isinstance(calendar, MonthYears) and YearEnd
    assert levels(period_of(date(2026, 2, 3), Grain.MONTH, calendar), "en_GB") == ("P01", "FY2027")


amounts = st.integers(-(10**9), 10**9).map(lambda n: Decimal(n).scaleb(-2))


@given(ends=st.tuples(amounts, amounts).map(sorted), count=st.integers(2, 9))
def test_axis_values_are_round_and_within_the_ends(ends: list[Decimal], count: int) -> None:
    low, high = ends
    values = round_values(low, high, count)
    assert all(low <= value <= high for value in values)
    steps = {after - before for before, after in itertools.pairwise(values)}
    assert len(steps) <= 1 and len(values) <= count + 2
    for step in steps:
        assert step.normalize().as_tuple().digits in {(1,), (2,), (2, 5), (5,)}


places = st.tuples(st.integers(40, 560), st.integers(40, 360), st.integers(-500, 500))


def test_long_names_before_rows_are_wrapped_and_many_labels_all_stand(desk: Desk) -> None:
    name = "Maintenance of the northern pontoon, its fenders and the gangway that leads to it"
    desk.write("few.csv", [(name, 120, 90), ("Fuel", 80, 95)], ("item", "now", "then"))
    sides = Settings(current="now", base="then", by=("item",))
    lines = texts(painted("against", [str(desk.folder / "few.csv")], sides))
    assert name not in lines and " ".join(line for line in lines if line in name) == name
    desk.write(
        "many.csv", [(f"Cost centre {n}", n * 37 % 900, n * 53 % 900) for n in range(90)], ("item", "now", "then")
    )
    many = painted("waterfall", [str(desk.folder / "many.csv")], sides)
    assert many.shown.dropped == ()
    assert many.canvas.height > 800


@settings(max_examples=60)
@given(points=st.lists(places, max_size=25), blocks=st.lists(places, max_size=5))
def test_labels_never_overlap_and_the_weightiest_find_room_first(points: list[Any], blocks: list[Any]) -> None:
    canvas = Canvas(600, 400, style_named(DEFAULT))
    room = Box(left=0, top=0, right=600, bottom=400)
    placer = Placer(canvas, room)
    for x, y, _ in blocks:
        placer.block(Box(left=x, top=y, right=x + 40, bottom=y + 12))
    for number, (x, y, change) in enumerate(points):
        label = Label(
            (Piece(text=f"{change:+}", colour="#000000", direction=1), Piece(text=f"{number}", colour="#000000"))
        )
        placer.want(
            label,
            [Spot(x=x, y=y, side="above"), Spot(x=x, y=y, side="below")],
            Point(category=str(number), current=Decimal(change), base=Decimal(0)),
        )
    dropped = placer.settle()
    drawn = [text for text, _ in canvas.texts]
    assert len(drawn) == 2 * (len(points) - len(dropped))
    if points:
        # The largest change is only left out where a mark lies on both of its spots.
        weightiest = max(points, key=lambda one: abs(one[2]))
        lost = {int(point.label) for point in dropped}
        largest = abs(weightiest[2])
        if not blocks and sum(abs(one[2]) == largest for one in points) == 1:
            assert points.index(weightiest) not in lost
    from matplotlib.backends.backend_agg import FigureCanvasAgg

    renderer = FigureCanvasAgg(canvas.figure).get_renderer()
    boxes = [text.get_window_extent(renderer) for text in drawn]
    for one, other in itertools.combinations(boxes, 2):
        slack = 0.2 * min(one.height, other.height)
        apart = one.x1 <= other.x0 + 1 or other.x1 <= one.x0 + 1
        assert apart or one.y0 >= other.y1 - slack or other.y0 >= one.y1 - slack


@pytest.mark.parametrize("align", ["left", "center", "right"])
@pytest.mark.parametrize("middle", [False, True])
@pytest.mark.parametrize("bold", [False, True])
def test_a_line_is_drawn_where_matplotlib_would_put_it(align: Align, middle: bool, bold: bool) -> None:
    inks = []
    for its_own in (False, True):
        canvas = Canvas(400, 100, style_named(DEFAULT))
        canvas.text("Crossing −1,234.5k", 200, 50, 18, "#000000", bold=bold, align=align, middle=middle)
        if its_own:
            ((line, _),) = canvas.texts
            line.draw = partial(Text.draw, line)
        with Image.open(io.BytesIO(saved(canvas, ".png", "", "").content)) as image:
            inks.append(ImageOps.invert(image.convert("L")).point(lambda ink: ink > 60 and 255).getbbox())
    assert all(abs(one - other) <= 1 for one, other in zip(*inks, strict=True)), inks


@pytest.mark.parametrize("size", [(400, 300), (1280, 800), (3840, 2160)], ids=str)
def test_a_statement_fits_its_size_or_says_which_would(size: tuple[int, int]) -> None:
    from test_views import check

    wide: dict[str, Any] = {"for_": ("2026-10", "2026"), "versus": ("budget", "year-ago")}
    for how in ({}, wide):
        words = Settings(statement=STATEMENT, size=Size(*size), **how)
        if size == (400, 300):
            with pytest.raises(Exception, match="do not fit legibly"):
                painted("statement", [str(DEMO)], words)
        else:
            check(painted("statement", [str(DEMO)], words))


@pytest.mark.parametrize("panels_by", ["route", "quarter"])
@pytest.mark.parametrize("view", ["statement", "waterfall", "paired"])
def test_statements_in_panels_are_alike_and_legible(view: str, panels_by: str) -> None:
    from test_views import check

    one = painted(view, [str(DEMO)], Settings(statement=STATEMENT, panels_by=panels_by))
    check(one)
    bars = [box for mark, box in one.canvas.marks if isinstance(mark, Rectangle) and mark.get_gid()]
    # No panel's bars stand where another's lie, and rows are as high in each.
    assert len({round(box.height) for box in bars if box.width > 40}) <= 2
    assert one.canvas.width == 1280


def test_the_statements_bars_are_as_long_as_their_changes() -> None:
    one = drawn("statement")
    bars = [box.width for mark, box in one.canvas.marks if isinstance(mark, Rectangle) and mark.get_gid()]
    points = [judged.point for judged in one.shown.analysis.first.points if judged.point.kind.value != "ratio"]
    changes = [abs(point.change or 0) for point in points]
    largest = changes.index(max(changes))
    for bar, change in zip(bars, changes, strict=True):
        assert abs(Fraction(bar) / Fraction(bars[largest]) - Fraction(change) / Fraction(max(changes))) < Fraction(
            1, 50
        )


def test_screenshots_are_of_the_views_that_the_gallery_shows() -> None:
    docs = Path(__file__).parent.parent.parent / "docs"
    text = (docs / "gallery.md").read_text()
    shown = re.findall(r"\(screenshots/([\w-]+\.png)\)", text)
    assert len(shown) >= 10 and all((docs / "screenshots" / name).is_file() for name in shown)
    for view in CALLS:
        assert f"marvex draw {view} " in text, view
