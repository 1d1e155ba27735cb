"""The columns of a source as a sample of their cells shows them: figures, dates, scenarios, names or codes."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace

from marvex.core.compare.scenario_words import version_said
from marvex.core.structure.total_names import speaks_of_variance
from marvex.core.values import dataclass
from marvex.core.words.spelled_out import spelled_out
from marvex.sources.cells import could_be_thousands, is_absent, is_figure
from marvex.sources.dates import is_like_a_date, month_alone, period_alone, short_months, years_of
from marvex.sources.headings import SCENARIO_WORDS, is_of_a_year, split
from marvex.sources.numbering import numbers_are_names, numbers_rows
from marvex.sources.years_said import YEAR

DATE_NAMES = ("date", "day", "month", "period", "posted", "booked", "year", "week", "quarter")
_OTHER_DATE_NAMES = {"datum", "fecha", "dato", "dt", "jour", "monat", "mois", "periode", "periodo", "buchungstag"}
_ENDS_OF_DATES = ("datum", "ingdate", "icedate", "uedate", "txdate", "orderdate", "paydate")
_PLAIN = re.compile(r"[-+]?\d*\.\d{1,15}")
FEW = 12  # different texts of a column that could say which version of the numbers a row is
_FIGURE = r"[-+(−–]?\s*\d[\d.,]*\)?"
_MARKED = re.compile(  # `110*`, `95 (e)`, `c. 7`, `<5`, `5-6`, `1.2 mio`
    rf"{_FIGURE}\s*(?:[^\w\s]{{1,3}}|\(?[a-z]\)?|[¹²³]|[-–/]\s*{_FIGURE})"
    rf"|{_FIGURE}\s*(?i:bps?|pp|pts?|mio|mrd|mn|mln|tsd|thousand|million|billion|lakhs?|crores?|pax|kg|km|hrs?|x)\.?"
    rf"|(?:[~≈<>≤≥±]|(?i:ca?\.?|approx\.?|about|circa|est\.?|over|under))\s*{_FIGURE}"
)
LOOKED_INTO = 150  # cells of a column: enough to tell its kind
CODE_WORDS = {
    "id", "code", "no", "account", "acct", "ref", "reference", "sku", "ean", "gtin", "upc", "isbn", "barcode", "iban",
    "vin", "wbs", "uuid", "guid", "zip", "postcode", "plz", "konto", "compte", "cuenta", "conto", "rekening",
}  # fmt: skip
_CENTRE = re.compile(
    r"(?:cost|profit)[ -]?cent(?:re|er)|kostenstelle|centre de coûts|centro de costos?|kostenplaats|gl"
)
# Codes too, but not where they speak of an amount: 'Number of trips', 'Year to date', '2026 Year', 'This month'.
CODES_OR_AMOUNTS = {"nr", "number", "key", "year", "month"}
_OF_ONE_SPAN = {"month", "year"}  # of amounts, beside those to date or of another span
_NUMBERED = re.compile(r"\d{1,2}|(?:19|20)\d\d(?:0[1-9]|1[0-2])?|\d{5}")  # 3, 2026, 202603, a day's number
_REMARKS = re.compile(
    r"(?:management |analyst |variance |our |my )?(?:comments?|commentary|remarks?|notes?|observations?|explanations?"
    r"|kommentare?|bemerkung(?:en)?|anmerkung(?:en)?|erläuterung(?:en)?|commentaires?|remarques?|opmerking(?:en)?"
    r"|toelichting(?:en)?|comentarios?|observaciones|notas?|commenti|merknad(?:er)?|uwagi|poznámky?)"
    r"(?: (?:on|of|to|for) .*)?"
)
_WORDS_OF_A_REMARK = 4  # on average: a name has fewer
OF_AMOUNTS = {"of", "for", "in", "to", "this", "last", "prior", "previous", "current", "full"}


def is_code_name(heading: str) -> bool:
    """Whether a heading says that the figures under it are codes, which are not added up.

    >>> [is_code_name(one) for one in ("account_code", "Ticket number", "CustomerID", "Number of trips", "2026 Year")]
    [True, True, True, False, False]
    >>> [is_code_name(one) for one in ("Cost centre", "Data centre")]
    [True, False]
    >>> [is_code_name(one) for one in ("Profit for the year", "Payments on account", "Year")]
    [False, False, True]
    """
    words = set(spelled_out(heading).casefold().replace("-", " ").replace("on account", "").split())
    speaks_of_amount = bool(OF_AMOUNTS & words) or any(word.isdecimal() for word in words)
    is_code = bool(CODE_WORDS & words) or any(word.endswith(("nummer", "kenner")) for word in words)
    is_code = is_code or _CENTRE.fullmatch(spelled_out(heading).casefold()) is not None
    return is_code or (bool(CODES_OR_AMOUNTS & words) and not speaks_of_amount)


def _is_of_one_span(heading: str) -> bool:
    """Whether a heading says a month or a year and at most a side: 'Month', 'Month PY'."""
    words = spelled_out(heading).casefold().split()
    beside = " ".join(word for word in words if word not in _OF_ONE_SPAN)
    return not _OF_ONE_SPAN.isdisjoint(words) and (not beside or version_said(beside.strip("()")) is not None)


def are_remarks(heading: str, cells: Sequence[str], *, is_behind: bool) -> bool:
    """Whether a column of texts says something of its rows, and names none: by its heading, or behind all amounts by
    its length.
    """
    if _REMARKS.fullmatch(spelled_out(heading).casefold()):
        return True
    texts = [len(cell.split()) for cell in cells if cell]
    return is_behind and bool(texts) and sum(texts) >= _WORDS_OF_A_REMARK * len(texts)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Column:
    """A column as a sample of it shows: how many cells are filled, and how many of them are what."""

    name: str
    filled: int
    distinct: int
    figures: int
    dates: int
    scenarios: int  # cells that hold a usual scenario's name
    variances: int  # cells that name a difference of such
    years: int  # cells that are a year and nothing else
    undated: int  # cells that name a period without a year, or that its heading says are dates, and are none
    marked: int  # cells of a column of a side or a period that are figures but for a mark at them
    all_could_be_thousands: bool
    decimals: int  # the most that a plainly written figure has
    few: tuple[str, ...] = ()  # the different texts, where they are few
    is_beyond: bool = False  # figures that no year, month or other part of one is numbered by
    numbers_rows: bool = False  # its figures number the rows, or say how deep they stand
    are_names: bool = False  # its figures name the rows, as the numbers of routes do
    are_remarks: bool = False  # its texts say something of the rows, and name none

    @property
    def is_dates(self) -> bool:
        bare_numbers = self.dates <= self.figures
        return _is_most(self.dates, self.filled) and (not bare_numbers or self.says_date)

    @property
    def is_years(self) -> bool:
        """Whether its dates are years alone, as a column beside a date has them."""
        return self.is_dates and _is_most(self.years, self.filled)

    @property
    def says_date(self) -> bool:
        return says_date(self.name)

    @property
    def is_undated(self) -> bool:
        """Whether it says of which period a row is, and not of which year."""
        return self.distinct > 1 and not self.is_dates and _is_most(self.undated, self.filled)

    @property
    def is_figures(self) -> bool:
        return _is_most(self.figures + self.marked, self.filled) and not self.is_dates

    @property
    def is_code(self) -> bool:
        """Whether its figures are not to be added up, as its name or what stands beside it says.

        A month's amounts are beyond twelve.
        """
        return self.are_names or (is_code_name(self.name) and not (self.is_beyond and _is_of_one_span(self.name)))

    @property
    def says_years(self) -> bool:
        """Whether each cell is a year, of the calendar or of reporting."""
        return self.years == self.filled or (bool(self.few) and all(years_of(cell) for cell in self.few))

    @property
    def shows_one(self) -> bool:
        """Whether all of its cells say the same, or nothing."""
        return not self.filled or len(self.few) == 1

    @property
    def is_text(self) -> bool:
        return self.filled > 0 and not self.is_dates and not self.is_figures


def with_later(
    columns: Sequence[Column], rows: Sequence[Sequence[str | None]], later: Mapping[str, Sequence[str]]
) -> tuple[Column, ...]:
    """The columns with what the rows after a sample show of some of them.

    Parameters
    ----------
    later : of each of those what its cells say that are not as those of the sample.
    """
    return tuple(
        _column(one.name, [*(row[place] or "" for row in rows[: LOOKED_INTO // 2]), *others])
        if (others := later.get(one.name))
        else one
        for place, one in enumerate(columns)
    )


def columns_of(names: Sequence[str], rows: Sequence[Sequence[str | None]]) -> tuple[Column, ...]:
    """What a sample shows of each column."""
    found = [_column(name, [row[place] or "" for row in rows]) for place, name in enumerate(names)]
    last = max((place for place, one in enumerate(found) if one.is_figures and not one.is_code), default=len(found))
    for place, one in enumerate(found):
        if one.is_text and are_remarks(one.name, [row[place] or "" for row in rows], is_behind=place > last):
            found[place] = replace(one, are_remarks=True)
    first = next((place for place, one in enumerate(found) if one.filled and not one.is_dates), None)
    for place in (place for place, one in enumerate(found) if one.is_figures):
        if place != first and all((row[place] or "0")[0].isdigit() for row in rows):
            continue  # no total is named among them
        cells = {cell.strip() for row in rows if (cell := row[place] or "") and not is_absent(cell)}
        if numbers_are_names(names, place, cells, is_first=place == first):
            found[place] = replace(found[place], are_names=True)
    return tuple(found)


def _column(name: str, cells: Sequence[str]) -> Column:
    absent = {cell for cell in set(cells) if is_absent(cell)}
    filled = [cell.strip() for cell in cells if cell not in absent]
    separated = [cell for cell in set(filled) if "." in cell or "," in cell]
    filled = filled[:LOOKED_INTO]
    serials = says_date(name) and not is_of_a_year(name)
    months = short_months(set(filled))
    kinds = {cell: (is_figure(cell), cell in months or is_like_a_date(cell, serials=serials)) for cell in set(filled)}
    return Column(
        name=name,
        filled=len(filled),
        distinct=len(kinds),
        figures=sum(kinds[cell][0] for cell in filled),
        dates=sum(kinds[cell][1] for cell in filled),
        years=sum(YEAR.fullmatch(cell) is not None for cell in filled),
        undated=sum(_is_undated(cell, says_date=serials) for cell in filled),
        marked=sum(_MARKED.fullmatch(cell) is not None and not any(kinds[cell]) for cell in filled)
        if any(split(name))
        else 0,
        scenarios=sum(cell.casefold() in SCENARIO_WORDS for cell in filled),
        variances=sum(speaks_of_variance(cell) and cell.casefold() not in SCENARIO_WORDS for cell in filled),
        all_could_be_thousands=bool(separated) and all(could_be_thousands(cell) for cell in separated),
        few=tuple(sorted(few)) if len(few := set(cells) - absent) <= FEW else (),
        is_beyond=any(kinds[cell][0] and not _NUMBERED.fullmatch(cell) for cell in kinds),
        numbers_rows=numbers_rows(name, filled),
        decimals=max((len(cell.partition(".")[2]) for cell in separated if _PLAIN.fullmatch(cell)), default=0),
    )


def _is_undated(cell: str, *, says_date: bool) -> bool:
    if month_alone(cell):
        return True
    is_odd = any(map(str.isdecimal, cell)) and not is_figure(cell) and not is_like_a_date(cell)
    return says_date and (is_odd or period_alone(cell) is not None)


def says_date(name: str) -> bool:
    """Whether a heading speaks of dates.

    >>> [says_date(one) for one in ("PostingDate", "Belegdatum", "txn_dt", "invoicedate", "Update", "Paid to date")]
    [True, True, True, True, False, False]
    """
    words = spelled_out(name).casefold().split()
    runs_to_date = len(words) > 2 and words[-2:] == ["to", "date"]
    return not runs_to_date and any(
        word in DATE_NAMES or word in _OTHER_DATE_NAMES or word.endswith(_ENDS_OF_DATES) for word in words
    )


def _is_most(some: int, of_all: int) -> bool:
    """Most cells are so: an odd unreadable one is then found and told, not taken for another kind."""
    return 2 * some > of_all
