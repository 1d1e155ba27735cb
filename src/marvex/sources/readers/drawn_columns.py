"""A sheet without the columns that bars were drawn from by hand."""

from __future__ import annotations

import re
from collections.abc import Collection
from decimal import Decimal

from marvex.core.structure.drawn import Drawn, drawn
from marvex.sources.cells import Convention
from marvex.sources.readers.grid import SheetRow
from marvex.sources.readers.sheet_table import SheetTable

MOST_ROWS = 2_000  # of a list that bars are drawn of
_AMOUNT = "Amount"  # what rises less what falls is called
_LIKE_THOUSANDS = re.compile(r"-?\d{1,3}[.,]\d{3}")


def drawn_columns(table: SheetTable, named: Collection[str]) -> Drawn | None:
    """The columns of a list that its bars were drawn from, none of which an option names."""
    if len(table.rows) > MOST_ROWS:
        return None
    columns = {
        table.headings[place]: [table.figures[row.number][at] for row in table.rows]
        for at, place in enumerate(table.places)
    }
    found = drawn(columns)
    return found if found is not None and {*found.columns}.isdisjoint(named) else None


def told_of_drawn(table: SheetTable, found: Drawn) -> tuple[str, tuple[str, ...]]:
    """What is said of them, and the caution where they are not what they draw."""
    letters = [table.letters[table.headings.index(name)] for name in found.columns]
    columns = ", ".join(f"{letter} '{name}'" for letter, name in zip(letters, found.columns, strict=True))
    they = "column" if len(letters) == 1 else "columns"
    if not found.of:
        return f"{they} {columns} draw bars: {found.said} is the amount", ()
    draw, were = ("draws", "was") if len(letters) == 1 else ("draw", "were")
    of = " and ".join(found.of)
    if found.is_running:
        return f"{they} {columns} is the running total of {of} and was left out", ()
    said = f"{they} {columns} {draw} the bars of {of} and {were} left out"
    if found.stale is None:
        return said, ()
    stale = f"the bars that its columns draw are not those of {of}, as in row {table.rows[found.stale].number}"
    return said, (stale,)


def with_amounts(table: SheetTable, found: Drawn, numbers: str) -> tuple[list[str], list[SheetRow]]:
    """The headings and rows with the amounts that the columns come to in the first of them."""
    place = list(table.headings).index(found.columns[0])
    headings = list(table.headings)
    headings[place] = _AMOUNT if _AMOUNT not in headings else found.said
    texts = [_text(one, numbers) for one in found.amounts]
    rows = [
        SheetRow(row.number, (*row.cells[:place], text, *row.cells[place + 1 :]), row.indent)
        for row, text in zip(table.rows, texts, strict=True)
    ]
    return headings, rows


def _text(amount: Decimal, numbers: str) -> str:
    text = f"{amount:f}"
    text += "0" * (_LIKE_THOUSANDS.fullmatch(text) is not None)
    return text.replace(".", ",") if numbers == Convention.COMMA.value else text
