"""Names of a column that say the same numbers in several ways, which are not to be added up."""

from __future__ import annotations

from collections.abc import Collection, Sequence

_TO_DATE = frozenset(
    {"ytd", "qtd", "itd", "ltm", "ttm", "to date", "year to date", "quarter to date", "cumulative", "cum", "cumul",
     "accumulated", "rolling", "rolling 12", "kumuliert", "cumulé", "acumulado"}
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
     "constant", "constant fx", "underlying", "adjusted", "pro forma", "proforma", "normalised", "normalized",
     "like for like", "lfl", "organic", "statutory", "comparable"}
)  # fmt: skip
_OF_PRINCIPLES = frozenset({"ifrs", "gaap", "hgb", "ias", "frs"})
_OF_BOOKS = frozenset({"tax", "statutory", "management", "local", "group", "cash basis"})
_OF_MONEY = frozenset({"amount", "value", "net amount", "gross amount", "revenue", "sales"})
_OPENING = frozenset({"opening", "opening balance", "opening stock", "brought forward", "b/f"})
_CLOSING = frozenset({"closing", "closing balance", "closing stock", "carried forward", "c/f"})
_COUNTED = frozenset({"quantity", "qty", "volume", "units", "price", "unit price", "count", "hours", "weight"})

_ANY = _TO_DATE | _OF_PERIOD | _OF_CURRENCY | _OF_BASIS | _OF_PRINCIPLES | _OF_MONEY | _COUNTED | _OPENING | _CLOSING


def hints_at_ways(names: Collection[str]) -> bool:
    """Whether some of a column's names may say one of several ways, of which the others are not among them."""
    return any(_plain(one) in _ANY or not _OF_PRINCIPLES.isdisjoint(_plain(one).split()) for one in names)


def _plain(name: str) -> str:
    return " ".join(name.casefold().replace("-", " ").replace("_", " ").split()).removesuffix(" currency")


def same_numbers(column: str, names: Sequence[str]) -> tuple[str, ...]:
    """Those of a column's names that say the same numbers in several ways, what is kept of them first; or none.

    A month beside the year to date, local beside group currency, reported beside restated, two accounting principles,
    an amount beside its quantity, what a movement opens with beside what it closes at.

    >>> same_numbers("View", ["YTD", "Periodic"]), same_numbers("Basis", ["Reported", "Underlying", "Other"])
    (('Periodic', 'YTD'), ('Reported', 'Underlying'))
    >>> same_numbers("Pass", ["Monthly", "Annual"]), same_numbers("Class", ["Foot", "Car"])
    ((), ())
    """
    plain = {one: _plain(one) for one in names}

    def within(words: Collection[str]) -> list[str]:
        return [one for one in names if plain[one] in words]

    periods, to_date = within(_OF_PERIOD), within(_TO_DATE)
    if to_date and len(periods) + len(to_date) > 1:
        return (*periods, *to_date)
    is_of_currency = not {"currency", "curr", "ccy"}.isdisjoint(column.casefold().replace("_", " ").split())
    currencies = [
        one
        for one in names
        if plain[one] in _OF_CURRENCY and (is_of_currency or one.strip().casefold().endswith(" currency"))
    ]
    if len(currencies) > 1:
        return tuple(currencies)
    if len(bases := within(_OF_BASIS)) > 1:
        return tuple(bases)
    principles = [one for one in names if not _OF_PRINCIPLES.isdisjoint(plain[one].split())]
    if principles and len(books := [*principles, *within(_OF_BOOKS - set(principles))]) > 1:
        is_layered = any("adj" in one for one in plain.values())  # what leads from one to the other is added to it
        return () if is_layered else tuple(dict.fromkeys(books))
    money, counted = within(_OF_MONEY), within(_COUNTED)
    if money and counted and len(money) + len(counted) == len(names):
        return (*money, *counted)
    opening, closing = within(_OPENING), within(_CLOSING)
    between = [one for one in names if one not in opening and one not in closing]
    return (*between, *opening, *closing) if opening and closing and between else ()
