"""Names as programs write them, in words: 'load_factor', 'LoadFactor' and 'load.factor' are the load factor."""

from __future__ import annotations

import re

# Between two words that are written as one: 'Net|Sales', 'VAT|Amount', 'Sales|2026', 'FY25|Actual'; not within 'kWh'.
_JOINT = re.compile(
    r"(?<=[A-Za-z][a-z])(?=[A-Z])|(?<=[A-Z]{2})(?=[A-Z][a-z]{3})|(?<=[A-Za-z]{2})\.(?=[A-Za-z]{2})|"
    r"(?<=[A-Za-z]{3})(?=(?:19|20)\d\d$)|(?<=^20\d\d)(?=[A-Za-z]{3})|(?<=\d)(?=[A-Z][a-z]{2})"
)
_CAPITALISED = re.compile(r"[A-Z][a-z]+")


def spelled_out(name: str) -> str:
    """The name in words; one that is written in words already stays as it is.

    >>> [spelled_out(one) for one in ("load_factor", "NetSales", "TotalVATAmount", "Avg.Price", "kWh", "FTEs")]
    ['load factor', 'Net sales', 'Total VAT amount', 'Avg price', 'kWh', 'FTEs']
    >>> [spelled_out(one) for one in ("Net of McDonald", "trip_id", "Sales2026", "2026Sales", "FY25Actual", "Q1")]
    ['Net of McDonald', 'trip id', 'Sales 2026', '2026 sales', 'FY25 actual', 'Q1']
    """
    name = " ".join(name.replace("_", " ").split())
    if " " in name or len(words := _JOINT.sub(" ", name).split()) < 2:
        return name
    first, *others = words
    return " ".join((first, *(one.lower() if _CAPITALISED.fullmatch(one) else one for one in others)))
