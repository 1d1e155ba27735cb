"""What a request asks of each of its sources: the part of a file, the columns of every role, the rows to keep."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from marvex.core.errors import Mistake, sentence, setting
from marvex.core.exact import POWERS
from marvex.core.structure.statement import Statement
from marvex.core.time.calendar import Grain
from marvex.request.axis import asks_for_time, panel_column
from marvex.request.per_source import NamedSource, conditions_of, said_of
from marvex.request.request import Request
from marvex.request.settings import Settings
from marvex.request.values import names as parted
from marvex.sources.columns_asked import ColumnsAsked, new_column
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.readers.sheet_table import Wishes
from marvex.sources.readers.source_file import Wanted
from marvex.sources.years_said import asked_year

if TYPE_CHECKING:
    from marvex.sources.engine.spreading import Spread

# Settings that arrange or rename the rows of a list, which the lines of a statement are not.
_OF_LISTS = ("order", "keep", "then_by", "brackets", "source_sign", "volume")


def sources_asked(request: Request) -> tuple[AskedOfSource, ...]:
    """What is asked of each source, in order."""
    return tuple(_asked(source, request) for source in request.sources)


def _asked(source: NamedSource, request: Request) -> AskedOfSource:
    settings, names = request.settings, [one.scenario for one in request.sources]

    def said(field: str) -> str | None:
        return said_of(getattr(settings, field), source.scenario, names, field)

    numbers = said("numbers") or "auto"
    amounts = (*_parted(said("amount"), "amount"), *(one for one in (settings.current, settings.base) if one))
    divisors = tuple(filter(None, (settings.per, settings.volume)))
    mentioned = {*amounts}
    where = conditions_of(settings.where, source.scenario, names)
    mentioned |= {value for one in where for value in one.partition("=")[2].split(",")}
    by = _parted(said("by"), "by")
    lookup, lookup_column = _lookup(said("lookup"))
    return AskedOfSource(
        wanted=Wanted(
            source=source.path,
            sheet=said("sheet"),
            cells=said("cells"),
            wishes=Wishes(
                label=by[0] if len(by) == 1 else None,
                named=frozenset(mentioned),
                where=where,
                heading=new_column(said("headings_are")),
                is_across=said("headings_are") not in (None, "period", "scenario"),
                blanks=said("bad_cells") == "blank",
                has_amounts=bool(said("amount")) or settings.current is not None or settings.per is not None,
                amounts=(*amounts, *divisors) if amounts else (),
                measures=(*amounts, *divisors),
                are_all_amounts=said("headings_are") is not None,
                is_list=settings.statement is not None or settings.is_of_list,
                is_plain=settings.statement is not None and settings.statement_file is None,
                statement=request.statement,
                is_down=settings.better == "down",
                keep_parts=said("totals") == "keep",
                named_by_start=settings.year_named == "start",
            ),
            keep_totals=said("totals") == "keep" or settings.is_of_list,
            numbers=numbers,
            year=asked_year(said("year")),
            table=said("table"),
            query=said("query"),
        ),
        columns=_columns(source, request),
        name=source.scenario,
        where=where,
        is_negative=said("source_sign") in ("negative", "credit"),
        sign=said("source_sign"),
        power=None if (unit := said("amounts_in")) is None else POWERS.get(unit, 0),
        blank_bad_cells=said("bad_cells") == "blank",
        numbers=numbers,
        dates=said("dates") or "auto",
        total_as=request.total_as,
        name_map=said("name_map"),
        statement=_signed(request.statement, said("source_sign")),
        account=said("account"),
        spare=settings.unmapped,
        calendar=request.calendar,
        is_year_said=bool(settings.year_starts or settings.weeks),
        lookup=lookup,
        lookup_column=lookup_column or None,
        finds_statement=settings.statement is None and request.total_as.adds_up,
        list_field=next(
            (field for field in _OF_LISTS if getattr(settings, field) and not _walks(request, field)), ""
        ),
        spread=_spread(settings),
        panels=_parted(panel_column(settings), "panels_by"),
    )


def _walks(request: Request, field: str) -> bool:
    """Whether a waterfall takes it for the lines of a statement too."""
    return field == "keep" and "walk" in request.place.takes


def _spread(settings: Settings) -> Spread | None:
    if settings.spread is None:
        return None
    from marvex.sources.engine.spreading import Spread

    return Spread(settings.spread, Grain(settings.every) if settings.every else None, settings.of)


def _columns(source: NamedSource, request: Request) -> ColumnsAsked:
    """The columns that settings name; those of the panels, of the parts and of the brackets are the categories' too."""
    settings, names = request.settings, [one.scenario for one in request.sources]

    def said(field: str) -> tuple[str, ...]:
        return _parted(said_of(getattr(settings, field), source.scenario, names, field), field)

    def one(field: str) -> str | None:
        return said_of(getattr(settings, field), source.scenario, names, field)

    by, inner, fields = said("by"), said("then_by"), ("by", "then_by")
    panels = panel_column(settings)
    if panels is not None and settings.statement_file is not None:
        inner, fields = _parted(panels, "panels_by"), ("by", "panels_by")
    elif panels is not None and by:
        by, inner, fields = _parted(panels, "panels_by"), by, ("panels_by", "by")
    elif panels is not None:
        by, inner, fields = _parted(panels, "panels_by"), (), ("panels_by", "by")
    elif settings.brackets:
        inner, fields = _parted(settings.brackets, "brackets"), ("by", "brackets")
    return ColumnsAsked(
        date=one("date"),
        amounts=said("amount"),
        scenario=one("scenario"),
        current=settings.current,
        base=settings.base,
        by=by,
        headings_are=one("headings_are"),
        year=asked_year(one("year")),
        dates=one("dates") or "auto",
        needs_amounts=request.total_as.needs_amounts,
        per=settings.per or settings.volume,
        along_time=asks_for_time(settings, request.place),
        then_by=inner,
        fields=(*fields, "per" if settings.per else "volume"),
        is_by_panel=fields[0] == "panels_by",
        of=source.scenario if len(names) > 1 and fields[0] == "by" else None,
    )


def _signed(statement: Statement | None, sign: str | None) -> Statement | None:
    """The statement for a source that is said to sign its amounts so, whatever the statement's file says."""
    if statement is None or sign is None:
        return statement
    # The kinds of lines, of costs or not, that are turned.
    turned = {"positive": (), "negative": (False, True), "effect": (True,), "credit": (False,)}[sign]
    return replace(
        statement, lines=tuple(replace(line, is_negative=line.is_cost in turned) for line in statement.lines)
    )


def _lookup(text: str | None) -> tuple[str | None, str]:
    """The file of a lookup, and the column that it is joined by, where that is said."""
    if text is None or Path(text).exists():
        return text, ""
    path, sign, column = text.rpartition(":")
    return (path, column) if sign else (text, "")


def _parted(text: str | None, field: str) -> tuple[str, ...]:
    """The columns that a setting names, separated by commas."""
    if not text:
        return ()
    try:
        return parted(text)
    except ValueError as problem:
        raise Mistake(f"{setting(field)} '{text}' cannot be read", sentence(str(problem))) from None
