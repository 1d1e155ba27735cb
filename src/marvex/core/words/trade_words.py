"""Words of the trade for what is called otherwise here: each is answered with ours, never with a look-alike.

A scenario or a column of such a name comes first.
"""

from __future__ import annotations

from marvex.core.errors import Mistake, setting

# Settings, by the words that people type for them.
SETTINGS = {
    "sort": "order",
    "sort_by": "order",
    "filter": "where",
    "only": "where",
    "top": "keep",
    "limit": "keep",
    "theme": "style",
    "colours": "style",
    "colors": "style",
    "palette": "style",
    "group_by": "by",
    "group": "by",
    "category": "by",
    "period": "for_",
    "window": "for_",
    "compare": "versus",
    "compare_to": "versus",
    "against": "versus",
    "vs": "versus",
    "baseline": "base",
    "actual": "of",
    "freq": "every",
    "frequency": "every",
    "granularity": "every",
    "resample": "every",
    "value": "amount",
    "values": "amount",
    "measure_column": "amount",
    "aggregate": "total_as",
    "agg": "total_as",
    "unit": "units",
    "scale": "units",
    "facet": "panels_by",
    "small_multiples": "panels_by",
    "fiscal_year_start": "year_starts",
    "out": "output",
    "file": "output",
    "save": "output",
    "annotate": "remark",
    "comment": "remark",
    "footnote": "note",
    "threshold": "band",
    "running": "cumulative",
}
# Windows, bases and spans.
VALUES = {
    "ytd": "year-to-date",
    "qtd": "quarter-to-date",
    "ltm": "rolling:12",
    "ttm": "rolling:12",
    "py": "year-ago",
    "ly": "year-ago",
    "last-year": "year-ago",
    "previous-year": "year-ago",
    "prior-year": "year-ago",
    "pp": "prior",
    "last": "prior",
    "previous": "prior",
    "prior-period": "prior",
    "mtd": "period",
}
VIEWS = {
    "bridge": "waterfall",
    "walk": "waterfall",
    "cascade": "waterfall",
    "target": "against",
    "columns": "paired",
    "bars": "paired",
    "clustered": "paired",
    "line": "trend",
    "lines": "trend",
    "deviation": "variance",
    "difference": "variance",
    "arrow": "shift",
    "slope": "shift",
    "pnl": "statement",
    "p&l": "statement",
    "income-statement": "statement",
}


def refuse_trade_word(field: str, value: str, said_by: str | None = None) -> None:
    """Stops with our word for a value, where it is one of the trade's.

    Parameters
    ----------
    said_by : the setting that says it, where that is another.
    """
    ours = VALUES.get(value.strip().casefold().replace(" ", "-").replace("_", "-"))
    if ours is not None:
        raise Mistake(
            f"{setting(field)} '{value}' is called {ours} here", f"Write {setting(said_by or field, ours)}."
        )
