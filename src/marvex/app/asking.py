"""What a call says of its sources, one by one: `actual=ledger.csv`, `--amount budget=Plan`."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from marvex.core.compare.asked import SidesAsked
from marvex.core.compare.totals import TotalAs
from marvex.core.errors import Mistake, did_you_mean, setting
from marvex.core.time.base_window import Pairing
from marvex.core.time.calendar import Calendar, Grain
from marvex.core.time.notation import read_calendar, read_widening
from marvex.core.time.widening import Reach, Widening
from marvex.request.settings import GRAINS, WORDS_OF_SOURCE, Settings
from marvex.request.statement_file import statement_from
from marvex.request.values import names as parted
from marvex.sources import roles
from marvex.sources.engine.source import AskedOfSource
from marvex.sources.readers.files import Wanted


def asked_of(
    sources: Sequence[str], settings: Settings, total_as: TotalAs, calendar: Calendar
) -> list[AskedOfSource]:
    """What is asked of each source; raises Mistake where several are not told apart."""
    named = [_named(source) for source in sources]
    names = [name for name, _ in named if name is not None]
    if len(named) > 1 and len(set(names)) < len(named):
        raise Mistake(
            "several sources need the scenario that each holds, and each another",
            "Write them as actual=ledger.csv budget=plan.xlsx.",
        )
    return [replace(_asked(name, path, names, settings, total_as), calendar=calendar) for name, path in named]


def calendar_of(settings: Settings) -> Calendar:
    """The reporting calendar that the settings describe."""
    return read_calendar(settings.year_starts, settings.year_named, settings.weeks, settings.year_ends)


def sides_asked(settings: Settings, window: str | None, versus: str | None, calendar: Calendar) -> SidesAsked:
    """What the call says of the two sides of one comparison; points along time are asked for by the caller."""
    pairing = None
    if settings.match is not None or settings.leap is not None:
        pairing = Pairing(settings.match == "weekday", settings.leap == "feb28")
    if pairing is not None and pairing.by_weekday and pairing.leap_on_feb28:
        raise Mistake(
            f"{setting('match')} weekday pairs every day, so {setting('leap', 'feb28')} has nothing to say",
            "Leave one of them out.",
        )
    return SidesAsked(
        window=window,
        scenario=settings.of,
        versus=versus,
        as_of=settings.as_of,
        whole=settings.full_base,
        calendar=calendar,
        every=Grain(grain) if (grain := _grain_asked(settings)) else None,
        span=read_widening(settings.span, "span") if settings.span else None,
        running=_running(settings.cumulative) if settings.cumulative else None,
        pairing=pairing,
    )


def _grain_asked(settings: Settings) -> str | None:
    """The grain of the points along time, or of the panels."""
    if settings.panels_by not in GRAINS:
        return settings.every
    if settings.every:
        raise Mistake(
            f"{setting('every')} {settings.every} and {setting('panels_by')} {settings.panels_by} are both about time",
            "Use one of them.",
        )
    return settings.panels_by


def _running(text: str) -> Widening:
    running = read_widening(text, "cumulative")
    if running.reach not in (Reach.YEAR_TO_DATE, Reach.ROLLING):
        raise Mistake(f"{setting('cumulative')}: there is no '{text}'", "There are year-to-date and rolling:12.")
    return running


def is_name(value: str | None) -> bool:
    """Whether a value says in words what rows were narrowed to: not a code, not a date."""
    return value is not None and any(sign.isalpha() for sign in value)


def panel_column(settings: Settings) -> str | None:
    """The column whose values have a panel each, where panels are not of periods."""
    return None if settings.panels_by in GRAINS else settings.panels_by


def is_along_time(settings: Settings) -> bool:
    """Whether the call makes time the axis, or periods the panels."""
    return (
        settings.every is not None
        or settings.panels_by in GRAINS
        or (settings.panels_by is not None and not settings.by and settings.statement is None)
    )


def _named(source: str) -> tuple[str | None, str]:
    name, sign, path = source.partition("=")
    if sign and name and not Path(source).exists() and "/" not in name:
        return name, path
    return None, source


def _asked(name: str | None, path: str, names: Sequence[str], settings: Settings, total_as: TotalAs) -> AskedOfSource:
    def said(field: str) -> str | None:
        return said_of(getattr(settings, field), name, names, field)

    amounts = said("amount")
    by, inner, named = said("by"), said("then_by"), ("by", "then_by")
    per_field = "per" if settings.per else "volume"
    panels = panel_column(settings)
    if panels is not None and settings.statement is not None:
        inner, named = panels, ("by", "panels_by")
    elif panels is not None:
        by, inner, named = (panels, by, ("panels_by", "by")) if by else (panels, None, ("panels_by", "by"))
    elif settings.brackets:
        inner, named = settings.brackets, ("by", "brackets")
    statement = None if settings.statement is None else statement_from(settings.statement, settings.unmapped)
    if statement is not None:
        _check_statement(settings, total_as)
    columns = roles.ColumnsAsked(
        date=said("date"),
        amounts=parted(amounts) if amounts else (),
        scenario=said("scenario"),
        current=settings.current,
        base=settings.base,
        by=parted(by) if by else (),
        headings_are=said("headings_are"),
        needs_amounts=total_as.needs_amounts,
        per=settings.per or settings.volume,
        along_time=is_along_time(settings),
        then_by=parted(inner) if inner else (),
        fields=(*named, per_field),
    )
    mentioned = {*columns.amounts, *(one for one in (settings.current, settings.base) if one)}
    mentioned |= {value for one in settings.where for value in one.partition("=")[2].split(",")}
    keep_totals = settings.totals == "keep"
    numbers = said("numbers") or "auto"
    wanted = Wanted(
        source=path,
        sheet=said("sheet"),
        cells=said("cells"),
        named=frozenset(mentioned),
        keep_totals=keep_totals,
        numbers=numbers,
    )
    return AskedOfSource(
        wanted=wanted,
        columns=columns,
        name=name,
        where=settings.where,
        is_negative=said("source_sign") == "negative",
        blank_bad_cells=settings.bad_cells == "blank",
        numbers=numbers,
        dates=said("dates") or "auto",
        total_as=total_as,
        has_names=settings.name_map is not None,
        statement=statement,
        account=said("account"),
        spare=settings.unmapped,
    )


def _check_statement(settings: Settings, total_as: TotalAs) -> None:
    """Stops what does not go together with a statement."""
    for field in ("by", "name_map", "source_sign", "order", "keep", "current", "then_by", "brackets", "better"):
        if getattr(settings, field):
            raise Mistake(
                f"{setting('statement')} says the lines, their order and their signs, and excludes {setting(field)}",
                f"Leave {setting(field)} out.",
            )
    if not total_as.adds_up:
        raise Mistake(f"a statement adds its lines up, and {total_as.spoken} does not add up", "Leave one out.")


def said_of(values: Sequence[str], name: str | None, names: Sequence[str], field: str) -> str | None:
    """What an option says of one source: its own `name=…`, else what is said of all."""
    own, general = [], []
    for value in values:
        prefix, sign, rest = value.partition("=")
        if sign and prefix in names:
            own += [rest] if prefix == name else []
        else:
            general.append(value)
    for several in (own, general):
        if len(several) > 1:
            raise Mistake(f"{setting(field)} is given twice", "Give it once, or once for each source as NAME=….")
    found = next(iter(own or general), None)
    known = WORDS_OF_SOURCE.get(field)
    if found is not None and known and found not in known:
        raise Mistake(
            f"{setting(field)}: there is no '{found}'",
            did_you_mean(found, known, f"There are {', '.join(known)}."),
        )
    return found
