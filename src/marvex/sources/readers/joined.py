"""Several files, or several sheets of a workbook, as one table: of the same columns, in one unit, of the same lines."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from marvex.core.errors import Mistake, setting
from marvex.sources.headings import RUNNING, parted
from marvex.sources.readers.blocks import SCENARIO
from marvex.sources.readers.file_dates import HEADING as DATES
from marvex.sources.readers.file_dates import dates_of
from marvex.sources.readers.layout import Layout
from marvex.sources.readers.sheet_table import FoundTable
from marvex.sources.readers.source_file import SourceFile
from marvex.sources.scales import currencies_said, power_said

SHEET = "sheet"  # the column that the names of sheets become


def joined(
    parts: Sequence[SourceFile],
    name: str,
    periods: Sequence[str | None],
    *,
    titles: Sequence[str] = (),
    is_hive: bool = False,
) -> SourceFile:
    """The parts as one source.

    Parameters
    ----------
    name : what to call it.
    periods : of the parts by their names, None where one says none.
    titles : of the parts, where it is by them that rows are told apart if not by periods.

    Raises Mistake where they are not of one kind.
    """
    first = parts[0]
    for part in parts[1:]:
        _check_alike(part, first)
    said = tuple(dict.fromkeys(text for part in parts for text in part.said))
    layout, own = _with_all_headings(parts), None
    if layout is not None:
        dates = dates_of(periods, first.path, layout)
        own = (DATES, dates) if dates else _by_titles(titles) if None in periods else None
    if layout is not None and own is not None:
        heading, texts = _free(own[0], layout.headings), own[1]
        parts = [replace(part, own=(heading, text)) for part, text in zip(parts, texts, strict=True)]
        layout = replace(layout, headings=(*layout.headings, heading))
        kind = "sheets" if titles else "files"
        said += (f"the names of the {kind} are read as {heading}, {texts[0]} … {texts[-1]}",)
    return SourceFile(
        name=name,
        path=first.path,
        layout=layout,
        is_numbered=True,
        said=said,
        cautions=tuple(f"{part.name}: {text}" for part in parts for text in part.cautions),
        found=_found(parts),
        kept_totals=tuple(dict.fromkeys(one for part in parts for one in part.kept_totals)),
        titles=first.titles,
        both_kinds=next((part.both_kinds for part in parts if part.both_kinds), None),
        parts_across=first.parts_across if len({part.parts_across for part in parts}) == 1 else (),
        shown=first.shown,
        is_hive=is_hive,
        parts=tuple(parts),
        runs_to_date=all(map(_runs_to_date, parts)),
    )


def _runs_to_date(part: SourceFile) -> bool:
    """Whether its titles, or its own name, say that its figures run to date."""
    return any(RUNNING.search(re.sub("[_-]", " ", text)) for text in (*part.titles, part.name, part.sheet or ""))


def _by_titles(titles: Sequence[str]) -> tuple[str, list[str]] | None:
    """The column that titles become: of scenarios, where each is of another."""
    scenarios = [parted(title).scenario for title in titles]
    if len(set(scenarios)) == len(titles) > 1 and all(scenarios):
        return SCENARIO, [str(one) for one in scenarios]
    return (SHEET, list(titles)) if titles else None


def _free(heading: str, headings: Sequence[str]) -> str:
    is_taken = heading in {one.casefold() for one in headings}
    return f"{heading} by name" if is_taken else heading


def _check_alike(part: SourceFile, first: SourceFile) -> None:
    """Raises Mistake where two parts cannot be one table."""
    alone = f"Read one alone, {setting('sheet', first.sheet)}" if first.sheet else "Read them one by one"
    columns = [set(one.layout.headings) if one.layout else set() for one in (first, part)]
    if not all(parted(heading).period for heading in columns[0] ^ columns[1]):  # a year's months across each
        raise Mistake(f"{part.name} has other columns than {first.name}", f"{alone}, or make their headings alike.")
    units = [(power_said(one.titles), currencies_said(one.titles), _powers(one)) for one in (first, part)]
    if units[0] != units[1]:
        raise Mistake(
            f"{part.name} is in another unit or currency than {first.name}", f"{alone}, or write them in one."
        )


def _with_all_headings(parts: Sequence[SourceFile]) -> Layout | None:
    layout = parts[0].layout
    if layout is None:
        return None
    texts = [text for part in parts if part.layout for text in part.layout.headings]
    return replace(layout, headings=tuple(dict.fromkeys(texts)))


def _found(parts: Sequence[SourceFile]) -> FoundTable | None:
    """The statement that all parts are: that with the most lines, of which others may lack some.

    Raises Mistake where they are not one.
    """
    largest = max(parts, key=lambda one: len(one.found.statement.lines) if one.found else 0)
    for part in parts:
        if largest.found and not (part.found and _is_within(part.found, largest.found)):
            alone = setting("sheet", part.sheet) if part.sheet else "alone"
            raise Mistake(
                f"{part.name} has other lines or totals than {largest.name}",
                f"Read it by itself, {alone}, or say {setting('statement', 'none')}.",
            )
    return largest.found


def _is_within(one: FoundTable, whole: FoundTable) -> bool:
    """Whether a statement is another without some of its lines."""
    lines = {line.label: line for line in whole.statement.lines}
    known = {line.label for line in one.statement.lines}
    return one.column == whole.column and all(
        line.label in lines
        and replace(
            lines[line.label],
            total_of=tuple(part for part in lines[line.label].total_of if part in known),
            section=line.section,
        )
        == line
        for line in one.statement.lines
    )


def _powers(part: SourceFile) -> dict[str, int | None]:
    return {letter: power for letter, power in part.shown_in.items() if power != 0}
