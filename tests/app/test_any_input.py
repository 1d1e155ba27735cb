"""Whatever is written, a call ends with a result or with one message: status 0, 1 or 2, never a traceback.

`make fuzz` goes on from here, by the hundred thousand.
"""

from __future__ import annotations

import contextlib
import io
import json
from typing import Any

import xlsxwriter
from hypothesis import example, given, settings
from hypothesis import strategies as st

from conftest import Desk

FEW = settings(max_examples=10)

figures = st.one_of(
    st.integers().map(str),
    st.decimals(allow_nan=True, allow_infinity=True).map(str),
    st.from_regex(r"[-+(]?[€$ ]?[0-9]{0,4}[.,' ]?[0-9]{0,4}[)%km-]?", fullmatch=True),
)
days = st.one_of(
    st.dates().map(str), st.from_regex(r"[0-9]{1,4}[-/. ][0-9A-Za-z]{1,3}([-/. ][0-9]{1,4})?", fullmatch=True)
)
cells = st.one_of(
    figures, days, st.text(max_size=12), st.sampled_from(["", "Total", "actual", "Gross margin", "n/a"])
)
tables = st.lists(st.lists(cells, min_size=1, max_size=5), min_size=1, max_size=8)
words_of_rules = st.lists(
    st.sampled_from(
        [
            "A",
            "[worse]:",
            "change",
            ">",
            "5%",
            "and",
            "or",
            "not",
            "(",
            ")",
            "between",
            "share",
            "rank",
            "<=",
            "2",
            "10k",
            "-1m",
            "base",
            "=",
            "current",
            "otherwise",
            "unusual",
            "fails",
            "!=",
        ]
    )
    | st.text(max_size=4),
    max_size=14,
).map(" ".join)
parts_of_windows = st.sampled_from(
    ["2026", "FY2026", "-Q2", "-H1", "-W53", "-P13", "-02-29", "/", "latest:", "month", "rolling:", "12", "9999", "0"]
)
windows = st.lists(parts_of_windows | st.text(max_size=3), max_size=4).map("".join)
keys = st.sampled_from(
    ["statement", "line", "label", "accounts", "kind", "total_of", "ratio_of", "name", "income_sign", "cost_sign", "rules",
     "bands", "better", "inherits", "fills", "sizes", "title"]
) | st.text(max_size=5)  # fmt: skip
values = st.recursive(
    st.none()
    | st.booleans()
    | st.integers()
    | st.floats()
    | st.text(max_size=8)
    | st.sampled_from(["cost", "positive"]),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(keys, inner, max_size=4),
    max_leaves=12,
)


def as_toml(value: Any) -> str:
    """A value of TOML on one line; what it has none for is a date, of which no file of ours has one."""
    match value:
        case None:
            return "2026-01-01"
        case bool():
            return str(value).lower()
        case int() | float():
            return repr(value).replace("inf", "inf")
        case str():
            return json.dumps(value)
        case list():
            return f"[{', '.join(map(as_toml, value))}]"
    return f"{{{', '.join(f'{json.dumps(key)} = {as_toml(one)}' for key, one in value.items())}}}"


def ends_well(desk: Desk, *words: str) -> None:
    done = desk.run(*words)
    assert done.status in (0, 1, 2), (words, done.err)
    if done.status == 2:
        assert done.err.startswith(("marvex: ", "usage: ")) and done.out == "", done.err
        assert len(done.err.splitlines()) <= 4, done.err


@FEW
@example(rows=[["0", "0"], ["0"]], delimiter=",")  # headings, and no row that is one of data
@given(rows=tables, delimiter=st.sampled_from(",;\t"))
def test_any_table_as_text(desk: Desk, rows: list[list[str]], delimiter: str) -> None:
    text = "\n".join(delimiter.join(f'"{cell}"' if "\n" in cell else cell for cell in row) for row in rows)
    (desk.folder / "t.csv").write_bytes(text.encode("utf-8", "replace"))
    for words in (("survey", "t.csv"), ("table", "t.csv"), ("table", "t.csv", "--statement", "none", "--verify")):
        ends_well(desk, *words)


@FEW
@example(rows=[["0", "0"], ["0"], ["0", "0"]])  # the headings again, below a title and no table
@example(rows=[["Route", "2026"], ["Account", "2026"], ["A", "1"]])
@given(rows=tables)
def test_any_table_as_a_workbook(desk: Desk, rows: list[list[str]]) -> None:
    content = io.BytesIO()
    with xlsxwriter.Workbook(content, {"strings_to_numbers": True, "nan_inf_to_errors": True}) as book:
        sheet = book.add_worksheet()
        for place, row in enumerate(rows):
            with contextlib.suppress(UnicodeError):
                sheet.write_row(place, 0, row)
    (desk.folder / "t.xlsx").write_bytes(content.getvalue())
    ends_well(desk, "survey", "t.xlsx")
    ends_well(desk, "table", "t.xlsx", "--versus", "none")


@FEW
@given(value=values, as_lines=st.booleans())
def test_any_objects(desk: Desk, value: Any, as_lines: bool) -> None:
    rows = value if isinstance(value, list) else [value]
    text = "\n".join(map(json.dumps, rows)) if as_lines else json.dumps(value)
    name = "t.jsonl" if as_lines else "t.json"
    (desk.folder / name).write_text(text)
    ends_well(desk, "table", name, "--versus", "none")


@FEW
@given(table=st.dictionaries(keys, values, max_size=5))
def test_any_file_of_a_statement_a_rule_a_style_or_figures(desk: Desk, table: dict[str, Any]) -> None:
    desk.write("l.csv", [("Fuel", 5, 4), ("Fares", 9, 7)], ("account", "now", "then"))
    text = "\n".join(f"{json.dumps(key)} = {as_toml(value)}" for key, value in table.items())
    (desk.folder / "f.toml").write_text(text, encoding="utf-8", errors="replace")
    (desk.folder / "f.json").write_text(json.dumps(table))
    sides = ("--current", "now", "--base", "then")
    ends_well(desk, "table", "l.csv", "--statement", "f.toml", "--amount", "now")
    ends_well(desk, "table", "l.csv", *sides, "--rule", "f.toml")
    ends_well(desk, "table", "l.csv", *sides, "--since", "f.json")
    ends_well(desk, "draw", "variance", "l.csv", *sides, "--style", "f.toml", "-o", "x.svg")


@FEW
@given(rule=words_of_rules, window=windows, versus=windows)
def test_any_rule_and_window(desk: Desk, rule: str, window: str, versus: str) -> None:
    desk.write("d.csv", [("2026-03-01", "Fuel", 5), ("2025-03-01", "Fuel", 4)], ("date", "item", "net"))
    ends_well(desk, "table", "d.csv", "--by", "item", f"--band={rule}")
    ends_well(desk, "table", "d.csv", "--by", "item", f"--for={window}", f"--versus={versus}")
