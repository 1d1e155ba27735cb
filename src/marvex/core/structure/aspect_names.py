"""Names of a column that say the same numbers in several ways, which are not to be added up."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Sequence
from operator import or_

from marvex.core.compare.scenario_words import PLANNED_WORDS
from marvex.core.values import dataclass
from marvex.core.words.spelled_out import spelled_out

_TO_DATE = frozenset(
    {"ytd", "qtd", "itd", "ltm", "ttm", "to date", "year to date", "quarter to date", "cumulative", "cum", "cumul",
     "accumulated", "rolling 12", "kumuliert", "cumulé", "acumulado"}
)  # fmt: skip
_OF_PERIOD = frozenset(
    {"mtd", "month", "monthly", "in month", "month to date", "period", "periodic", "quarter", "quarterly", "year",
     "yearly", "annual", "full year", "fy", "monat", "mois", "mes"}
)  # fmt: skip
_OF_CURRENCY = frozenset(
    {"local", "group", "reporting", "functional", "transaction", "document", "presentation", "company code", "home",
     "foreign", "constant", "lc", "gc", "tc", "rc", "dc"}
)  # fmt: skip
_OF_BASIS = frozenset(
    {"reported", "as reported", "originally reported", "as originally reported", "restated", "as restated",
     "constant", "constant fx", "current fx", "average fx", "constant currency", "underlying", "adjusted",
     "pro forma", "proforma", "normalised", "normalized",
     "like for like", "lfl", "organic", "statutory", "comparable"}
)  # fmt: skip
_OF_PRINCIPLES = frozenset({"ifrs", "gaap", "hgb", "ias", "frs"})
_OF_BOOKS = frozenset({"tax", "statutory", "management", "local", "group", "cash basis"})
_OF_MONEY = frozenset({"amount", "value", "net amount", "gross amount", "revenue", "sales"})
_OPENING = frozenset({"opening", "opening balance", "opening stock", "brought forward", "b/f"})
_CLOSING = frozenset({"closing", "closing balance", "closing stock", "carried forward", "c/f"})
_COUNTED = frozenset({"quantity", "qty", "volume", "units", "price", "unit price", "count", "hours", "weight"})

_OF_LUCK = frozenset({"best", "worst", "base"})  # of a plan where nothing else stands beside them
# Any two of one of these are of the same numbers.
_PAIRS = (
    _OF_BASIS, frozenset({"gross", "net"}), frozenset({"nominal", "real"}),
    frozenset({"pre tax", "post tax", "after tax"}), frozenset({"raw", "unadjusted", "seasonally adjusted"}),
    frozenset({"best case", "worst case", "base case", "upside", "downside", "optimistic", "pessimistic",
               "most likely", "p10", "p50", "p90"}),
    _OF_LUCK,
    frozenset({"preliminary", "prelim", "provisional", "flash", "draft", "final"}),
    frozenset({"management", "statutory"}), frozenset({"cash basis", "accrual basis", "accruals basis"}),
    frozenset({"cash", "accrual", "accruals"}),
    frozenset({"incl", "excl", "inclusive", "exclusive", "including", "excluding"}),
)  # fmt: skip
_MIDDLE = frozenset({"base", "mid", "central", "expected", "base case", "central case", "mid case"})
_ENDS_OF_RANGE = frozenset({"low", "high", "lower", "upper", "low case", "high case"})
_NUMBERED = re.compile(
    r"(draft|version|ver|v|bp|revision|rev|submission|iteration|scenario|case) ?(?:\d+(?:\.\d+)?|(?<= )[a-d])"
)
_SHORT = frozenset({"ver", "v", "bp", "rev"})  # a vessel may be called V2, a berth BP1
_OF_DRAFTS = frozenset(
    {"version", "versions", "vers", "ver", "v", "draft", "plan", "budget", "forecast", "scenario", "scn", "round",
     "revision", "rev", "iteration", "submission", "cycle", "edition", "data", "dataset", "basis", "view", "type"}
)  # fmt: skip
_TAXED = re.compile(r"(incl|excl|including|excluding|ex)\.? (?:vat|gst|tax(?:es)?|mwst|tva|iva)")
_SUMMARIES = frozenset({"summary", "header", "rollup", "roll up", "aggregate", "aggregated"})
_DETAILS = frozenset({"detail", "details", "detailed", "line", "lines", "item", "items", "leaf", "position"})
# Of a column of what kind a row is, and of nothing else.
_HEADS = frozenset({"order", "document", "invoice", "parent", "group", "head", "hdr", "h"})
_CHILDREN = frozenset({"child", "sub", "d", "dtl", "member"})
_EVERY = frozenset(
    {"daily", "weekly", "monthly", "quarterly", "half yearly", "yearly", "annual", "annually"}
)  # fmt: skip
_KEPT_TWICE = frozenset(
    {"primary", "secondary", "reporting", "leading", "non leading", "parallel", "local", "group", "0l", "2l"}
)  # fmt: skip
_WORDS = (
    _TO_DATE
    | _OF_PERIOD
    | _OF_CURRENCY
    | _OF_MONEY
    | _COUNTED
    | _OPENING
    | _CLOSING
    | frozenset().union(*_PAIRS)
    | _SUMMARIES
    | _DETAILS
    | _HEADS
    | _CHILDREN
    | _EVERY
    | _KEPT_TWICE
    | _MIDDLE
)


@dataclass(frozen=True, slots=True, eq=False)
class _Names:
    """The names of a column, each with its plain words."""

    column: str
    plain: dict[str, str]

    def within(self, words: Collection[str]) -> list[str]:
        return [one for one, its in self.plain.items() if its in words]


def _plain(name: str) -> str:
    return " ".join(spelled_out(name).casefold().replace("-", " ").split()).removesuffix(" currency")


def _is_of_principles(plain: str) -> bool:
    return not _OF_PRINCIPLES.isdisjoint(plain.split())


def _spans(names: _Names) -> list[str]:
    to_date = names.within(_TO_DATE)
    return [*names.within(_OF_PERIOD), *to_date] if to_date else []


def _currencies(names: _Names) -> list[str]:
    is_of_them = not {"currency", "curr", "ccy"}.isdisjoint(spelled_out(names.column).casefold().split())
    return [one for one in names.within(_OF_CURRENCY) if is_of_them or one.strip().casefold().endswith(" currency")]


def _principles(names: _Names) -> list[str]:
    found = [one for one, its in names.plain.items() if _is_of_principles(its)]
    is_layered = any("adj" in its for its in names.plain.values())  # what leads from one to the other is added to it
    return [*found, *(one for one in names.within(_OF_BOOKS) if one not in found)] if found and not is_layered else []


def _measures(names: _Names) -> list[str]:
    money, counted = names.within(_OF_MONEY), names.within(_COUNTED)
    return [*money, *counted] if money and counted and len(money) + len(counted) == len(names.plain) else []


def _drafts(names: _Names) -> list[str]:
    found: dict[str, list[str]] = {}
    are_drafts = not _OF_DRAFTS.isdisjoint(_plain(names.column).split())
    for one, its in names.plain.items():
        if (numbered := _NUMBERED.fullmatch(its)) and (are_drafts or numbered[1] not in _SHORT):
            found.setdefault(numbered[1], []).append(one)
    return next((drafts[::-1] for drafts in found.values() if len(drafts) > 1), [])  # the last of them stands


def _taxed(names: _Names) -> list[str]:
    found = {one: taxed[1].startswith("in") for one, its in names.plain.items() if (taxed := _TAXED.fullmatch(its))}
    return sorted(found, key=found.__getitem__) if len(set(found.values())) > 1 else []


def _flows(names: _Names) -> list[str]:
    opening, closing = names.within(_OPENING), names.within(_CLOSING)
    between = [one for one in names.plain if one not in opening and one not in closing]
    return [*between, *opening, *closing] if opening and closing and between else []


def _cases(names: _Names) -> list[str]:
    """A middle and the ends around it, where nothing else stands beside them: prices are low, medium and high."""
    middle, ends = names.within(_MIDDLE), names.within(_ENDS_OF_RANGE)
    return [*middle, *ends] if middle and ends and len(middle) + len(ends) == len(names.plain) else []


def _levels(names: _Names) -> list[str]:
    of_rows = not {"row", "record", "line"}.isdisjoint(_plain(names.column).split())
    above = names.within(_SUMMARIES | _HEADS if of_rows else _SUMMARIES)
    below = names.within(_DETAILS | _CHILDREN if of_rows else _DETAILS)
    return [*below, *above] if above and below else []


def _periodicities(names: _Names) -> list[str]:
    how_often = {"frequency", "periodicity", "granularity", "grain", "interval", "period type"}
    return names.within(_EVERY) if _plain(names.column) in how_often else []


def _ledgers(names: _Names) -> list[str]:
    are_books = not {"ledger", "book", "books", "representation"}.isdisjoint(_plain(names.column).split())
    return names.within(_KEPT_TWICE) if are_books else []


_FINDERS: tuple[Callable[[_Names], list[str]], ...] = (
    _spans, _currencies, _principles, _measures, _drafts, _taxed, _flows, _cases, _levels, _periodicities, _ledgers,
)  # fmt: skip


YES = re.compile(r"y|yes|true|t|1|x|ja|j|wahr|oui|o|sí|si", re.IGNORECASE)
NO = re.compile(r"n|no|false|f|0|nein|falsch|non|", re.IGNORECASE)


def is_flag_of_others(column: str, names: Collection[str], *, is_text: bool) -> bool:
    """Whether a column says yes and no to what is not added up with the rest: a budget, a total.

    >>> is_flag_of_others("is_budget", ["0", "1"], is_text=False), is_flag_of_others("Total", ["X", ""], is_text=True)
    (True, True)
    >>> is_flag_of_others("Target", ["Y", "N"], is_text=True), is_flag_of_others("Budget", ["0", "1"], is_text=False)
    (False, False)
    """
    own, is_called_flag = _flagged(column, names)
    known = {"total", "subtotal", "summary", *(PLANNED_WORDS if is_called_flag else ("budget", "forecast"))}
    return own in known and (is_text or is_called_flag)


def is_flag_of_parts(column: str, names: Collection[str]) -> bool:
    """Whether a column says no to the rows that others are the parts of.

    >>> is_flag_of_parts("is_leaf", ["1", "0"]), is_flag_of_parts("Leaf", ["oak", "ash"])
    (True, False)
    """
    return _flagged(column, names)[0] == "leaf"


def _flagged(column: str, names: Collection[str]) -> tuple[str, bool]:
    """What a column says yes and no to, empty where it does not; and whether it is called a flag."""
    words = re.split(r"[\W_]+", column.casefold())
    own = [one for one in words if one not in ("is", "flag", "")]
    yes, no = (any(map(way.fullmatch, names)) for way in (YES, NO))
    is_flag = yes and no and all(YES.fullmatch(one) or NO.fullmatch(one) for one in names)
    return own[0] if is_flag and len(own) == 1 else "", len(own) < len(words)


def hints_at_ways(names: Collection[str]) -> bool:
    """Whether some of a column's names may say one of several ways, of which the others are not among them."""
    plain = map(_plain, names)
    return any(
        one in _WORDS or _NUMBERED.fullmatch(one) or _TAXED.fullmatch(one) or _is_of_principles(one) for one in plain
    )


def same_numbers(column: str, names: Sequence[str]) -> tuple[str, ...]:
    """Those of a column's names that say the same numbers in several ways, what is kept of them first; or none.

    A month beside the year to date, local beside group currency, reported beside restated, two accounting principles,
    an amount beside its quantity, several drafts, what a movement opens with beside what it closes at.

    >>> same_numbers("View", ["YTD", "Periodic"]), same_numbers("Basis", ["Reported", "Underlying", "Other"])
    (('Periodic', 'YTD'), ('Reported', 'Underlying'))
    >>> same_numbers("VAT", ["Incl. VAT", "Excl. VAT"]), same_numbers("Round", ["BP1", "BP2"])
    (('Excl. VAT', 'Incl. VAT'), ('BP2', 'BP1'))
    >>> same_numbers("Pass", ["Monthly", "Annual", "Rolling"]), same_numbers("Class", ["Foot", "Car"])
    ((), ())
    >>> same_numbers("Vessel", ["V1", "V2"]), same_numbers("Plan", ["V1", "V2"])
    ((), ('V2', 'V1'))
    >>> same_numbers("Risk", ["Best", "Medium", "Worst"]), same_numbers("Case", ["Best", "Worst"])
    ((), ('Best', 'Worst'))
    >>> same_numbers("Case", ["Low", "Base", "High"]), same_numbers("Tier", ["Low", "Medium", "High"])
    (('Base', 'Low', 'High'), ())
    """
    own = _Names(column, {one: _plain(one) for one in names})
    pairs = (own.within(words) for words in _PAIRS)
    pairs = (one for one in pairs if len(one) == len(names) or not _OF_LUCK.issuperset(map(own.plain.get, one)))
    found = (*(finder(own) for finder in _FINDERS), *pairs)
    return next((tuple(one) for one in found if len(one) > 1), ())


def same_numbers_across(headings: Sequence[str]) -> tuple[str, ...]:
    """The same of what headings say beside their sides and periods, of which codes of currencies are ways too.

    >>> [same_numbers_across(one) for one in (["local", "EUR"], ["Gross", "Net"], ["home", "export"])]
    [('local', 'EUR'), ('Gross', 'Net'), ()]
    >>> same_numbers_across(["In", "Out", "Closing"])
    ('In', 'Out', 'Closing')
    """
    plain = [_plain(one) for one in headings]
    ways = _OF_CURRENCY - {"home", "foreign"}
    is_way = [one in ways for one in plain]
    is_code = [re.fullmatch(r"[A-Z]{3}|[€$£¥₹]", one.strip()) is not None for one in headings]
    if len(headings) > 1 and any(is_way) and all(map(or_, is_way, is_code)):
        return tuple(headings)
    ends = [one for one, its in zip(headings, plain, strict=True) if its in _OPENING | _CLOSING]
    others = [one for one in headings if one not in ends]
    return (*others, *ends) if ends and others else same_numbers("", headings)


# What is said of a line's amount beside what it is of, which makes it no other amount.
_WAY = re.compile(
    r"\b(?:gross|net|(?:as |originally )?reported|re-?stated|underlying|adjusted|normali[sz]ed|pro[ -]?forma|"
    r"like[- ]for[- ]like|comparable|(?:incl(?:uding|\.)?|excl(?:uding|\.)?|ex|before|after|net of|plus)\.? "
    r"(?:vat|gst|sales tax|tax(?:es)?|mwst|tva|iva))(?=\W|$)\.?"
)


def told_again(names: Sequence[str]) -> tuple[str, ...]:
    """Names of lines that say one amount in several ways: gross and net, with tax and without, adjusted.

    >>> told_again(["Gross fares", "Fuel", "Net fares"]), told_again(["Sales", "Sales (excl. VAT)", "Net interest"])
    (('Gross fares', 'Net fares'), ('Sales', 'Sales (excl. VAT)'))
    """
    found: dict[str, dict[str, str]] = {}
    for name in names:
        plain = _plain(name)
        way = _WAY.search(plain)
        rest = re.sub(r"\W+", " ", _WAY.sub(" ", plain)).strip()
        found.setdefault(rest, {}).setdefault(way[0] if way else "", name)
    return next((tuple(ways.values()) for rest, ways in found.items() if rest and len(ways) > 1), ())
