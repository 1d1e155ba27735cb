"""The year of months that say none: as it stands above them, or as a call says it, over two years where they run on."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from itertools import pairwise

from marvex.core.errors import Mistake, setting
from marvex.core.time.notation import full_year
from marvex.sources.dates import is_numeric_date, is_short_month, month_alone, period_alone, read_days, short_months
from marvex.sources.headings import NOTE, SO_FAR, part_beside_side, parted

_YEAR = r"(?:19|20)\d\d"
YEAR = re.compile(_YEAR)
# What says when a sheet was made, and not what it is of.
_MADE = re.compile(
    r"\b(?:print(?:ed)?|run|export(?:ed)?|created|generated|saved|prepared|issued|updated|as (?:at|of))\b|"
    rf"{_YEAR}[-._ ]?\d\d[-._ ]?\d\d|\d\d?[-./]\d\d?[-./]{_YEAR}",
    re.IGNORECASE,
)
_WITHIN = re.compile(rf"\b({_YEAR})\b")
_TWO = re.compile(rf"\b({_YEAR})\s?[/–-]\s?((?:19|20)?\d\d)\b")


def year_said(texts: Iterable[str]) -> str | None:
    """The one year that some texts say, or the two that a reporting year is named by; None where they say several.

    >>> year_said(["Budget 2026/27", "in EUR"]), year_said(["Year 2026"]), year_said(["2025", "2026"])
    ('2026/27', '2026', None)
    """
    found = {year for text in texts for year in _years(text)}
    return found.pop() if len(found) == 1 else None


def year_of_sheet(title: str | None) -> str | None:
    """The year that a sheet's name says of what is on it.

    >>> [year_of_sheet(one) for one in ("Plan 2027", "Export 2025", "PL 2026-11-05", "2025 vs 2026")]
    ['2027', None, None, None]
    """
    return year_said([title]) if title and not _MADE.search(title) else None


def says_another(year: str, texts: Iterable[str]) -> str | None:
    """The first of some texts that says years, and none of those that a call says; None where there is none.

    When a sheet was made says nothing of what it is of.

    >>> says_another("2026", ["EUR", "Budget 2027"]), says_another("2025/26", ["Year ended 31 March 2026"])
    ('Budget 2027', None)
    """
    asked = _both(year)
    for text in texts:
        found = [] if _MADE.search(text) else [_both(one) for one in _years(text)]
        if found and all(map(asked.isdisjoint, found)):
            return text
    return None


def _both(year: str) -> set[int]:
    """The calendar years of one that may run over two."""
    first, _, second = year.partition("/")
    return {int(first), int(first) + bool(second)}


def _years(text: str) -> list[str]:
    two = _TWO.search(text)
    if two and full_year(two[2]) == int(two[1]) + 1:
        return [f"{two[1]}/{two[2][-2:]}"]
    return _WITHIN.findall(text)


def asked_year(text: str | None) -> str | None:
    """The year that a call says, as it is read here; raises Mistake where it is none."""
    if text is not None and not is_year(text):
        raise Mistake(
            f"{setting('year')}: '{text}' is no year", "Write it as 2026, or as 2025/26 where it is of two."
        )
    return None if text is None else year_said([text])


def is_year(text: str) -> bool:
    """Whether a text is a year, or the two of a reporting year, and nothing else."""
    text = text.strip()
    return bool(_WITHIN.fullmatch(text) or (_TWO.fullmatch(text) and "/" in _years(text)[0]))


def with_year(headings: Sequence[str], year: str, source: str) -> list[str]:
    """Headings whose months, weeks or quarters say no year, with theirs: 'Jan Budget' as 'Jan 2026 Budget'.

    Parameters
    ----------
    year : `2026`; or `2025/26`, of which the second begins with the first month before that of the first heading.

    Raises Mistake where months run past December, and only one year is said.
    """
    bare = {text: month for text in headings if not _WITHIN.search(text) and (month := _month_of(text))}
    months = list(dict.fromkeys(bare.values()))
    first, _, second = year.partition("/")
    if not second and runs_on(months):
        texts = list(bare)
        before, after = (f"{start}/{(start + 1) % 100:02}" for start in (int(first) - 1, int(first)))
        raise Mistake(
            f"{source}: the months {texts[0]} … {texts[-1]} run past December, and could not all be of {first}",
            f"Say of which years they are: {setting('year', before)} or {setting('year', after)}.",
        )
    if second and months and not runs_on(months) and months[0] == 1:
        raise Mistake(
            f"{source}: the months from {next(iter(bare))} on could be of either year of {year}",
            f"Say of which: {setting('year', first)} or {setting('year', str(int(first) + 1))}.",
        )
    years = {month: int(first) + (bool(second) and month < months[0]) for month in months}
    found = []
    for text in headings:
        if text in bare:
            words = (f"{word} {years[bare[text]]}" if month_alone(word) else word for word in text.split())
            found.append(" ".join(words))
        else:
            found.append(text if bare else _of_year(text, year))  # a quarter beside months is a total of theirs
    return found


def _of_year(text: str, year: str) -> str:
    """A week, a quarter or a period of a reporting year with its year, alone or beside a side: 'Q1 Budget'."""
    part, kind = part_beside_side(text)
    if kind in ("q", "h", "p", "w"):
        rest = text.replace(part, "", 1).strip()
        return " ".join((_of_year(part, year), rest))
    letter, number = period_alone(text) or ("", 0)
    if letter == "w" and "/" not in year:
        return f"{year}-W{number:02}"
    if letter in ("q", "h") and "/" not in year:
        return f"{letter.upper()}{number} {year}"
    return f"FY{year} {letter.upper()}{number}" if letter in ("q", "h", "p") else text


def said_headings(headings: Sequence[str], year: str | None, order: str, source: str) -> dict[str, str]:
    """What each heading says once its year, and the order of day and month, are known: '31/01/2026' as 2026-01-31.

    A note that its figures are restated, or audited, is no part of it: '2025 (restated)' is 2025.

    Parameters
    ----------
    order : `auto`, `dmy`, `mdy` or `ymd`.
    """
    texts = _without_notes(headings)
    texts = with_year(texts, year, source) if year else texts
    numeric = [text for text in texts if is_numeric_date(text)]
    days = read_days(numeric, order, f"{source}, headings") if len(numeric) > 1 else {}
    months = short_months(text for text in texts if is_short_month(text))
    said = [found.first.isoformat() if (found := days.get(text)) else text for text in texts]
    said = [f"{found.first:%Y-%m}" if (found := months.get(text)) else text for text in said]
    return dict(zip(headings, said, strict=True))


def _without_notes(headings: Sequence[str]) -> list[str]:
    """The headings of periods without a note behind them, unless another is of the same period.

    >>> _without_notes(["2026", "2025 (restated)", "Sales (restated)"]), _without_notes(["2025", "2025 (restated)"])
    (['2026', '2025', 'Sales (restated)'], ['2025', '2025 (restated)'])
    >>> _without_notes(["Jan - Oct 2026", "Jan - Oct 2025 (PY)"])
    ['Jan - Oct 2026', 'Jan - Oct 2025']
    """
    bare = [NOTE.sub("", text) for text in headings]
    said = [parted(text) for text in bare]
    return [
        one if one != text and its.period and its.rest in ("", SO_FAR) and said.count(its) == 1 else text
        for text, one, its in zip(headings, bare, said, strict=True)
    ]


def _month_of(heading: str) -> int | None:
    return next((month for word in heading.split() if (month := month_alone(word))), None)


def runs_on(months: Sequence[int]) -> bool:
    """Whether months in order begin again after December, once.

    >>> runs_on([4, 8, 12, 3]), runs_on([1, 2, 12]), runs_on([3, 2, 1])
    (True, False, False)
    """
    steps = [(after - before) % 12 for before, after in pairwise(months)]
    return sum(steps) < 12 and any(after < before for before, after in pairwise(months))
