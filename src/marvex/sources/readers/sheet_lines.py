"""The rows of a sheet as lines: a row each, or, where names come again under other keys, all rows of a name as one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Sequence
from decimal import Decimal

from marvex.core.compare.point import NO_NAME
from marvex.core.structure.evidence import TableLine
from marvex.core.structure.outlined import outlined
from marvex.core.structure.total_names import naming, namings
from marvex.sources.readers.grid import SheetRow
from marvex.sources.readers.sheet_table import SheetLine, SheetTable


def lines_of(table: SheetTable, label: int, texts: Sequence[int], dated: Collection[int]) -> list[SheetLine] | None:
    """The lines in order: a row each, or, where names come again under other keys, all rows of a name as one.

    None where nothing speaks for a total among dated rows, or names come again without a key.
    """
    names = [_name(row, label, texts) for row in table.rows]
    has_names = any(naming(name).is_total for name in set(names))
    if dated and not has_names:
        return None
    is_unique = len(set(names)) == len(table.rows)  # a total may be named in another column than its parts
    keys = [] if is_unique else _keys(table, label, texts)
    if is_unique or not keys:
        named_as = namings(names)
        labels = distinct(
            [name or NO_NAME for name in names], [table.sections.get(row.number, "") for row in table.rows]
        )
        indents = _levels([row.indent for row in table.rows])
        lines = [
            SheetLine(
                line=TableLine(
                    label=name,
                    figures=tuple(table.figures[row.number]),
                    naming=named,
                    indent=indent,
                    heads_block=row.number in table.sections,
                    is_percent=row.number in table.percents,
                ),
                label=shown,
                numbers=(row.number,),
            )
            for row, name, shown, indent, named in zip(table.rows, names, labels, indents, named_as, strict=True)
        ]
        is_plain = is_unique or has_names or not _is_ledger(table, label)
        return lines if is_plain or outlined([one.line for one in lines]) else None
    return _pivoted(table, label, keys)


def _is_ledger(table: SheetTable, label: int) -> bool:
    """Whether names come again and again, as those of facts do and those of lines do not."""
    return len({row.cells[label] for row in table.rows}) * 2 < len(table.rows)


def _keys(table: SheetTable, label: int, texts: Sequence[int]) -> list[int]:
    """The other columns that tell the rows of one name apart; none where they do not."""
    keys = [place for place in texts if place != label and _varies_within(table, label, place)]
    different = {(row.cells[label], *(row.cells[place] for place in keys)) for row in table.rows}
    return keys if len(different) == len(table.rows) else []


def _varies_within(table: SheetTable, label: int, place: int) -> bool:
    known: dict[str, str] = {}
    return any(known.setdefault(row.cells[label], row.cells[place]) != row.cells[place] for row in table.rows)


def _pivoted(table: SheetTable, label: int, keys: Sequence[int]) -> list[SheetLine]:
    """Each name as one line, whose figures are those of all its rows side by side."""
    columns = {key: at for at, key in enumerate(dict.fromkeys(_key(row, keys) for row in table.rows))}
    width = len(table.places)
    found: dict[str, list[SheetRow]] = {}
    for row in table.rows:
        found.setdefault(row.cells[label], []).append(row)
    lines = []
    levels = dict(zip(found, _levels([min(row.indent for row in rows) for rows in found.values()]), strict=True))
    for name, rows in found.items():
        figures: list[Decimal | None] = [None] * (width * len(columns))
        for row in rows:
            start = columns[_key(row, keys)] * width
            figures[start : start + width] = table.figures[row.number]
        line = TableLine(
            label=name,
            figures=tuple(figures),
            naming=naming(name),
            indent=levels[name],
            is_percent=all(row.number in table.percents for row in rows),
        )
        lines.append(SheetLine(line=line, label=name, numbers=tuple(row.number for row in rows)))
    return lines


def _key(row: SheetRow, keys: Sequence[int]) -> tuple[str, ...]:
    return tuple(row.cells[place] for place in keys)


def _name(row: SheetRow, label: int, texts: Sequence[int]) -> str:
    """What a row is called: a total's name in any of its texts, else the cell of its label, else its first text."""
    own = row.cells[label]
    if naming(own).is_total:
        return own
    cells = [row.cells[place] for place in texts if row.cells[place]]
    return next((cell for cell in cells if naming(cell).is_total), own or next(iter(cells), ""))


def _levels(indents: Sequence[int]) -> list[int]:
    """How many blanks a line is set in by, as steps."""
    steps = {size: at for at, size in enumerate(sorted(set(indents)))}
    return [steps[size] for size in indents]


def distinct(names: Sequence[str], sections: Sequence[str]) -> list[str]:
    """Each name once: one that comes again is told apart by the heading that it stands under."""
    counted, seen = Counter(names), Counter[str]()
    found, under = [], ""
    for name, section in zip(names, sections, strict=True):
        under = section or under
        shown = f"{name} ({under})" if counted[name] > 1 and under else name
        seen[shown] += 1
        found.append(shown if seen[shown] == 1 else f"{shown} {seen[shown]}")
    return found
