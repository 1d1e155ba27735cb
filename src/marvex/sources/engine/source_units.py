"""In which unit and which currency the figures of a source are, as its headings, its titles and its cells say."""

from __future__ import annotations

import re
from collections.abc import Sequence

from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.cost_names import counts_or_rates
from marvex.sources.cells import is_figure
from marvex.sources.columns_asked import ColumnsAsked
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.rows import Rows
from marvex.sources.readers.source_file import SourceFile
from marvex.sources.scales import (
    are_currencies,
    are_units_of_measure,
    currencies_said,
    is_measured,
    is_unit,
    power_said,
    unit_of,
    unit_unknown,
)
from marvex.sources.where import filter_text

CURRENCY_NAMES = ("currency", "ccy", "curr")
UNIT_NAMES = re.compile(
    r"(?:(?:base|order|sales|quantity|qty|measure(?:ment)?)[ _-]?)?units?(?: of (?:measure(?:ment)?|quantity))?|uom|"
    r"u/m|(?:basis|mengen)?einheit|unité(?: de mesure)?|unidad(?: de medida)?|unità(?: di misura)?|eenheid|enhet",
    re.IGNORECASE,
)
# Amounts of which a column of the transactions' currencies says nothing, and amounts that are converted row by row.
_OF_GROUP = re.compile(r".*\b(?:group|reporting|company(?: code)?|base|consolidated)\b.*|.*[ _-]GC", re.IGNORECASE)
_OF_CURRENCY = re.compile(r"curr|ccy|währung|devise|moneda|divisa|valuta", re.IGNORECASE)
_BY_EXCHANGE = re.compile(r"(?:\b|_)(?:fx|exchange|cours|cambio|\w*kurs)(?:\b|_)", re.IGNORECASE)
_BY_A_RATE = re.compile(r"(?:\b|_)rate\b", re.IGNORECASE)
_COUNTED = re.compile(
    r"hours?|hrs|days|nights|quantity|qty|units|volume|weight|km|miles", re.IGNORECASE
)  # at a rate of pay
_SCALE = re.compile(r"(?:unit[ _-]?)?(?:scale|scaling|multiplier|magnitude)", re.IGNORECASE)
_POWER_OF_TEN = re.compile(r"1(?:[., ]?000)*|10+")


def power_of(
    file: SourceFile,
    headings: Sequence[str],
    sample: Sequence[Sequence[str | None]],
    kept: Sequence[Sequence[str | None]],
    amounts: Sequence[str],
) -> tuple[int, tuple[str, ...]]:
    """The power of ten that the amounts are in, as titles and headings say it, and what is to be said of that.

    Parameters
    ----------
    sample : the first rows, and `kept` those of them that conditions keep.

    Raises Mistake where they are not all in one unit, or may be counts, of which it is not said.
    """
    _check_scale(file, headings, kept, amounts)
    if unknown := unit_unknown((*file.titles, *amounts)):
        raise Mistake(
            f"{file.name}: figures in {unknown} are not read as such",
            f"Take them as they stand: {setting('amounts_in', 'one')}.",
        )
    labels = [place for place, heading in enumerate(headings) if heading not in amounts]
    named = [at for at in labels if at == labels[0] or not any(is_figure(row[at] or "") for row in sample)]
    of_titles, what = power_said((*file.titles, *(headings[at] for at in named))) or 0, "the heading"
    if in_column := _column_of_unit(headings, kept):
        what, of_titles = in_column
    elif of_titles:
        _check_counts(file, headings, sample, kept, of_titles)
    powers = {one: of_titles if (own := power_said([one])) is None else own for one in amounts}
    shown_in = {one: _shown_in(file, headings, one) if powers[one] else 0 for one in amounts}
    powers = {one: power - shown_in[one] for one, power in powers.items()}
    said: tuple[str, ...] = ()
    if (shown := max(shown_in.values())) > 0:
        names = listed([one for one in amounts if shown_in[one]], 3)
        said += (f"{unit_of(shown)[1]} are the format alone of {names}, which hold ones",)
    power = max(powers.values())
    other = next((one for one, its in powers.items() if its != power), None)
    if other is not None:
        unlike = next(one for one, its in powers.items() if its == power)
        raise Mistake(
            f"{file.name}: '{unlike}' is in {unit_of(power)[1]}, and '{other}' is not",
            f"Write both in one unit; or say that they are: {setting('amounts_in', unit_of(power)[0])}.",
        )
    if power:
        unit, words = unit_of(power)
        said += (f"figures are in {words}, as {what} says ({setting('amounts_in', unit)})",)
    return power, said


def _check_counts(
    file: SourceFile,
    headings: Sequence[str],
    sample: Sequence[Sequence[str | None]],
    kept: Sequence[Sequence[str | None]],
    power: int,
) -> None:
    """Raises Mistake where all that is kept of a table in thousands is a count or a rate by name."""
    for place in range(len(headings)):
        of_all, of_kept = ([one for row in rows if (one := row[place])] for rows in (sample, kept))
        counted = {*counts_or_rates(of_all)} if of_kept and len({*of_kept}) < len({*of_all}) else set[str]()
        if counted.issuperset(of_kept) and of_kept:
            unit, words = unit_of(power)
            raise Mistake(
                f"{file.name}: {listed(dict.fromkeys(of_kept), 3)} may be no amount of money, which is in {words} here",
                f"Say {setting('amounts_in', 'one')} to take it as it stands, or {setting('amounts_in', unit)}.",
            )


def _column_of_unit(headings: Sequence[str], sample: Sequence[Sequence[str | None]]) -> tuple[str, int] | None:
    """The column that says the same unit of all rows, where that has a power of ten, and the power: 'EUR k'."""
    for place, heading in enumerate(headings):
        if UNIT_NAMES.fullmatch(heading.strip()):
            said = {(row[place] or "").strip() for row in sample}
            if len(said) == 1 and (power := power_said(said)):
                return heading, power
    return None


def _check_scale(
    file: SourceFile, headings: Sequence[str], sample: Sequence[Sequence[str | None]], amounts: Sequence[str]
) -> None:
    """Raises Mistake where a column says by which power of ten each row's amounts are to be multiplied."""
    for place, heading in enumerate(headings):
        if not _SCALE.fullmatch(heading.strip()) or any(heading in one for one in amounts):
            continue
        powers = {text.strip() for row in sample if (text := row[place]) and text.strip()}
        if powers and powers != {"1"} and all(map(_POWER_OF_TEN.fullmatch, powers)):
            raise Mistake(
                f"{file.name}: {heading} says that rows are in {listed(sorted(powers), 3)}",
                f"Say {setting('amount', f'{amounts[0]} * {heading}')}, which counts each in ones.",
            )


def _shown_in(file: SourceFile, headings: Sequence[str], heading: str) -> int:
    """The power of ten that a format shows the figures of a column in, which are ones; asks where not of all."""
    letter = dict(zip(headings, file.letters, strict=False)).get(heading, "")
    shown = file.shown_in.get(letter, 0)
    if shown is None:
        raise Mistake(
            f"{file.name}, column {letter}: some figures are shown in thousands by their format, others are not",
            f"Say what they are: {setting('amounts_in', 'one')} or {setting('amounts_in', 'k')}.",
        )
    return shown


def units_in(facts: Facts, headings: Sequence[str], rows: Rows) -> tuple[str, tuple[str, ...]] | None:
    """The column of units that has several, of money or others, with them; a business unit is none."""
    column = next((name for name in headings if UNIT_NAMES.fullmatch(name.strip())), None)
    found = rows.currencies(facts, column) if column and facts.roles.amounts else []
    is_of_amounts = any(map(is_unit, found)) or (
        are_units_of_measure(found) and all(is_measured(one.name) for one in facts.roles.amounts)
    )
    return (column, tuple(found)) if column and len(found) > 1 and is_of_amounts else None


def currency_of(
    file: SourceFile,
    facts: Facts,
    headings: Sequence[str],
    sample: Sequence[Sequence[str | None]],
    rows: Rows,
    asked: ColumnsAsked,
) -> str | None:
    """The currency of the amounts, told by a column, by the signs beside figures, by headings or titles.

    Raises Mistake where it is several.
    """
    names, worked_out = [one.name for one in facts.roles.amounts], asked.worked_out
    if not names or any(one in worked_out and _is_converted(one) for one in names):
        return None
    column = next((name for name in headings if name.casefold() in CURRENCY_NAMES), None)
    if column is None and not currencies_said(names) and not any(map(_OF_GROUP.fullmatch, names)):
        # Of several columns that tell the rows apart by themselves, one is no more than the others' currency.
        compared = facts.roles.by if asked.by or len(facts.roles.by) == 1 else ()
        column = _column_of_codes(headings, sample, compared)
    is_plain = column is None and facts.reading.convention is None
    found = [] if is_plain else rows.currencies(facts, column)
    # What is worked out may lead from one source's currency to another's.
    is_converted = any(name in worked_out for name in names)
    of_headings = () if is_converted else currencies_said(names)
    of_titles = currencies_said(file.titles)
    said = found or of_headings or (of_titles if len(of_titles) == 1 else ())
    if not found and len(of_headings) > 1:
        raise Mistake(
            f"{file.name} holds several currencies: {listed(of_headings)}",
            f"Name the columns of one with {setting('amount')}.",
        )
    if len(found) > 1:
        where = setting("where", filter_text(column, "=", found[:1]) if column else None)
        raise Mistake(f"{file.name} holds several currencies: {listed(found)}", f"Keep the rows of one with {where}.")
    return said[0] if said and not is_converted else None


def _is_converted(worked_out: str) -> bool:
    """Whether an amount is worked out with a rate of exchange, and not at a price or a rate of pay alone."""
    by_a_rate = _BY_A_RATE.search(worked_out) is not None and _COUNTED.search(worked_out) is None
    return by_a_rate or _BY_EXCHANGE.search(worked_out) is not None


def _column_of_codes(
    headings: Sequence[str], sample: Sequence[Sequence[str | None]], by: Sequence[str]
) -> str | None:
    """The column that says nothing but codes of currencies, whatever it is called.

    What is compared may be exposures to currencies, in one of them. Where there are several such columns, and one
    says the same in all rows, that of the amounts is likely to be that.
    """
    found: dict[str, set[str]] = {}
    for place, heading in enumerate(headings):
        if heading in by and not _OF_CURRENCY.search(heading):
            continue
        codes = {text.strip() for row in sample if (text := row[place]) and text.strip()}
        if codes and are_currencies(codes):
            found[heading] = codes
    return min(found, key=lambda heading: len(found[heading]), default=None)
