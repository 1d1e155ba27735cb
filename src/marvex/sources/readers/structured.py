"""The structure of a sheet: its rows as lines, what of them is left out, and the statement that they make."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from contextlib import suppress
from dataclasses import replace
from decimal import Decimal

from marvex.core.compare.scenario_words import version_said
from marvex.core.errors import Mistake
from marvex.core.structure.apart import is_check, may_be_apart, of_no_total
from marvex.core.structure.cost_names import income_and_costs
from marvex.core.structure.finder import MOST_SEARCHED, found_structure
from marvex.core.structure.found_statement import is_signed, is_statement, may_be_turned
from marvex.core.structure.outlined import outlined
from marvex.core.structure.parents import parents_by_code
from marvex.core.structure.set_in import missed_head
from marvex.core.structure.statement import Statement
from marvex.core.structure.structure_found import Asked, Doubt, Structure
from marvex.core.structure.sums import Shape
from marvex.core.structure.total_names import is_closing_name, is_opening_name, is_part_name, naming
from marvex.sources.readers.grid import SheetRow
from marvex.sources.readers.group_totals import group_totals, totals_below_dated
from marvex.sources.readers.lines_apart import Apart, lines_apart
from marvex.sources.readers.made_table import without_rows
from marvex.sources.readers.sheet_lines import distinct, lines_of
from marvex.sources.readers.sheet_table import Left, SheetLine, SheetTable, Wishes
from marvex.sources.readers.structure_words import (
    added_though_subtracted,
    question,
    said_of,
    said_of_sums,
    set_in_below,
    told_by_figures,
    unreadable,
)
from marvex.sources.readers.structured_columns import found_table
from marvex.sources.readers.unnamed_totals import totals_without_name
from marvex.sources.where import filters_among

_MOST_DATED = 10_000  # rows among which a total is looked for by what stands before it, which takes seconds
_FILLED = 0.75  # of the periods of all lines, where they are those of a statement
_UNNAMED = (  # one, several
    "a row without a name is left out as the sum of others, which the figures alone tell",
    "rows without a name are left out as sums of others, which the figures alone tell",
)
TOTALS_LOOKED_AT = 5  # of dated rows, to see whether each follows its parts


def parts_of_lines(table: SheetTable, texts: Sequence[int], dated: Collection[int], wishes: Wishes) -> dict[int, str]:
    """The rows of lines that by their names are parts of others ("of which diesel"), or checks that come to nothing,
    with their names.
    """
    label = None if dated else _label_place(table, texts, dated, wishes)
    if label is None:
        return {}
    lines = iter(table.rows)
    next((row for row in lines if not is_part_name(row.cells[label])), None)  # what has no line above it is no part
    names = {
        row.number: name
        for row in lines
        if is_part_name(name := row.cells[label]) or is_check(name, table.figures[row.number])
    }
    return {number: name for number, name in names.items() if name not in wishes.named}


def rows_apart(table: SheetTable, texts: Sequence[int], dated: Collection[int], wishes: Wishes) -> Apart:
    """The rows that are no amounts by name, where others are proven to add up without them: counts, checks that are
    off.
    """
    table = filtered(table, wishes)
    label = None if dated else _label_place(table, texts, dated, wishes)
    if label is None or not any(may_be_apart(row.cells[label]) for row in table.rows):
        return Apart()
    lines, structure = _proven(table, label, texts)
    some = [one for one in lines if may_be_apart(one.line.label) and one.label not in wishes.named]
    if structure is not None:
        alone = {lines[at].label for at in of_no_total(structure)}
        return lines_apart(table, [one for one in some if one.label in alone])
    if not some or some != lines[-len(some) :]:
        return Apart()
    # Below what a list comes to, which is named so where it is the last.
    _, above = _proven(without_rows(table, [at for one in some for at in one.numbers]), label, texts)
    return Apart() if above is None else lines_apart(table, some)


def _proven(table: SheetTable, label: int, texts: Sequence[int]) -> tuple[list[SheetLine], Structure | None]:
    """The lines of a table without dates, and their structure where some total is proven and nothing is asked."""
    lines = (lines_of(table, label, texts, ()) if len(table.rows) > 1 else None) or []
    structure = _structure(lines, are_dated=False) if lines else None
    is_proven = structure is not None and structure.asked is None and bool(structure.totals)
    return lines, structure if is_proven else None


def left_of_rows(
    table: SheetTable, texts: Sequence[int], dated: Collection[int], wishes: Wishes, *, are_blocks: bool = False
) -> Left:
    """A table's rows less those that are totals or ratios of others.

    Parameters
    ----------
    texts : the columns that hold names, `dated` those of them that hold dates.
    are_blocks : the headings between rows are told apart by a column, and need not be in names.

    Raises Mistake where the structure cannot be told, or a total's name is proven wrong.
    """
    whole, table = table, filtered(table, wishes)
    label = _label_place(table, texts, dated, wishes)
    try:
        unnamed = {} if label is None else totals_without_name(table, texts, label)
        groups = unnamed or (totals_below_dated(table, texts, wishes.named) if dated else group_totals(table, texts))
    except Mistake as wrong:
        raise (None if wishes.blanks else unreadable(table)) or wrong from None
    # What all rows have that a condition keeps names none of them.
    of_all = {cells.pop() for place in texts if len(cells := {row.cells[place] for row in table.rows}) == 1}
    if groups and not (wishes.named - of_all) & {name for name, *_ in groups.values()}:
        left = left_of_rows(without_rows(whole, groups), texts, dated, wishes, are_blocks=are_blocks)
        by_figures = (_UNNAMED[len(unnamed) > 1],) if unnamed else ()
        return replace(left, said=(*said_of_sums(groups), *left.said), doubts=(*by_figures, *left.doubts))
    lines = lines_of(table, label, texts, dated) if label is not None and len(table.rows) > 1 else None
    if label is None or lines is None:
        return Left(rows=tuple(whole.rows))
    structure = _structure(lines, are_dated=bool(dated) and not _is_grid(lines))
    if structure is None:
        return Left(rows=_named_by_section(whole.rows, label, () if are_blocks else lines))
    ungrouped, lines = lines, _grouped(lines, structure)
    asked = structure.asked
    if asked is None or _is_named(lines[asked.line], wishes):
        if not dated and (set_in := set_in_below(table, lines, structure, label)) is not None:
            raise set_in
        asked = (
            None if dated else missed_head([one.line for one in ungrouped], structure, is_outline=table.is_outline)
        )
        asked = asked or _coded_above(table, lines, structure, label)
    if asked is not None and not _is_named(line := lines[asked.line], wishes):
        of_line = ""
        if _is_stated_total(line.label, wishes.statement):
            of_line = f"row {line.numbers[0]} '{line.label}' is called as a total of the statement and was left out"
        elif is_closing_name(line.label) and _is_without_opening(whole, table, label):
            of_line = f"row {line.numbers[0]} '{line.label}' was left out, as what it begins with is"
        if of_line:
            left = left_of_rows(without_rows(whole, line.numbers), texts, dated, wishes, are_blocks=are_blocks)
            return replace(left, said=(of_line, *left.said))
        if wishes.statement is None or not wishes.statement.lines_of(line.label):
            raise (None if wishes.blanks else unreadable(table)) or question(table, lines, asked, label)
    if not structure.totals and not structure.ratios and not structure.loose_ratios and not structure.unproven:
        told = told_by_figures(lines, structure, set(), is_statement=False)
        return Left(rows=_named_by_section(whole.rows, label, () if are_blocks else ungrouped), doubts=told)
    out = {*range(len(lines))} - {*structure.leaves}
    kept_by_name = {place for place in out if _is_named(lines[place], wishes)}
    is_whole = not kept_by_name and not wishes.is_list and is_statement(structure)
    found = found_table(table, lines, structure, label, wishes) if is_whole else None
    said, cautions = said_of(table, lines, structure, out - kept_by_name, is_statement=found is not None)
    told = told_by_figures(lines, structure, out - kept_by_name, is_statement=found is not None, before=ungrouped)
    if found is not None and (first := may_be_turned(structure, found.statement)):
        told = (*told, f"{first} is below zero and lowers the result, and would raise it in a sheet of debits")
    gone = {number for place in out - kept_by_name for number in lines[place].numbers}
    pairs = zip(ungrouped, lines, strict=True)
    new = [one for before, one in pairs if found or one.label != before.label]
    renamed = {number: one.label for one in new for number in one.numbers}
    rows = tuple(_renamed(row, label, renamed) for row in whole.rows if row.number not in gone)
    if wishes.is_plain and is_signed(structure):
        turned = sorted({place for one in structure.sums for place, sign in one.parts if sign < 0})
        cautions += (added_though_subtracted([lines[place].label for place in turned]),)
    both = _both_kinds(lines, structure, out - kept_by_name)
    return Left(rows=rows, said=said, cautions=cautions, doubts=told, found=found, both_kinds=both)


def _is_named(line: SheetLine, wishes: Wishes) -> bool:
    """Whether a call names a line, as it is shown or as the source has it."""
    return not wishes.named.isdisjoint((line.label, line.line.label))


def _coded_above(table: SheetTable, lines: Sequence[SheetLine], structure: Structure, label: int) -> Asked | None:
    """What has to be asked of a line that is the sum of others by a code beside its name, `1000` of `1010`."""
    rows = {row.number: row for row in table.rows}
    held = {one.line: {place for place, _ in one.parts} for one in structure.sums}
    for place in range(len(table.headings)):
        codes = [rows[one.numbers[0]].cells[place] for one in lines]
        if (
            place == label
            or place in table.places
            or len({*codes}) < len(codes)
            or not all(map(str.isdecimal, codes))
        ):
            continue
        coded = [replace(one.line, label=code) for one, code in zip(lines, codes, strict=True)]
        for line, parts in parents_by_code(coded).items():
            if line not in held and not any({line, *parts} <= of for of in held.values()):
                return Asked(line=line, doubt=Doubt.GROUP, nearest=tuple((part, 1) for part in parts))
    return None


def _is_stated_total(label: str, statement: Statement | None) -> bool:
    """Whether a line is called as a total or a ratio of a statement is, and holds none of its accounts."""
    if statement is None or statement.lines_of(label):
        return False
    return any(one.label == label and not one.accounts for one in statement.lines)


def _both_kinds(lines: Sequence[SheetLine], structure: Structure, out: Collection[int]) -> tuple[str, str] | None:
    """A total of income that is left out and a cost beside it, where both are positive and no total has both."""
    parts = {one.line: {*one.places} for one in structure.sums if one.line in out and one.shape is Shape.PLUS}
    positive = {line.label: place for place, line in enumerate(lines) if min(_told(line), default=-1) >= 0}
    income, costs = income_and_costs(list(positive))
    for total in (positive[one] for one in income):
        beside = [one for one in costs if positive[one] not in {total, *parts.get(total, ())}]
        is_apart = not any(total in of and positive[one] in of for one in beside for of in parts.values())
        if total in parts and beside and is_apart:
            return lines[total].label, beside[-1]
    return None


def _told(line: SheetLine) -> list[Decimal]:
    return [figure for figure in line.line.figures if figure is not None]


def kept_totals(table: SheetTable, texts: Sequence[int], dated: Collection[int], wishes: Wishes) -> tuple[str, ...]:
    """The names of the rows that are totals or parts of others, or are called so, where those are kept."""
    parts = tuple(parts_of_lines(table, texts, dated, wishes).values())
    return (*_kept(table, texts, dated, wishes), *parts)


def _kept(table: SheetTable, texts: Sequence[int], dated: Collection[int], wishes: Wishes) -> tuple[str, ...]:
    table = filtered(table, wishes)
    label = _label_place(table, texts, dated, wishes)
    groups: dict[int, tuple[str, int, int]] = {}
    with suppress(Mistake):  # that they are asked about says that they may be kept
        groups = {} if label is None else totals_without_name(table, texts, label)
    if groups := groups or ({} if dated else group_totals(table, texts)):
        return (
            *(name for name, *_ in groups.values()),
            *_kept(without_rows(table, groups), texts, dated, wishes),
        )
    lines = lines_of(table, label, texts, dated) if label is not None and len(table.rows) > 1 else None
    if lines is None:
        return ()
    structure = _structure(lines, are_dated=bool(dated) and not _is_grid(lines))
    if structure is None:
        return ()
    asked = () if structure.asked is None else (structure.asked.line,)
    ratios = (one.line for one in structure.ratios)
    return tuple(lines[place].label for place in sorted({*structure.totals, *ratios, *asked}))


def _structure(lines: Sequence[SheetLine], *, are_dated: bool) -> Structure | None:
    """What the lines are of one another.

    None of the rows of a ledger whose totals do not follow what they add up: those are looked for among its
    categories, once its rows are added up.
    """
    if not are_dated and (outline := outlined([one.line for one in lines])) is not None:
        return outline
    only_named = are_dated or len(lines) > MOST_SEARCHED  # of more only those with a total's name
    if are_dated and len(lines) > _MOST_DATED:
        return None
    named = [place for place, one in enumerate(lines) if one.line.naming.is_total] if are_dated else []
    if len(named) > TOTALS_LOOKED_AT:
        first = found_structure([one.line for one in lines[: named[TOTALS_LOOKED_AT]]], only_named=True)
        if first.asked is not None or first.unproven:
            return None
    return found_structure([one.line for one in lines], only_named=only_named)


def _is_grid(lines: Sequence[SheetLine]) -> bool:
    """Whether nearly every line has a row for each period, as those of a statement have, which are set side by side."""
    counts = [len(one.numbers) for one in lines]
    return max(counts) > 1 and sum(counts) >= _FILLED * len(lines) * max(counts)


def _is_without_opening(whole: SheetTable, kept: SheetTable, label: int) -> bool:
    """Whether a condition leaves out what a list begins with, so that nothing comes to its closing."""
    numbers = {row.number for row in kept.rows}
    return any(is_opening_name(row.cells[label]) for row in whole.rows if row.number not in numbers)


def filtered(table: SheetTable, wishes: Wishes) -> SheetTable:
    """The table without the rows whose names a condition leaves out: totals are of the rows that are kept."""
    filters = filters_among(wishes.where, (*table.headings, wishes.heading), table.name)
    places = {heading: place for place, heading in enumerate(table.headings)}
    asked = [(at, one) for one in filters if (at := places.get(one.column)) is not None and at not in table.places]
    if not asked:
        return table
    return replace(table, rows=[row for row in table.rows if all(one.keeps(row.cells[at]) for at, one in asked)])


def _is_side(cell: str) -> bool:
    said = version_said(cell)
    return said is not None and not said.rest


def _label_place(table: SheetTable, texts: Sequence[int], dated: Collection[int], wishes: Wishes) -> int | None:
    """The column of the lines' names: as named, else the one that tells most rows apart, codes last."""
    if wishes.label is not None and wishes.label in table.headings:
        place = list(table.headings).index(wishes.label)
        # Where its names come again, the rows of each are told apart by another column.
        names = [cell for row in table.rows if (cell := row.cells[place]) and not naming(cell).is_total]
        if place in texts and (len(texts) == 1 or len(set(names)) == len(names)):
            return place

    def told_apart(place: int) -> tuple[bool, bool, int, int, int]:
        cells = [row.cells[place] for row in rows if row.cells[place]]
        with_letters = [cell for cell in cells if any(map(str.isalpha, cell))]
        own = {cell for cell in cells if not naming(cell).is_total}
        are_sides = all(map(_is_side, own))
        return (
            place not in dated,
            not are_sides,
            len(own),
            len(with_letters),
            sum(" " in cell for cell in with_letters),
        )

    # A row that is called a total in one column may have a code of its own in another.
    rows = [row for row in table.rows if not any(naming(row.cells[one]).is_total for one in texts)] or table.rows
    filled = [place for place in texts if any(row.cells[place] for row in table.rows)]
    return max(filled, key=told_apart, default=None)


def _grouped(lines: Sequence[SheetLine], structure: Structure) -> list[SheetLine]:
    """The lines as the structure has them set in, those of one name told apart by the group that they are in."""
    groups = {
        place: lines[one.line].line.label
        for one in structure.sums
        if one.line < min(place for place, _ in one.parts)
        for place, _ in one.parts
    }
    counted = Counter(one.line.label for one in lines)
    labels = [
        f"{one.line.label} ({groups[place]})" if counted[one.line.label] > 1 and place in groups else one.label
        for place, one in enumerate(lines)
    ]
    return [
        SheetLine(line=line, label=label, numbers=one.numbers)
        for one, line, label in zip(lines, structure.lines, distinct(labels, [""] * len(labels)), strict=True)
    ]


def _named_by_section(rows: Sequence[SheetRow], label: int, lines: Sequence[SheetLine]) -> tuple[SheetRow, ...]:
    """The rows of a plain list, those of one name told apart by the headings that they stand under."""
    names = {
        number: one.label
        for one in lines
        for number in one.numbers
        if one.label.startswith(f"{one.line.label} (") and one.line.label
    }
    return tuple(_renamed(row, label, names) for row in rows)


def _renamed(row: SheetRow, label: int, names: Mapping[int, str]) -> SheetRow:
    name = names.get(row.number)
    if name is None or row.cells[label] == name:
        return row
    return SheetRow(row.number, (*row.cells[:label], name, *row.cells[label + 1 :]), row.indent)
