"""The structure of a sheet: its rows and columns as lines, what of them is left out, and the statement they make."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from marvex.core.errors import Mistake, listed, setting
from marvex.core.exact import ZERO, total
from marvex.core.structure.evidence import TableLine
from marvex.core.structure.finder import Asked, Doubt, Structure, found_structure
from marvex.core.structure.found_statement import is_signed, is_statement, statement_of
from marvex.core.structure.statement import Statement
from marvex.core.structure.sums import Shape
from marvex.core.structure.total_names import Naming, is_total_name, naming, namings
from marvex.sources.readers.grid import SheetRow
from marvex.sources.roles import parted
from marvex.sources.where import parse_filters

ROWS_LOOKED_AT = 400  # rows of which each is tried; of more only those with a total's name
_PARTS_NAMED = 5
_MOST_COLUMNS = 60  # that may be lines of a statement
_ROWS_SAMPLED = 200  # of a table whose columns are looked at


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundTable:
    """The statement that a table was found to be.

    Parameters
    ----------
    column : the heading of the column of its lines; None where its lines are columns.
    is_signed : its lines cannot just be added up, since some are subtracted.
    notes : each total with its parts, for who asks.
    """

    statement: Statement
    column: str | None
    is_signed: bool
    notes: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetTable:
    """What of a sheet the finder is given: rows of figures, and where their names stand.

    Parameters
    ----------
    name : what to call the source in a message.
    headings, letters : of all columns.
    places : the columns of amounts.
    figures : of each row by its number, in step with `places`.
    percents : the rows, by their numbers, that are written in per cent.
    sections : the heading that stands before a row, by its number; empty where a blank line does.
    """

    name: str
    headings: Sequence[str]
    letters: Sequence[str]
    rows: Sequence[SheetRow]
    places: Sequence[int]
    figures: Mapping[int, Sequence[Decimal | None]]
    percents: frozenset[int]
    sections: Mapping[int, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Left:
    """What is left of a table's rows, what was said of the others, and the statement that they are.

    Parameters
    ----------
    rows : those that are lines of their own, under the names by which the statement knows them.
    said : what was left out with proof, `cautions` without.
    """

    rows: tuple[SheetRow, ...]
    said: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    found: FoundTable | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Wishes:
    """What a call says of the structure.

    Parameters
    ----------
    label : the column of the lines, where it is named.
    named : names that options mention, which are never left out.
    where : conditions on the rows; one that a name does not meet is no line.
    is_list : no statement is to be made of it; `is_plain` where just that is said.
    has_amounts : columns of amounts are named, so that its columns are no lines.
    is_down : more is bad news.
    """

    label: str | None = None
    named: frozenset[str] = frozenset()
    where: tuple[str, ...] = ()
    has_amounts: bool = False
    is_list: bool = False
    is_plain: bool = False
    is_down: bool = False


def left_of_rows(table: SheetTable, texts: Sequence[int], dated: Collection[int], wishes: Wishes) -> Left:
    """A table's rows less those that are totals or ratios of others.

    Parameters
    ----------
    texts : the columns that hold names, `dated` those of them that hold dates.

    Raises Mistake where the structure cannot be told, or a total's name is proven wrong.
    """
    whole, table = table, _filtered(table, texts, wishes)
    label = _label_place(table, texts, dated, wishes)
    lines = _lines(table, label, texts, dated) if label is not None and len(table.rows) > 1 else None
    if label is None or lines is None:
        return Left(rows=tuple(whole.rows))
    structure = found_structure([one.line for one in lines], only_named=bool(dated) or len(lines) > ROWS_LOOKED_AT)
    if structure.asked is not None and not _is_named(lines[structure.asked.line].label, wishes):
        raise _asked(table, lines, structure.asked, label)
    if not structure.totals and not structure.ratios and not structure.loose_ratios and not structure.unproven:
        return Left(rows=tuple(whole.rows))
    out = {place for place in range(len(lines)) if place not in structure.leaves}
    kept_by_name = {place for place in out if _is_named(lines[place].label, wishes)}
    is_whole = not kept_by_name and not wishes.is_list and is_statement(structure)
    found = _found(table, lines, structure, label, wishes) if is_whole else None
    said, cautions = _said(table, lines, structure, out - kept_by_name, is_statement=found is not None)
    gone = {number for place in out - kept_by_name for number in lines[place].numbers}
    renamed = {number: one.label for one in lines for number in one.numbers} if found else {}
    rows = tuple(_renamed(row, label, renamed) for row in whole.rows if row.number not in gone)
    if wishes.is_plain and is_signed(structure):
        turned = sorted({place for one in structure.sums for place, sign in one.parts if sign < 0})
        cautions += (_added_though_subtracted([lines[place].label for place in turned]),)
    return Left(rows=rows, said=said, cautions=cautions, found=found)


def _added_though_subtracted(labels: Sequence[str]) -> str:
    is_one = len(labels) == 1
    return (
        f"{listed(labels, 4)} {'is' if is_one else 'are'} added up as in a list, though totals of the table subtract "
        f"{'it' if is_one else 'them'}"
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Line:
    """A line of the table and the rows that it is of: several where other columns tell them apart."""

    line: TableLine
    label: str
    numbers: tuple[int, ...]


def kept_totals(table: SheetTable, texts: Sequence[int], dated: Collection[int], wishes: Wishes) -> tuple[str, ...]:
    """The names of the rows that are totals of others, or are called so, where those are kept."""
    table = _filtered(table, texts, wishes)
    label = _label_place(table, texts, dated, wishes)
    lines = _lines(table, label, texts, dated) if label is not None and len(table.rows) > 1 else None
    if lines is None:
        return ()
    structure = found_structure([one.line for one in lines], only_named=bool(dated) or len(lines) > ROWS_LOOKED_AT)
    asked = () if structure.asked is None else (structure.asked.line,)
    return tuple(lines[place].label for place in sorted({*structure.totals, *asked}))


def _filtered(table: SheetTable, texts: Sequence[int], wishes: Wishes) -> SheetTable:
    """The table without the rows whose names a condition leaves out: totals are of the rows that are kept."""
    filters = parse_filters(wishes.where, table.headings, table.name)
    places = {heading: place for place, heading in enumerate(table.headings)}
    asked = [(places[one.column], one) for one in filters if places[one.column] in texts]
    if not asked:
        return table
    return replace(table, rows=[row for row in table.rows if all(one.keeps(row.cells[at]) for at, one in asked)])


def _label_place(table: SheetTable, texts: Sequence[int], dated: Collection[int], wishes: Wishes) -> int | None:
    """The column of the lines' names: as named, else the one that tells most rows apart, codes last."""
    if wishes.label is not None and wishes.label in table.headings:
        place = list(table.headings).index(wishes.label)
        if place in texts:
            return place

    def told_apart(place: int) -> tuple[bool, int, int]:
        cells = [row.cells[place] for row in table.rows if row.cells[place]]
        has_letters = sum(any(map(str.isalpha, cell)) and " " in cell for cell in cells)
        return place not in dated, len(set(cells)), has_letters

    filled = [place for place in texts if any(row.cells[place] for row in table.rows)]
    return max(filled, key=told_apart, default=None)


def _lines(table: SheetTable, label: int, texts: Sequence[int], dated: Collection[int]) -> list[_Line] | None:
    """The lines in order: a row each, or, where names come again under other keys, all rows of a name as one.

    None where nothing speaks for a total among dated rows, or names come again without a key.
    """
    names = [_name(row, label, texts) for row in table.rows]
    has_names = any(naming(name).is_total for name in set(names))
    if dated and not has_names:
        return None
    is_unique = len({row.cells[label] for row in table.rows}) == len(table.rows)
    keys = [] if is_unique else _keys(table, label, texts)
    if is_unique or not keys:
        if not is_unique and not has_names and _is_ledger(table, label):
            return None
        named_as = namings(names)
        labels = _distinct(names, [table.sections.get(row.number, "") for row in table.rows])
        indents = _levels([row.indent for row in table.rows])
        return [
            _Line(
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


def _pivoted(table: SheetTable, label: int, keys: Sequence[int]) -> list[_Line]:
    """Each name as one line, whose figures are those of all its rows side by side."""
    columns = {key: at for at, key in enumerate(dict.fromkeys(_key(row, keys) for row in table.rows))}
    width = len(table.places)
    found: dict[str, list[SheetRow]] = {}
    for row in table.rows:
        found.setdefault(row.cells[label], []).append(row)
    lines = []
    for name, rows in found.items():
        figures: list[Decimal | None] = [None] * (width * len(columns))
        for row in rows:
            start = columns[_key(row, keys)] * width
            figures[start : start + width] = table.figures[row.number]
        line = TableLine(
            label=name,
            figures=tuple(figures),
            naming=naming(name),
            is_percent=all(row.number in table.percents for row in rows),
        )
        lines.append(_Line(line=line, label=name, numbers=tuple(row.number for row in rows)))
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


def _distinct(names: Sequence[str], sections: Sequence[str]) -> list[str]:
    """Each name once: one that comes again is told apart by the heading that it stands under."""
    counted, seen = Counter(names), Counter[str]()
    found, under = [], ""
    for name, section in zip(names, sections, strict=True):
        under = section or under
        shown = f"{name} ({under})" if counted[name] > 1 and under else name
        seen[shown] += 1
        found.append(shown if seen[shown] == 1 else f"{shown} {seen[shown]}")
    return found


def _is_named(label: str, wishes: Wishes) -> bool:
    return label in wishes.named


def _renamed(row: SheetRow, label: int, names: Mapping[int, str]) -> SheetRow:
    name = names.get(row.number)
    if name is None or row.cells[label] == name:
        return row
    return SheetRow(row.number, (*row.cells[:label], name, *row.cells[label + 1 :]), row.indent)


def _found(
    table: SheetTable, lines: Sequence[_Line], structure: Structure, label: int | None, wishes: Wishes
) -> FoundTable:
    labels = [one.label for one in lines]
    sections = {
        place: table.sections[one.numbers[0]]
        for place, one in enumerate(lines)
        if one.numbers and table.sections.get(one.numbers[0])
    }
    return FoundTable(
        statement=statement_of(structure, labels, sections, is_down=wishes.is_down),
        column=None if label is None else table.headings[label],
        is_signed=is_signed(structure),
        notes=tuple(f"{labels[one.line]} = {_spoken(labels, one.parts)}" for one in structure.sums)
        + tuple(f"{labels[one.line]} = {labels[one.over]} ÷ {labels[one.under]}" for one in structure.ratios),
    )


def _said(
    table: SheetTable, lines: Sequence[_Line], structure: Structure, out: set[int], *, is_statement: bool
) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """What is said of the rows left out, and what has to be a caution."""
    said, cautions, rounded = [], [], list[str]()
    for one in structure.sums:
        place, names = lines[one.line], [line.label for line in lines]
        if one.line in out and not is_statement:
            if one.shape is Shape.PLUS and _is_run(one.parts):
                first, last = (lines[one.parts[end][0]].numbers[0] for end in (0, -1))
                of = f"the sum of rows {first}–{last}"
            else:
                of = _spoken(names, one.parts)
            said.append(f"row {place.numbers[0]} '{place.label}' is {of} and was left out")
        if one.fit.off:
            cells = listed((_cell(table, place, column) for column, _ in one.fit.off), 4)
            rounded.append(f"{cells} '{place.label}' (by {plainly(max(abs(off) for _, off in one.fit.off))})")
    if rounded:
        cautions.append(
            f"{listed(rounded, 6)} {'is' if len(rounded) == 1 else 'are'} not just the sum of their parts, which is "
            "taken for rounding: the parts count"
        )
    for at in structure.loose_ratios:
        if at in out:
            cautions.append(
                f"row {lines[at].numbers[0]} '{lines[at].label}' is in per cent, of no two lines, and was left out"
            )
    for at in structure.unproven:
        cautions.append(
            f"row {lines[at].numbers[0]} '{lines[at].label}' is taken for a line like the others, "
            "though its name is a total's"
        )
    return tuple(said), tuple(cautions)


def _is_run(parts: Sequence[tuple[int, int]]) -> bool:
    places = sorted(place for place, _ in parts)
    return len(places) > 1


def _cell(table: SheetTable, line: _Line, column: int) -> str:
    width = len(table.places)
    if column >= width:
        return f"row {line.numbers[min(column // width, len(line.numbers) - 1)]}"
    return f"{table.letters[table.places[column]]}{line.numbers[0]}"


def _spoken(labels: Sequence[str], parts: Sequence[tuple[int, int]]) -> str:
    """Signed parts as words: 'Shop sales + Online sales − Goods sold'."""
    if len(parts) > _PARTS_NAMED:
        kept = [*parts[: _PARTS_NAMED - 2], parts[-1]]
        words = [f"{'−' if sign < 0 else '+'} {labels[place]}" for place, sign in kept]
        return " ".join((*words[:-1], "…", words[-1])).removeprefix("+ ")
    return " ".join(f"{'−' if sign < 0 else '+'} {labels[place]}" for place, sign in parts).removeprefix("+ ")


def _asked(table: SheetTable, lines: Sequence[_Line], asked: Asked, label: int) -> Mistake:
    """The question that a table leaves open, with the ways on."""
    line, names = lines[asked.line], [one.label for one in lines]
    at, column = f"{table.name}, row {line.numbers[0]} '{line.label}'", table.headings[label]
    is_closing = line.line.naming is Naming.CLOSING
    ways = f"{setting('plug', 'NAME')} makes it a step of a waterfall, " if is_closing else ""
    ways += f"{setting('where', f'{column}!={line.label}')} leaves the row out, {setting('totals', 'keep')} keeps it"
    match asked.doubt:
        case Doubt.UNPROVEN if asked.off is not None:
            place, off = asked.off
            where = _heading(table, place)
            figure = line.line.figures[place] or Decimal(0)
            return Mistake(
                f"{at} is {plainly(figure)}{where}, but {_spoken(names, asked.nearest)} come to "
                f"{plainly(figure - off)}: {plainly(abs(off))} {'more' if off > 0 else 'less'}",
                f"Mend the table; or {ways}.",
            )
        case Doubt.UNPROVEN:
            return Mistake(f"{at} has the name of a total, and no lines come to it", f"Mend the table; or {ways}.")
        case Doubt.LEFT_OUT:
            other = names[asked.left_out] if asked.left_out is not None else ""
            return Mistake(
                f"{at} is the sum of the lines before it without '{other}' only",
                f"{setting('where', f'{column}!={other}')} leaves that out; or {ways}.",
            )
    readings = listed(
        dict.fromkeys(f"{names[one.line]} = {_spoken(names, one.parts)}" for one in asked.sums), 2
    ).replace(" and ", " or ")
    return Mistake(
        f"{at} can be read in several ways: {readings}",
        f"Say which in a statement file ({setting('statement')}); or {ways}.",
    )


def plainly(figure: Decimal, *, sign: bool = False) -> str:
    """A figure with its own decimals and no more."""
    text = f"{figure.normalize():{'+' if sign else ''},f}"
    return text.replace("-", "−")


def _heading(table: SheetTable, place: int) -> str:
    width = len(table.places)
    return f" in {table.headings[table.places[place % width]]}" if width > 1 and place < width else ""


def statement_of_columns(table: SheetTable, wishes: Wishes) -> FoundTable | None:
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
    return _found(table, [_Line(line=one, label=one.label, numbers=()) for one in lines], structure, None, wishes)


def left_of_columns(
    table: SheetTable, kinds: Sequence[tuple[str, bool]], named: frozenset[str]
) -> list[tuple[int, str]]:
    """The columns that are totals of others, each with what is said of it.

    Parameters
    ----------
    kinds : of each column of amounts, in order, what it is beside its period, and whether it is called a total.
    named : headings that options mention.
    """
    rows = [table.figures[row.number] for row in table.rows]
    groups: dict[str, list[int]] = {}
    for at, (kind, _) in enumerate(kinds):
        groups.setdefault(kind, []).append(at)
    found: dict[int, str] = {}
    for group in groups.values():
        lines = [
            _as_line(table.headings[table.places[at]], [row[at] for row in rows[:_ROWS_SAMPLED]], kinds[at])
            for at in group
        ]
        structure = found_structure(lines)
        for one in structure.sums:
            parts, at = [group[place] for place, _ in one.parts], group[one.line]
            place = table.places[at]
            is_enough = len(parts) > 2 or kinds[at][1]
            if (
                one.shape is Shape.PLUS
                and table.headings[place] not in named
                and is_enough
                and _holds(rows, at, parts)
            ):
                first, last = (table.letters[table.places[end]] for end in (parts[0], parts[-1]))
                found[place] = (
                    f"column {table.letters[place]} '{table.headings[place]}' is the sum of columns {first}–{last} "
                    "and was left out"
                )
    return sorted(found.items())


def _as_line(heading: str, figures: Sequence[Decimal | None], kind: tuple[str, bool]) -> TableLine:
    name = Naming.TOTAL if kind[1] or is_total_name(heading) else Naming.NONE
    return TableLine(label=heading, figures=tuple(figures), naming=name)


def _holds(rows: Sequence[Sequence[Decimal | None]], at: int, parts: Sequence[int]) -> bool:
    """Whether a column is the sum of others in all rows, those that were not looked at among them."""
    later = rows[_ROWS_SAMPLED:]
    return all(total(row[part] or ZERO for part in parts) == (row[at] or ZERO) for row in later)
