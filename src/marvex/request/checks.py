"""What settings exclude or need one another: said once, for a command line and for a pack."""

from __future__ import annotations

from decimal import Decimal

from babel import Locale, UnknownLocaleError
from babel.localedata import locale_identifiers

from marvex.core.compare.totals import parse_total_as
from marvex.core.errors import Mistake, did_you_mean, setting
from marvex.request.axis import asks_for_time, has_period_panels
from marvex.request.place import TRACE, Place
from marvex.request.settings import FIELDS, OPTIONS, Settings


def check(settings: Settings, place: Place) -> None:
    """Stops what does not go together, or what the command or view cannot use."""
    _check_usable(settings, place)
    if settings.horizontal and settings.upright:
        raise Mistake(
            f"{setting('horizontal')} asks for rows, and {setting('upright')} for columns", "Leave one out."
        )
    if settings.signs == "unsigned" and settings.marks == "off" and "walk" not in place.takes:
        raise Mistake(
            f"without signs and marks nothing says a change's direction ({setting('signs', 'unsigned')})",
            f"Leave {setting('marks', 'off')} out; a waterfall's steps show theirs.",
        )
    _check_locale(settings.locale)
    for one in (
        _check_spread,
        _check_since,
        _check_verify,
        _check_sides,
        _check_figures,
        _check_judging,
    ):
        one(settings)
    for each in (_check_panels, _check_time, _check_statement):
        each(settings, place)
    if place is TRACE and settings.at is None:
        raise Mistake(
            f"{setting('at')} does not say which figure",
            f"Name a category, such as {setting('at', 'Fuel')}, or {setting('at', 'Total')}.",
        )


def _check_usable(settings: Settings, place: Place) -> None:
    for name, about in OPTIONS.items():
        if (
            name not in place.names
            and not place.can_use(name, about.places)
            and getattr(settings, name) != FIELDS[name].default
        ):
            raise Mistake(f"{place.name} cannot use {setting(name)}", "Leave it out.")


def _check_spread(settings: Settings) -> None:
    total_as = parse_total_as(settings.total_as, settings.per, settings.per_day, settings.holidays)
    if settings.spread and (total_as.way.value != "sum" or total_as.per is not None):
        raise Mistake(f"{setting('spread')} spreads sums, and {total_as.spoken} is none", "Leave it out.")


def _check_verify(settings: Settings) -> None:
    if settings.verify and settings.spread:
        raise Mistake(
            f"{setting('verify')} finds figures in the rows, and what {setting('spread')} makes is in none",
            "Leave one of them out.",
        )


def _check_since(settings: Settings) -> None:
    if settings.since_gate and settings.since is None:
        raise Mistake(f"{setting('since_gate')} is about {setting('since', 'FILE.json')}", "Name that file too.")


def _check_locale(name: str) -> None:
    try:
        Locale.parse(name)
    except (ValueError, UnknownLocaleError):
        hint = did_you_mean(name, locale_identifiers(), "Write it as en_GB or de_CH.")
        raise Mistake(f"{setting('locale')}: there is no locale '{name}'", hint) from None


def _check_sides(settings: Settings) -> None:
    if settings.base and not settings.current:
        raise Mistake(f"{setting('base')} names a column, but {setting('current')} does not", "Name both columns.")
    if not settings.current:
        return
    if settings.of or settings.versus:
        raise Mistake(
            f"{setting('current')} and {setting('base')} exclude {setting('of')} and {setting('versus')}",
            "Name the two sides as columns or as scenarios.",
        )
    for other in ("amount", "scenario", "headings_are"):
        if getattr(settings, other):
            raise Mistake(
                f"{setting('current')} and {setting('base')} exclude {setting(other)}", f"Leave {setting(other)} out."
            )
    if not parse_total_as(settings.total_as).needs_amounts:
        raise Mistake(
            f"{setting('current')} names amounts, and {setting('total_as', settings.total_as)} takes none",
            "Leave one of them out.",
        )


def _check_figures(settings: Settings) -> None:
    if settings.then_by and not parse_total_as(settings.total_as, settings.per, settings.per_day).adds_up:
        raise Mistake(
            f"{setting('then_by')} names the parts of a sum, and these figures do not add up", "Leave it out."
        )
    others = settings.per or settings.total_as not in (None, "sum") or settings.statement_file or settings.current
    if settings.volume and others:
        names = f"{setting('per')}, {setting('total_as')}, {setting('statement')} and {setting('current')}"
        raise Mistake(f"{setting('volume')} is of sums with a column beside them", f"Leave {names} out.")
    if settings.no_mix and not settings.volume:
        raise Mistake(
            f"{setting('no_mix')} is about volume and price", f"Name the column of volumes with {setting('volume')}."
        )
    if settings.volume and settings.keep:
        raise Mistake(f"{setting('keep')} would gather items of unlike prices", "Leave it out.")


def _check_judging(settings: Settings) -> None:
    if settings.band and settings.rule:
        raise Mistake(f"{setting('band')} and {setting('rule')} exclude one another", "Use one of them.")


def _check_panels(settings: Settings, place: Place) -> None:
    if not has_period_panels(settings) and settings.panels_by and settings.by and asks_for_time(settings, place):
        raise Mistake(
            f"{setting('panels_by', settings.panels_by)} and {setting('by')} make panels of time, "
            "and only one of them can",
            f"Leave one of them out, or {setting('every')}.",
        )
    if settings.panels_by and isinstance(settings.axis_break, Decimal):
        raise Mistake(
            f"{setting('axis_break', 'VALUE')} is for one plot, and there are panels", "Leave the option out."
        )


def _check_time(settings: Settings, place: Place) -> None:
    if settings.match == "weekday" and settings.leap == "feb28":
        raise Mistake(
            f"{setting('match', 'weekday')} pairs every day, so {setting('leap', 'feb28')} has nothing to say",
            "Leave one of them out.",
        )
    if has_period_panels(settings) and settings.every:
        raise Mistake(
            f"{setting('every', settings.every)} and {setting('panels_by', settings.panels_by)} are both about time",
            "Use one of them.",
        )
    if settings.column and settings.for_:
        raise Mistake(
            f"{setting('column')} and {setting('for_')} both say windows",
            f"Say all of them with {setting('column')}.",
        )
    if asks_for_time(settings, place) and max(len(settings.for_), len(settings.column)) > 1:
        raise Mistake(
            f"{setting('for_')} is given twice, and points along time are of one window",
            f"Name categories with {setting('by')} instead.",
        )


def _check_statement(settings: Settings, place: Place) -> None:
    if settings.statement_file is None:
        for field in ("account", "unmapped"):
            if getattr(settings, field):
                raise Mistake(
                    f"{setting(field)} is about the accounts of a statement",
                    f"Name its file with {setting('statement')}.",
                )
        return
    for field in ("by", "name_map", "order", "keep", "brackets", "better"):
        if getattr(settings, field) and not (field == "keep" and "walk" in place.takes):
            raise Mistake(
                f"{setting('statement')} says the lines, their order and their signs, and excludes {setting(field)}",
                f"Leave {setting(field)} out.",
            )
