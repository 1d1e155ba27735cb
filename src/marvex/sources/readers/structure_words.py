"""What is said of the structure of a sheet: what was left out, what is rounded, and what has to be asked."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import Decimal

from marvex.core.compare.point import NO_NAME
from marvex.core.errors import Mistake, listed, sentence, setting
from marvex.core.exact import ZERO, total
from marvex.core.structure.structure_found import Asked, Doubt, Structure
from marvex.core.structure.sums import Shape
from marvex.core.structure.total_names import (
    Naming,
    is_plain_total,
    is_remainder_name,
    is_set_in,
    is_total_name,
)
from marvex.sources.cells import is_absent
from marvex.sources.readers.sheet_table import SheetLine, SheetTable

_PARTS_NAMED = 5
_TOTALS_NAMED = 4


def said_of(
    table: SheetTable, lines: Sequence[SheetLine], structure: Structure, out: set[int], *, is_statement: bool
) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """What is said of the rows left out, and what has to be a caution."""
    said, cautions, rounded, sums = [], [], list[str](), {}
    for one in structure.sums:
        place, names = lines[one.line], [line.label for line in lines]
        if one.line in out and not is_statement:
            if one.shape is Shape.PLUS:
                first, last = (lines[one.parts[end][0]].numbers[0] for end in (0, -1))
                sums[place.numbers[0]] = (place.label, first, last)
            else:
                said.append(f"row {place.numbers[0]} '{place.label}' is {spoken(names, one.parts)} and was left out")
        if one.fit.off:
            cells = listed((_cell(table, place, column) for column, _ in one.fit.off), 4)
            rounded.append(f"{cells} '{place.label}' (by {plainly(max(abs(off) for _, off in one.fit.off))})")
    for ratio in structure.ratios:
        if ratio.line in out and not is_statement:
            of = f"{lines[ratio.over].label} ÷ {lines[ratio.under].label}"
            said.append(f"row {lines[ratio.line].numbers[0]} '{lines[ratio.line].label}' is {of} and was left out")
    said += said_of_sums(sums)
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


def told_by_figures(
    lines: Sequence[SheetLine],
    structure: Structure,
    out: set[int],
    *,
    is_statement: bool,
    before: Sequence[SheetLine] = (),
) -> tuple[str, ...]:
    """What is, or may be, taken for a total though no name says so; of a statement only where none of its names does.

    Parameters
    ----------
    before : the lines as they stand in the sheet, where being set in says what a line is the total of.
    """
    unnamed = [
        one.line
        for one in structure.sums
        if lines[one.line].line.naming is Naming.NONE
        and not all(before[place].line.indent > before[one.line].line.indent for place, _ in one.parts)
    ]
    if is_statement:
        told = unnamed if len(unnamed) == len(structure.sums) else []
        are = "is taken for a total" if len(told) == 1 else "are taken for totals"
    else:
        told = [place for place in unnamed if place in out]
        are = "is left out as the sum" if len(told) == 1 else "are left out as sums"
    names = listed((lines[place].label for place in told), _TOTALS_NAMED)
    found = [f"{names} {are} of other lines, which the figures alone tell"] if told else []
    if is_statement and (apart := _in_no_total(structure)):
        names = listed((lines[place].label for place in apart), _TOTALS_NAMED)
        found.append(f"{names} {'is' if len(apart) == 1 else 'are'} in no total of the table")
    if structure.maybe:
        names = listed((lines[place].label for place in structure.maybe), _TOTALS_NAMED)
        come = (
            "comes to the lines before it, and counts" if len(structure.maybe) == 1 else "come to others, and count"
        )
        found.append(f"{names} {come} beside them")
    if not structure.sums and _are_pairs(lines):
        found.append("each line is the same as the one after it, and both count")
    if not is_statement and (outside := _outside_total(lines, structure)):
        names = listed((lines[place].label for place in outside), _TOTALS_NAMED)
        are, count = ("is", "counts") if len(outside) == 1 else ("are", "count")
        total = lines[_whole(lines, structure)].label
        found.append(f"{names} {are} not in '{total}' of the table, and {count} here")
    return tuple(found)


def _in_no_total(structure: Structure) -> list[int]:
    """The lines and totals above the last total that are parts of none: one may be lacking that leads to the result.

    Not a total that is the same as that, as one side of a balance is.
    """
    held = {place for one in structure.sums for place in one.places}
    beside = {one.line for one in structure.sums if one.shape is Shape.MEMO}
    last = max((one.line for one in structure.sums if one.line not in beside), default=0)
    # What stands above all of its parts is the total of the last one, too.
    parts = {one.line: one.places for one in structure.sums}
    above, waiting = set[int](), [last]
    while waiting:
        part = waiting.pop()
        more = [line for line, places in parts.items() if part in places and line not in above]
        above.update(more)
        waiting += more
    figures = [line.figures for line in structure.lines]
    return [
        place
        for place in sorted({*structure.leaves, *structure.totals} - held - beside)
        if place < last and place not in above and any(figures[place]) and figures[place] != figures[last]
    ]


def _are_pairs(lines: Sequence[SheetLine]) -> bool:
    """Whether lines stand two by two with the same figures, as groups of one line do."""
    figures = [one.line.figures for one in lines]
    both = list(zip(figures[::2], figures[1::2], strict=False))
    is_even = len(figures) % 2 == 0 and len(set(both)) > 1
    return is_even and all(one == other and any(one) for one, other in both)


def _outside_total(lines: Sequence[SheetLine], structure: Structure) -> list[int]:
    """The lines that the total of the table does not hold."""
    parts = {one.line: [place for place, _ in one.parts] for one in structure.sums}
    whole = _whole(lines, structure)
    if whole < 0:
        return []
    held, waiting = set[int](), [whole]
    while waiting:
        below = parts.get(waiting.pop(), [])
        held.update(below)
        waiting += below
    return [place for place in structure.leaves if place not in held and any(lines[place].line.figures)]


def _whole(lines: Sequence[SheetLine], structure: Structure) -> int:
    """The total of a table: its last line, or the last that is called a total and nothing else; -1 without one.

    Where several are called the same, each is the total of a block.
    """
    sums = sorted(one.line for one in structure.sums)
    is_last = bool(sums) and sums[-1] == len(lines) - 1
    is_whole = is_plain_total if is_last else is_total_name
    whole = next((place for place in reversed(sums[-1:] if is_last else sums) if is_whole(lines[place].label)), -1)
    alike = [place for place in sums if lines[place].line.label == lines[whole].line.label]
    return whole if len(alike) == 1 else -1


def said_of_sums(sums: Mapping[int, tuple[str, int, int]]) -> tuple[str, ...]:
    """What is said of the sums that were left out: each with the rows that it is of, where they are few."""
    if len(sums) <= _TOTALS_NAMED:
        return tuple(
            f"row {number} '{name}' is the sum of {f'rows {first}–{last}' if first != last else f'row {first}'} "
            "and was left out"
            for number, (name, first, last) in sums.items()
        )
    rows = listed((f"{number} '{name}'" for number, (name, *_) in sums.items()), _TOTALS_NAMED)
    side = "below" if all(number < first for number, (_, first, _) in sums.items()) else "above"
    return (f"rows {rows} are the sums of rows {side} them and were left out",)


def _cell(table: SheetTable, line: SheetLine, column: int) -> str:
    width = len(table.places)
    if column >= width:
        return f"row {_row(table, line, column)}"
    return f"{table.letters[table.places[column]]}{line.numbers[0]}"


def _row(table: SheetTable, line: SheetLine, column: int) -> int:
    """The row of a line's figure, where a line has several rows: one for each date of a list."""
    figure, place = line.line.figures[column], column % len(table.places)
    return next((one for one in line.numbers if table.figures[one][place] == figure), line.numbers[0])


def spoken(labels: Sequence[str], parts: Sequence[tuple[int, int]]) -> str:
    """Signed parts as words: 'Shop sales + Online sales − Goods sold'."""
    if len(parts) > _PARTS_NAMED:
        kept = [*parts[: _PARTS_NAMED - 2], parts[-1]]
        words = [f"{'−' if sign < 0 else '+'} {labels[place]}" for place, sign in kept]
        return " ".join((*words[:-1], "…", words[-1])).removeprefix("+ ")
    return " ".join(f"{'−' if sign < 0 else '+'} {labels[place]}" for place, sign in parts).removeprefix("+ ")


def question(table: SheetTable, lines: Sequence[SheetLine], asked: Asked, label: int) -> Mistake:
    """The question that a table leaves open, with the ways on."""
    line, names = lines[asked.line], [one.label for one in lines]
    at, column = f"{table.name}, row {line.numbers[0]} '{line.label}'", table.headings[label]
    is_closing = line.line.naming is Naming.CLOSING
    ways = f"{setting('plug', 'NAME')} makes it a step of a waterfall, " if is_closing else ""
    own = line.line.label or NO_NAME  # as the source has it, which may be numbered here
    ways += f"{setting('where', f'{column}!={own}')} leaves the row out, {setting('totals', 'keep')} keeps it"
    match asked.doubt:
        case Doubt.UNPROVEN if asked.off is not None:
            place, off = asked.off
            where = _heading(table, place)
            figure = line.line.figures[place] or Decimal(0)
            if not off:
                return Mistake(
                    f"{at} has the name of a total, and {spoken(names, asked.nearest)} come to it, which may be chance",
                    f"{ways}.",
                )
            at = f"{table.name}, row {_row(table, line, place)} '{line.label}'"
            return Mistake(
                f"{at} is {plainly(figure)}{where}, but {spoken(names, asked.nearest)} come to "
                f"{plainly(figure - off)}: {plainly(abs(off))} {'more' if off > 0 else 'less'}",
                f"Mend the table; or {ways}.",
            )
        case Doubt.UNPROVEN:
            return Mistake(f"{at} has the name of a total, and no lines come to it", f"Mend the table; or {ways}.")
        case Doubt.GROUP:
            side = "below" if asked.nearest[0][0] > asked.line else "above"
            parts = [names[place] for place, _ in sorted(asked.nearest)]
            told = " and ".join(parts) if len(parts) == 2 else listed(parts, _PARTS_NAMED)
            return Mistake(f"{at} is the sum of {told} {side} it", f"{ways}.")
        case Doubt.DIFFERENCE:
            said = f"{at} is {spoken(names, asked.nearest)}, and would count beside them"
            drawn, taken = "", [names[place] for place, sign in asked.nearest if sign < 0]
            if len(taken) == len(asked.nearest) - 1 and is_remainder_name(line.label):
                drawn = f"a waterfall with {setting('deductions', ','.join(taken))} shows how it comes about; "
            statement = f"a statement file ({setting('statement')}) makes it a total"
            return Mistake(said, sentence(f"{drawn}{statement}; or {ways}"))
        case Doubt.LEFT_OUT:
            other = names[asked.left_out] if asked.left_out is not None else ""
            return Mistake(
                f"{at} is the sum of the lines before it without '{other}' only",
                f"Mend the table; or {setting('where', f'{column}!={other}')} leaves that out; or {ways}.",
            )
    different = dict.fromkeys(f"{names[one.line]} = {spoken(names, one.parts)}" for one in asked.sums)
    readings = " or ".join(list(different)[:2])
    return Mistake(
        f"{at} can be read in several ways: {readings}",
        f"Say which in a statement file ({setting('statement')}); or {ways}.",
    )


def set_in_below(table: SheetTable, lines: Sequence[SheetLine], structure: Structure, label: int) -> Mistake | None:
    """What is to be said of lines that are set in below another as its parts are, which they do not come to."""
    held = {place for one in structure.sums for place in (one.line, *(part for part, _ in one.parts))}
    indents = {row.number: row.indent for row in table.rows}
    for head, line in enumerate(lines):
        depth = indents[line.numbers[0]]
        below = []
        for place in range(head + 1, len(lines)):
            number = lines[place].numbers[0]
            if indents[number] <= depth or table.sections.get(number) != table.sections.get(line.numbers[0]):
                break
            below.append(place)
        is_marked = all(is_set_in(lines[place].line.label) for place in below)
        is_deep = len(below) > 1 and all(indents[lines[place].numbers[0]] > depth + 1 for place in below)
        if not below or not (is_marked or is_deep) or held & {head, *below} or not _are_within(lines, head, below):
            continue
        names = listed((lines[place].label for place in below), _TOTALS_NAMED)
        are, parts = ("is", "a part of it is") if len(below) == 1 else ("are", "its parts are")
        condition = f"{table.headings[label]}!={','.join(lines[place].label for place in below)}"
        return Mistake(
            f"{table.name}, row {lines[below[0]].numbers[0]}: {names} {are} set in below '{line.label}', as {parts}, "
            "and would be added up with it",
            f"{setting('where', condition)} leaves {'it' if len(below) == 1 else 'them'} out, "
            f"{setting('totals', 'keep')} adds up all.",
        )
    return None


def _are_within(lines: Sequence[SheetLine], head: int, below: Sequence[int]) -> bool:
    """Whether lines come to no more than another in every column, and to something in one."""
    whole = lines[head].line.figures
    sums = [
        total(one for place in below if (one := lines[place].line.figures[at]) is not None)
        for at in range(len(whole))
    ]
    pairs = [(its or ZERO, own) for its, own in zip(whole, sums, strict=True)]
    return any(own for _, own in pairs) and all(
        own == 0 or (its * own > 0 and abs(own) <= abs(its)) for its, own in pairs
    )


def unreadable(table: SheetTable) -> Mistake | None:
    """The first amount that is no figure, which is told before what does not add up for want of it."""
    # Columns that the call is not about have no figures here.
    asked = [at for at in range(len(table.places)) if any(row[at] is not None for row in table.figures.values())]
    for row in table.rows:
        for at in asked:
            place = table.places[at]
            cell = row.cells[place]
            if cell and table.figures[row.number][at] is None and not is_absent(cell):
                return Mistake(
                    f"{table.name}, cell {table.letters[place]}{row.number}: '{cell}' is not a figure",
                    f"{setting('bad_cells', 'blank')} reads such cells as absent.",
                )
    return None


def plainly(figure: Decimal) -> str:
    """A figure with its own decimals and no more."""
    return f"{figure.normalize():,f}".replace("-", "−")


def _heading(table: SheetTable, place: int) -> str:
    width = len(table.places)
    return f" in {table.headings[table.places[place % width]]}" if width > 1 else ""


def added_though_subtracted(labels: Sequence[str]) -> str:
    is_one = len(labels) == 1
    return (
        f"{listed(labels, 4)} {'is' if is_one else 'are'} added up as in a list, though totals of the table subtract "
        f"{'it' if is_one else 'them'}"
    )
