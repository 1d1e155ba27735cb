"""Rows that may not be meant to count: those that are there twice, as if they had been loaded so, and void ones."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Collection, Sequence
from datetime import date
from statistics import median

from marvex.core.compare.reservation import Reservation
from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.aspect_names import NO, YES
from marvex.core.time.calendar import CIVIL, Grain
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.query import Query
from marvex.sources.quoting import quoted_name
from marvex.sources.readers.source_file import OF_A_PART
from marvex.sources.where import Filter, filter_text

# So many rows are all set against one another: of a million in a file that takes about a second.
_FEW_ROWS, _FEW_STORED_ROWS = 1_000_000, 100_000
_STATUS = re.compile(r"(?:.*[ _-])?(?:status|state)", re.IGNORECASE)
_VOID = re.compile(
    r"cancell?ed|void(?:ed)?|draft|deleted|rejected|reversed|parked|not posted|unposted|declined|"
    r"storniert|annulé|anulado",
    re.IGNORECASE,
)
_POWER_OF_TEN = re.compile(r"-?\d(?:[.,]\d+)?[eE]\+\d\d+")
_NOT_FOUND = "#N/A"
_FILE, _COUNT = '"\u2060of"', '"\u2060n"'  # as no column is called
_LEAST_ROWS = 6  # of a month
_LEAST_SIGNED = 3  # rows of a file, which all have one sign
_LEAST_SHARED, _NEARLY_ALL = 5, 0.9  # rows that two files share; and of all rows of one
_MOST, _USUAL = 0.5, 0.1  # of a month's rows are there twice; and of the others' rows


_VOID_FLAG = re.compile(
    r"(?:is[ _-]?)?(?:deleted|void(?:ed)?|cancell?ed|reversed|rejected|draft|duplicate|test|excluded?)(?:[ _-]?flag)?",
    re.IGNORECASE,
)
_IN_FORCE_FLAG = (
    r"(?:is[ _-]?)?(?:current|latest|approved|posted|released|confirmed|valid)(?:[ _-]?(?:flag|record|row))?"
)


def are_few(rows: int, *, is_stored: bool) -> bool:
    """Whether the rows of a file, or of a table that is stored elsewhere, can all be set against one another."""
    return rows <= (_FEW_STORED_ROWS if is_stored else _FEW_ROWS)


def void_rows(
    headings: Sequence[str], values: Callable[[str], Collection[str]], filters: Sequence[Filter]
) -> tuple[Reservation, ...]:
    """The rows that a column of a status calls void, or a draft, and that count as all others do.

    Parameters
    ----------
    values : gives all different values of a column.
    """
    told = []
    for heading in headings:
        says = _VOID if _STATUS.fullmatch(heading.strip()) else YES if _VOID_FLAG.fullmatch(heading.strip()) else None
        if says is None and re.fullmatch(_IN_FORCE_FLAG, heading.strip(), re.IGNORECASE):
            says = NO if all(YES.fullmatch(one) or NO.fullmatch(one) for one in values(heading)) else None
        if says is None or any(one.column == heading for one in filters):
            continue
        found = sorted(text for text in values(heading) if text and says.fullmatch(text))
        if found:
            leaves = setting("where", filter_text(heading, "!=", found))
            told.append(
                Reservation(
                    what=f"rows whose {heading} is {listed(found, 3)} count as all others do",
                    mend=f"{leaves} leaves them out",
                )
            )
    return tuple(told)


def holds_not_found(cells: Collection[str]) -> bool:
    """Whether a formula of a spreadsheet found nothing in some cell."""
    return any(one.upper() == _NOT_FOUND for one in cells)


def not_available(facts: Facts, amounts: Sequence[str], engine: Engine, source: str) -> tuple[Reservation, ...]:
    """The columns of amounts in which a formula of a spreadsheet found nothing: such a cell is absent.

    Parameters
    ----------
    amounts : those that are text.
    """
    if not amounts:
        return ()
    conditions = [one.condition() for one in facts.filters]
    kept = " AND ".join(sql for sql, _ in conditions) or "true"
    counts = (
        f"count(*) FILTER (upper(trim(CAST({quoted_name(one)} AS VARCHAR))) = '{_NOT_FOUND}')" for one in amounts
    )
    asked = Query(
        f"SELECT {', '.join(counts)} FROM {facts.relation} WHERE {kept}",
        tuple(value for _, bound in conditions for value in bound),
    )
    told = []
    for heading, found in zip(amounts, engine.rows(asked, source)[0], strict=True):
        if found:
            cells, are = ("cell", "is") if found == 1 else ("cells", "are")
            told.append(Reservation(what=f"{found} {cells} of {heading} {are} {_NOT_FOUND}, taken as absent"))
    return tuple(told)


def lines_twice(sample: Sequence[Sequence[str | None]]) -> tuple[Reservation, ...]:
    """The lines of a list that stand in it twice, name and figures."""
    counts = Counter(tuple(cell or "" for cell in row) for row in sample if sum(map(bool, row)) > 1)
    twice = [next(filter(None, row)) for row, count in counts.items() if count > 1]
    return (Reservation(what=f"{listed(twice, 3)} stands there twice with the same figures"),) if twice else ()


def digits_lost(
    headings: Sequence[str], sample: Sequence[Sequence[str | None]], typed: Collection[str]
) -> tuple[Reservation, ...]:
    """The columns in which a spreadsheet wrote figures or codes in powers of ten, without all digits.

    Parameters
    ----------
    typed : the columns that are no text.
    """
    found: dict[str, str] = {}
    for place, heading in enumerate(headings):
        cells = (text.strip() for row in sample if (text := row[place]))
        if heading not in typed and (example := next(filter(_POWER_OF_TEN.fullmatch, cells), None)):
            found[heading] = example
    if not found:
        return ()
    told = f"cells of {listed(found, 3)} such as '{next(iter(found.values()))}'"
    return (Reservation(what=f"{told} have lost their last digits, and different ones may look alike"),)


def in_several_files(
    facts: Facts, headings: Sequence[str], files: Sequence[str], engine: Engine, source: str
) -> tuple[Reservation, ...]:
    """Each two files of a source that share rows, as two exports that overlap do.

    Files in which rows are alike by chance, as single tickets of one price on one day are, hold some twice themselves.

    Parameters
    ----------
    files : their names, in their order.

    Raises
    ------
    Mistake : nearly all rows of one stand in another, as those of a month in its quarter.
    """
    keys = ", ".join(map(quoted_name, headings))
    file = f"{quoted_name(facts.row_column or '')} // {OF_A_PART}"
    of_files = f"SELECT {keys}, {file} AS {_FILE}, count(*) AS {_COUNT} FROM {facts.relation} GROUP BY ALL"
    sizes = {
        file: different
        for file, rows, different in engine.rows(
            Query(f"SELECT {_FILE}::INT, sum({_COUNT})::BIGINT, count(*) FROM ({of_files}) GROUP BY {_FILE}"), source
        )
        if rows - different <= _USUAL * rows
    }
    shared = engine.rows(
        Query(
            "SELECT one::INT, other::INT, count(*) FROM (SELECT unnest(files) AS one, files FROM "
            f"(SELECT list({_FILE} ORDER BY {_FILE}) AS files FROM ({of_files}) GROUP BY {keys}, {_COUNT} "
            "HAVING count(*) > 1)), "
            "unnest(files) AS others(other) WHERE one < other GROUP BY ALL ORDER BY ALL"
        ),
        source,
    )
    met = [(pair, rows) for *pair, rows in shared if sizes.keys() >= {*pair}]
    pairs = [(*sorted(pair, key=lambda file: sizes[file]), rows) for pair, rows in met]
    within = [(fewer, more) for fewer, more, rows in pairs if rows >= _NEARLY_ALL * sizes[fewer]]
    if sum(sizes[one] for one in {fewer for fewer, _ in within}) >= _LEAST_SHARED:
        fewer, more = within[0]
        raise Mistake(
            f"nearly all rows of {files[fewer]} stand in {files[more]} too, and would count twice",
            "Remove one of them, or write a pattern that only one is like.",
        )
    told = "{} rows of {} and {} are the same, and count twice where those files overlap"
    return tuple(
        Reservation(what=told.format(rows, *(files[one] for one in sorted((fewer, more)))))
        for fewer, more, rows in pairs
        if rows > _LEAST_SHARED
    )


def signed_apart(facts: Facts, files: Sequence[str], engine: Engine, source: str) -> tuple[Reservation, ...]:
    """The files of a source whose amounts are all below zero, where those of all others are above.

    Parameters
    ----------
    files : their names, in their order.
    """
    name = facts.roles.amounts[0].name
    amount = facts.typed.get(name) or facts.reading.amount(f"CAST({quoted_name(name)} AS VARCHAR)")
    file = f"({quoted_name(facts.row_column or '')} // {OF_A_PART})::INT"
    asked = f"SELECT {file}, count(*) FILTER ({amount} > 0), count(*) FILTER ({amount} < 0)"
    counts = engine.rows(Query(f"{asked} FROM {facts.relation} GROUP BY 1 ORDER BY 1"), source)
    below = [files[one] for one, above, under in counts if not above and under >= _LEAST_SIGNED]
    above = [one for one, above, under in counts if not under and above >= _LEAST_SIGNED]
    if not below or len(below) + len(above) < len(counts) or not above:
        return ()
    return (Reservation(what=f"all amounts of {listed(below, 3)} are below zero, those of the other files above"),)


def loaded_twice(
    facts: Facts, headings: Sequence[str], numbers: Sequence[str], engine: Engine, source: str
) -> tuple[Reservation, ...]:
    """The months whose rows are there twice, where others' are not; or of all rows of a file.

    Single tickets of one price on one day are alike by chance, in every month.

    Parameters
    ----------
    numbers : the columns that may number documents, of which none has two rows then.
    """
    keys = ", ".join(map(quoted_name, headings))
    dated = facts.roles.date
    text = f"CAST({quoted_name(dated)} AS VARCHAR)" if dated else "NULL::VARCHAR"
    month = f"(SELECT strftime(day, '%Y-%m') FROM {facts.days} WHERE {facts.days}.date_text = rows.date_text)"
    counted = f"sum({_COUNT})::BIGINT, coalesce(sum({_COUNT}) FILTER ({_COUNT} > 1), 0)::BIGINT, "
    counted += f"bool_and({_COUNT} % 2 = 0), count(*)"
    told_apart = "".join(f", count(DISTINCT {quoted_name(one)})" for one in numbers)
    found = engine.rows(
        Query(
            f"SELECT {month if dated else 'NULL'} AS month, {counted}{told_apart} FROM (SELECT any_value({text}) AS "
            f"date_text, {', '.join(map(quoted_name, numbers)) or 'NULL'}, count(*) AS {_COUNT} FROM {facts.relation} "
            f"GROUP BY {keys}) AS rows GROUP BY 1 ORDER BY 1"
        ),
        source,
    )
    if sum(rows for _, rows, *_ in found) >= _LEAST_ROWS and all(is_even for _, _, _, is_even, *_ in found):
        return (Reservation(what="every row is there twice, as if the file had been loaded twice"),)
    shares = {of: repeated / rows for of, rows, repeated, *_ in found if of and rows >= _LEAST_ROWS}
    twice = [of for of, share in shares.items() if share >= _MOST]
    if twice and median(shares.values()) <= _USUAL:
        rows = sum(repeated for of, _, repeated, *_ in found if of in twice)
        return (_are_twice(f"{rows} rows of {listed(twice, 3)} are the same as another", twice),)
    different = [one for _, _, _, _, *counts in found for one in counts[:1]]
    for place, number in enumerate(numbers, start=5):
        if sum(different) > _LEAST_ROWS and [one[place] for one in found] == different:
            twice = [of for of, _, repeated, *_ in found if repeated]
            rows = sum(rows for _, rows, *_ in found) - sum(different)
            return (_are_twice(f"{rows} rows are the same as another, {number} and all", twice),) if rows else ()
    return ()


def _are_twice(what: str, months: Sequence[str | None]) -> Reservation:
    ends = [CIVIL.end(date.fromisoformat(f"{of}-01"), Grain.MONTH) for of in months if of]
    return Reservation(
        what=f"{what}, as if they had been loaded twice",
        of=tuple((last.replace(day=1), last) for last in ends),
    )
