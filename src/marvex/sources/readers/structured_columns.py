"""The columns of a sheet: those that are totals of others, and those that are the lines of a statement."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import replace
from decimal import Decimal

from marvex.core.errors import listed
from marvex.core.exact import ZERO, total
from marvex.core.structure.apart import may_be_apart, of_no_total
from marvex.core.structure.evidence import TableLine
from marvex.core.structure.finder import found_structure
from marvex.core.structure.found_statement import is_signed, is_statement, statement_of
from marvex.core.structure.structure_found import Structure
from marvex.core.structure.sums import Shape
from marvex.core.structure.total_names import Naming, is_part_name, is_total_name, naming, speaks_of_variance
from marvex.core.time.calendar import is_finer
from marvex.core.values import dataclass
from marvex.sources.dates import written
from marvex.sources.headings import parted
from marvex.sources.readers.columns_of_periods import columns_of_periods
from marvex.sources.readers.grid import SheetRow
from marvex.sources.readers.lines_apart import columns_apart
from marvex.sources.readers.made_table import table_of, without_columns
from marvex.sources.readers.sheet_table import FoundTable, SheetLine, SheetTable, Wishes
from marvex.sources.readers.sides_across import sides_across
from marvex.sources.readers.structure_words import spoken
from marvex.sources.readers.totals_across import additive_rows, columns_of_a_side, is_total_beside, rests_of

_MOST_COLUMNS = 60  # that may be lines of a statement
_MOST_NAMED = 4  # columns, where others stand between them
_LEAST_ROWS, _LEAST_DIGITS = 3, 9  # in which one is what all others come to, by no chance
_ROWS_SAMPLED = 200  # of a table whose columns are looked at


@dataclass(frozen=True, slots=True, kw_only=True)
class LinesAcross:
    """A table whose columns are the lines of a statement, without those that are none of its amounts, what is said of
    these, and cautions."""

    table: SheetTable
    found: FoundTable
    said: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()


def lines_across(table: SheetTable, wishes: Wishes, numbers: str) -> LinesAcross | None:
    """The statement that a table's columns are, each alone or once for each side."""
    return _statement_of_columns(table, wishes, numbers) or _statement_of_sides(table, wishes, numbers)


def _statement_of_columns(table: SheetTable, wishes: Wishes, numbers: str) -> LinesAcross | None:
    """The statement that a table's columns are, where each is a line: sales, costs and a profit by month.

    Only where their headings say neither periods nor scenarios, and one is proven as a result.
    """
    places = list(table.places)
    if wishes.is_list or wishes.has_amounts or not 2 < len(places) <= _MOST_COLUMNS:
        return None
    headings = [table.headings[place] for place in places]
    if any(parted(heading).is_said for heading in headings) or not any(naming(one).is_total for one in headings):
        return None
    rows = [table.figures[row.number] for row in table.rows]
    lines = [
        TableLine(label=heading, figures=tuple(row[at] for row in rows[:_ROWS_SAMPLED]), naming=naming(heading))
        for at, heading in enumerate(headings)
    ]
    structure = found_structure(lines)
    if structure.asked is not None or not is_statement(structure) or len(rows) > _ROWS_SAMPLED:
        return None
    alone = [at for at in of_no_total(structure) if may_be_apart(headings[at]) and headings[at] not in wishes.named]
    apart = columns_apart(table, alone)
    rest = (
        _statement_of_columns(without_columns(table, apart.places, numbers), wishes, numbers)
        if apart.places
        else None
    )
    if rest is not None:
        return replace(rest, said=(*apart.said, *rest.said), cautions=(*apart.cautions, *rest.cautions))
    own = [SheetLine(line=one, label=one.label, numbers=()) for one in lines]
    return LinesAcross(table=table, found=found_table(table, own, structure, None, wishes))


def _statement_of_sides(table: SheetTable, wishes: Wishes, numbers: str) -> LinesAcross | None:
    """The statement that a table's columns are where each line stands there once for each side: `Revenue Actual`,
    `Revenue Budget`, `Costs Actual` …; each side of a row is a row of its own then.
    """
    if wishes.is_list or wishes.has_amounts or len(table.rows) > _ROWS_SAMPLED:
        return None
    sides = sides_across(table.headings, None)
    if sides is None or not any(naming(one).is_total for one in sides.amounts):
        return None
    headings, letters, rows = sides.rows(table.headings, table.letters, table.rows)
    numbered = [SheetRow(at, row.cells, row.indent) for at, row in enumerate(rows, 1)]
    turned = table_of(table.name, headings, letters, numbered, numbers, {})
    found = _statement_of_columns(turned, wishes, numbers)
    return None if found is None else replace(found, said=(sides.told, *found.said))


def left_of_columns(
    table: SheetTable, kinds: Sequence[tuple[str, bool]], named: frozenset[str]
) -> tuple[list[tuple[int, str]], list[tuple[int, list[int]]]]:
    """The columns that are totals of others, each with what is said of it; and those that are so but for rows in which
    they stand alone, with their parts, all by their places among the amounts.

    Parameters
    ----------
    kinds : of each column of amounts, in order, what it is beside its period, and whether it is called a total.
    named : headings that options mention.
    """
    rows = [table.figures[row.number] for row in additive_rows(table)]
    groups: dict[str, list[int]] = {}
    for at, (kind, _) in enumerate(kinds):
        groups.setdefault(kind, []).append(at)
    found, in_most = dict[int, str](), list[tuple[int, list[int]]]()
    sums = [one for group in groups.values() for one in _sums_among(table, rows, kinds, group)]
    # `2026 Total` is of `2026 Ferries` and `2026 Shops`, as it is not of `2025 Total`.
    of_sides = [one for group in columns_of_a_side(table) for one in _sums_of_a_side(table, rows, kinds, group)]
    in_sides = Counter(rests_of(table, (at, *parts)) for at, parts in of_sides)
    for at, parts in (*sums, *of_sides):
        place = table.places[at]
        is_enough = len(parts) > 2 or kinds[at][1] or in_sides[rests_of(table, (at, *parts))] > 1
        of_parts = [table.headings[table.places[part]] for part in parts]
        if (
            table.headings[place] not in named
            and is_enough
            # An actual is no sum of its budget and what it is more.
            and len({speaks_of_variance(part) for part in of_parts}) == 1
            and not _is_beside(of_parts, table.headings[place])
        ):
            if _holds(rows, at, parts):
                found[place] = _told_of_sum(table, at, [table.places[part] for part in parts])
            else:
                in_most.append((at, parts))
    of_amounts = {place: at for at, place in enumerate(table.places)}
    for place, columns in columns_of_periods(table):
        filled = [of_amounts[one] for one in columns if one in of_amounts]
        if place in found or table.headings[place] in named:
            continue
        if place in of_amounts and _is_sum(rows, of_amounts[place], filled):
            found[place] = _told_of_sum(table, of_amounts[place], columns)
        elif not any(row.cells[place] for row in table.rows):
            found[place] = f"column {table.letters[place]} '{table.headings[place]}' is empty and was left out"
    for place in table.places:
        heading = table.headings[place]
        if is_part_name(parted(heading).rest) and heading not in named:
            letter = table.letters[place]
            found[place] = f"column {letter} '{heading}' is a part of another, as its name says, and was left out"
    return sorted(found.items()), in_most


def _sums_among(
    table: SheetTable,
    rows: Sequence[Sequence[Decimal | None]],
    kinds: Sequence[tuple[str, bool]],
    group: Sequence[int],
) -> Iterator[tuple[int, list[int]]]:
    """Those of some columns of amounts that are sums of others of them, each with these, in the rows that have several
    of them."""
    several = [row for row in rows if sum(row[at] is not None for at in group) > 1][:_ROWS_SAMPLED]
    lines = [_as_line(table.headings[table.places[at]], [row[at] for row in several], kinds[at]) for at in group]
    for one in found_structure(lines).sums:
        if one.shape is Shape.PLUS:
            yield group[one.line], [group[place] for place, _ in one.parts]


def _sums_of_a_side(
    table: SheetTable,
    rows: Sequence[Sequence[Decimal | None]],
    kinds: Sequence[tuple[str, bool]],
    group: Sequence[int],
) -> list[tuple[int, list[int]]]:
    """The same of the columns of one side, and one that is what all others come to.

    Of lines of either sign the finder says nothing, since of a budget, a variance and an actual each is made of the
    others: none of these is of the same side.
    """
    found = list(_sums_among(table, rows, kinds, group))
    several = [row for row in rows if sum(bool(row[at]) for at in group) > 2]
    digits = sum(len(str(abs(int(row[group[0]] or ZERO)))) for row in several)
    for at in group if len(several) >= _LEAST_ROWS and digits >= _LEAST_DIGITS else ():
        parts = [one for one in group if one != at]
        if (at, parts) not in found and _is_sum(several, at, parts):
            found.append((at, parts))
    return found


def _told_of_sum(table: SheetTable, at: int, columns: Sequence[int]) -> str:
    """What is said of a column of amounts, by its place among these, that is the sum of some columns of the table."""
    letters = [table.letters[column] for column in columns]
    is_run = list(columns) == list(range(columns[0], columns[-1] + 1)) or len(columns) > _MOST_NAMED
    of = f"{letters[0]}–{letters[-1]}" if is_run and len(columns) > 1 else listed(letters)
    place = table.places[at]
    some = "column" if len(columns) == 1 else "columns"
    told = f"column {table.letters[place]} '{table.headings[place]}' is the sum of {some} {of}"
    parts = [part for part, its in enumerate(table.places) if its in columns]
    rows = [table.figures[row.number] for row in additive_rows(table)]
    is_exact = _is_sum([row for row in rows if row[at] is not None], at, parts)
    return f"{told}{'' if is_exact else ', but for rounding,'} and was left out"


def _is_beside(parts: Sequence[str], whole: str) -> bool:
    """Whether a column is of a period that others are beside, and not within: 2025 is no sum of 2026 and more."""
    own = written(period) if (period := parted(whole).period) else None
    if own is None:
        return False
    said = (written(period) for one in parts if (period := parted(one).period))
    return any(one is not None and not is_finer(one.grain, own.grain) and one.first != own.first for one in said)


def _as_line(heading: str, figures: Sequence[Decimal | None], kind: tuple[str, bool]) -> TableLine:
    is_total = kind[1] or is_total_name(heading) or is_total_beside(parted(heading).rest)
    name = Naming.TOTAL if is_total else Naming.NONE
    return TableLine(label=heading, figures=tuple(figures), naming=name)


def _holds(rows: Sequence[Sequence[Decimal | None]], at: int, parts: Sequence[int]) -> bool:
    """Whether a column is the sum of others in all rows that have several of them or come after those looked at, and
    stands alone in none."""
    if any(row[at] and not any(row[part] is not None for part in parts) for row in rows):
        return False
    return _is_sum(rows[_ROWS_SAMPLED:], at, parts)


def _is_sum(rows: Sequence[Sequence[Decimal | None]], at: int, parts: Sequence[int]) -> bool:
    return all(total(row[part] or ZERO for part in parts) == (row[at] or ZERO) for row in rows)


def found_table(
    table: SheetTable, lines: Sequence[SheetLine], structure: Structure, label: int | None, wishes: Wishes
) -> FoundTable:
    labels = [one.label for one in lines]
    sections = {
        place: table.sections[one.numbers[0]]
        for place, one in enumerate(lines)
        if one.numbers and table.sections.get(one.numbers[0])
    }
    for one in structure.sums:  # one without a name is called as the heading above its parts
        heading = sections.get(min(one.places), "")
        if not lines[one.line].line.label and heading and heading not in labels:
            labels[one.line] = heading
    return FoundTable(
        statement=statement_of(structure, labels, sections, is_down=wishes.is_down),
        column=None if label is None else table.headings[label],
        is_signed=is_signed(structure),
        notes=tuple(f"{labels[one.line]} = {spoken(labels, one.parts)}" for one in structure.sums)
        + tuple(f"{labels[one.line]} = {labels[one.over]} ÷ {labels[one.under]}" for one in structure.ratios),
    )
