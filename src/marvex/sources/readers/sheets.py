"""Workbooks: which sheet is meant, and its cells as rows, or as the columns of a table."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from python_calamine import CalamineError

from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.sources.readers.grid import text_of
from marvex.sources.readers.parsing import Sheet, parsed

if TYPE_CHECKING:
    import numpy as np

LOOKED_AT = 500  # rows: enough to see whether a sheet holds a table
BLOCK = 1024  # rows


def sheet_of(path: Path, name: str, sheet: str | None) -> tuple[str, Sheet]:
    """The name of the sheet asked for, or of the only one that holds a table, and the sheet.

    Raises Mistake where several sheets could serve.
    """
    try:
        sheets = parsed(path, sheet)
    except (CalamineError, OSError) as problem:
        raise Mistake(f"{name} cannot be read: {problem}", "Check that it is a workbook.") from problem
    if sheet is not None and sheet not in sheets:
        hint = did_you_mean(sheet, sheets, f"Its sheets are {listed(sheets)}.")
        raise Mistake(f"{name} has no sheet '{sheet}'", hint)
    first = {title: one.first(LOOKED_AT) for title, one in sheets.items() if sheet in (None, title)}
    filled = [title for title, rows in first.items() if rows]
    if not filled:
        raise Mistake(f"{name}{'' if sheet is None else f', sheet {sheet!r}'} is empty", "Name a sheet with a table.")
    # Where only one has anything in it there is no choice, and what it lacks can be told.
    serving = filled if len(filled) == 1 else [title for title in filled if _is_table(first[title])]
    if len(serving) > 1:
        several = listed(f"'{one}'" for one in serving)
        raise Mistake(
            f"{name}: the sheets {several} could each serve", f"Say which: {setting('sheet')} '{serving[0]}'."
        )
    if not serving:
        raise Mistake(f"{name} has no sheet with a table of figures", f"Name one with {setting('sheet')}.")
    return serving[0], sheets[serving[0]]


@dataclass(frozen=True, slots=True)
class Columns:
    """The cells of a sheet that is a table, by columns.

    Parameters
    ----------
    arrays : each column as an array, of numbers where all its cells are, else of texts.
    texts : the different texts of each column, of one of numbers none.
    """

    arrays: tuple[Any, ...]
    texts: tuple[frozenset[str], ...]


def columns_of(sheet: Sheet) -> Columns:
    """The cells below the first row by columns."""
    import numpy as np

    width = len(sheet.first(1)[0])
    blocks: list[list[np.ndarray[Any, Any]]] = [[] for _ in range(width)]
    said: list[dict[Any, str]] = [{} for _ in range(width)]
    for number, rows in enumerate(sheet.blocks()):
        # Block by block, the cells are still at hand when one column after the other is looked at.
        for first in range(0 if number else 1, len(rows), BLOCK):
            for place, cells in enumerate(zip(*rows[first : first + BLOCK], strict=True)):
                is_numbers = type(cells[0]) is float and set(map(type, cells)) == {float}
                blocks[place].append(np.array(cells) if is_numbers else _in_words(cells, said[place]))
    for place, found in enumerate(blocks):
        if said[place]:
            blocks[place] = [_in_words(one.tolist(), said[place]) if one.dtype.kind == "f" else one for one in found]
    return Columns(tuple(map(np.concatenate, blocks)), tuple(frozenset(one.values()) for one in said))


def _in_words(cells: Sequence[Any], said: dict[Any, str]) -> np.ndarray[Any, Any]:
    """The cells as texts; what is said of each different one is kept in `said`, for it says so again."""
    import numpy as np

    different = set(cells)
    said.update((cell, text_of(cell)) for cell in different - said.keys())
    found: Sequence[str] = cells
    if not different.isdisjoint((0, 1)):  # yes and no are equal to 1 and 0
        found = list(map(text_of, cells))
        said.update(zip(found, found, strict=True))
    elif any(cell != said[cell] for cell in different):
        found = list(map(said.__getitem__, cells))
    return np.fromiter(found, object, len(cells))


def _is_table(rows: Sequence[Sequence[Any]]) -> bool:
    """Whether at least two rows hold a figure beside something else."""
    wide = [row for row in rows if sum(value not in ("", None) for value in row) > 1]
    with_figures = [
        row for row in wide if any(isinstance(value, int | float) and not isinstance(value, bool) for value in row)
    ]
    return len(wide) > 2 and len(with_figures) > 1
