"""How a text file is laid out: its encoding, its delimiter and its headings, from its first lines."""

from __future__ import annotations

import codecs
import csv
import gzip
import io
import zlib
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path
from typing import BinaryIO

from marvex.core.errors import Mistake
from marvex.core.structure.drawn import may_be_drawn
from marvex.core.structure.total_names import is_closing_name, is_opening_name, is_part_name, is_total_name, naming
from marvex.core.values import dataclass
from marvex.sources.cells import is_figure
from marvex.sources.dates import is_like_a_date, period_alone
from marvex.sources.headings import part_beside_side, parted, split
from marvex.sources.readers.filled_down import has_groups
from marvex.sources.readers.places import damaged
from marvex.sources.readers.rows_of_periods import has_wholes

DELIMITERS = (",", ";", "\t", "|")
LOOKED_AT = 64 * 1024  # bytes
RECORDS_LOOKED_AT = 5_000
TAIL, FOOTER_LINES = 4_096, 5  # bytes and lines of a file's end
FEW_TEXTS = 500  # different ones of a short file, whose names are looked at
FEW_ROWS = 200  # of a table whose columns may be the lines of a statement
PIECE = 4_000_000  # bytes
RECORDS_COMPARED = 100  # to tell the delimiter

_MARKS = ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16"))


@dataclass(frozen=True, slots=True, kw_only=True)
class Layout:
    """What the first lines of a text file show of it."""

    encoding: str
    delimiter: str
    headings: tuple[str, ...]
    first: tuple[tuple[str, ...], ...] = ()  # the first records, headings included


def layout_of(path: Path, name: str) -> Layout:
    """The layout of a text file, plain or gzipped; its first line is its headings."""
    try:
        with gzip.open(path) if path.suffix == ".gz" else path.open("rb") as file:
            start = file.read(LOOKED_AT)
        # All of a packed file is unpacked here, and its checksum looked at, which the engine does not do.
        encoding = _encoding(start, path, name)
    except (OSError, EOFError, zlib.error) as problem:
        raise damaged(name) from problem
    text = codecs.getincrementaldecoder(encoding)("replace").decode(start)
    if "\0" in text:
        raise Mistake(f"{name} is not a text file", "Give a .csv, or name its kind by its ending.")
    delimiter = _delimiter(text)
    records = _records(text, delimiter)
    headings = next(iter(records), [])
    if not headings and len(start) == LOOKED_AT and b"\n" not in start:
        raise Mistake(f"{name}: its first line has more than {LOOKED_AT:,} bytes", "Give a file with a heading row.")
    if not any(heading.strip() for heading in headings):
        raise Mistake(f"{name} has no headings", "Give a file with a heading row and rows of data.")
    return Layout(
        encoding=encoding,
        delimiter=delimiter,
        headings=distinct(headings),
        first=tuple(tuple(one) for one in records),
    )


def is_plain_table(layout: Layout) -> bool:
    """Whether the first line is its headings and every row a fact, so that it needs no tidying.

    Not plain: lines of other widths, empty or repeated headings, headings that are periods or totals of
    others or those of columns that bars are drawn from, what rolls forward across, rows of quarters among
    those of months, and lists without dates, which may hold totals.
    """
    headings, *rows = layout.first
    if any(len(row) != len(headings) for row in rows) and max(len(row) for row in layout.first) > len(headings):
        return False
    if not all(heading.strip() for heading in headings) or len(headings) == 1:
        return len(headings) == 1 and len(rows) > 0 and all(len(row) == 1 for row in rows)
    if sum(split(heading)[0] is not None for heading in headings) > 1:
        return False
    # Months, whose year a column may say, alone or beside a side.
    if sum(period_alone(one) is not None or part_beside_side(one)[1] != "" for one in headings) > 1:
        return False
    if any(is_figure(heading) for heading in headings):
        return False
    if any(row == headings for row in rows):
        return False
    if may_be_drawn(headings):
        return False
    rolls_forward = any(map(is_opening_name, headings)) and any(map(is_closing_name, headings))
    if len(rows) <= FEW_ROWS and (rolls_forward or any(map(_is_of_total, headings))):
        return False
    if any(map(is_total_name, set().union(*rows))):
        return False
    if has_groups([row for row in rows if len(row) == len(headings)]):
        return False
    others = [
        place for place, heading in enumerate(headings) if not parted(heading).is_said
    ]  # 1968 of a side is an amount
    columns = [[row[place] for row in rows if len(row) > place] for place in others]
    dated = [cells for cells in columns if _is_dated(cells)]
    return bool(dated) and not (len(rows) <= FEW_TEXTS and any(map(has_wholes, dated)))


def name_totals(rows: Iterable[Sequence[str]]) -> bool:
    """Whether a text of the rows below the headings is the name of a total, a result or a part: of a short table."""
    texts = {cell for row in rows for cell in row if any(map(str.isalpha, cell))}
    return len(texts) <= FEW_TEXTS and any(naming(text).is_total or is_part_name(text) for text in texts)


def has_footer(path: Path, layout: Layout) -> bool:
    """Whether a text file ends with lines of fewer cells than it has headings: notes, a count of rows, a total."""
    if path.suffix == ".gz" or len(layout.headings) < 2:
        return False
    with path.open("rb") as file:
        file.seek(max(0, path.stat().st_size - TAIL))
        text = file.read().decode(layout.encoding, "replace")
    lines = [line for line in text.splitlines() if line.strip()][-FOOTER_LINES:]
    try:
        records = list(csv.reader(lines, delimiter=layout.delimiter))
    except csv.Error:
        return False
    return bool(records) and (len(records[-1]) < len(layout.headings) or sum(map(bool, records[-1])) < 2)


def _is_dated(cells: Sequence[str]) -> bool:
    filled = [cell for cell in cells[:50] if cell.strip()]
    return bool(filled) and 2 * sum(is_like_a_date(cell) for cell in filled) > len(filled)


def _encoding(start: bytes, path: Path, name: str) -> str:
    """UTF-8 or UTF-16 by its mark, UTF-8 where all of the file is so, else Windows-1252.

    Raises Mistake where most of the file is UTF-8, and a row is not.
    """
    for mark, encoding in _MARKS[1:]:
        if start.startswith(mark):
            return encoding
    plain = "utf-8-sig" if start.startswith(codecs.BOM_UTF8) else "utf-8"
    if _is_utf8(path):
        return plain
    row, has_utf8, wrong = 1, False, 0
    with gzip.open(path) if path.suffix == ".gz" else path.open("rb") as file:
        for line in _lines(file):
            if not line.isascii():
                try:
                    line.decode("utf-8")
                    has_utf8 = True
                except UnicodeDecodeError:
                    wrong = wrong or row
                if has_utf8 and wrong:
                    break
            row += line.count(b"\n")
    if has_utf8 and wrong:
        raise Mistake(
            f"{name}, row {wrong}: not all of its letters are UTF-8, as they are elsewhere in the file",
            "Save the whole file as UTF-8.",
        )
    return "cp1252" if wrong else plain


def _is_utf8(path: Path) -> bool:
    """Whether all of a file is UTF-8: what nearly every file is, told several times as fast as which row is not."""
    decoder = codecs.getincrementaldecoder("utf-8")()
    with gzip.open(path) if path.suffix == ".gz" else path.open("rb") as file:
        try:
            while piece := file.read(PIECE):
                if not piece.isascii() or decoder.getstate()[0]:
                    decoder.decode(piece)
            decoder.decode(b"", final=True)
        except UnicodeDecodeError:
            return False
    return True


def _lines(file: BinaryIO | gzip.GzipFile) -> Iterator[bytes]:
    """The file in large pieces that end with a line; a piece that is not all ASCII line by line."""
    rest = b""
    while piece := file.read(PIECE):
        whole, end, cut = (rest + piece).rpartition(b"\n")
        yield from [whole + end] if whole.isascii() else (line + b"\n" for line in whole.split(b"\n"))
        rest = cut
    yield rest


def _delimiter(text: str) -> str:
    """The delimiter by which most records have the same number of cells, more than one."""

    def fit(delimiter: str) -> tuple[int, int]:
        widths = Counter(len(record) for record in _records(text, delimiter, RECORDS_COMPARED))
        wide = {width: count for width, count in widths.items() if width > 1}
        return max(((count, width) for width, count in wide.items()), default=(0, 0))

    return max(DELIMITERS, key=fit)


def _records(text: str, delimiter: str, most: int = RECORDS_LOOKED_AT) -> list[list[str]]:
    # The last line may be cut off in the middle of a cell.
    whole = text if len(text) < LOOKED_AT // 2 else text[: text.rfind("\n") + 1]
    reader = csv.reader(io.StringIO(whole, newline=""), delimiter=delimiter)
    try:
        return [record for record, _ in zip(reader, range(most), strict=False) if record]
    except csv.Error:
        return []


def distinct(headings: Sequence[str]) -> tuple[str, ...]:
    """The headings trimmed, each once: a second 'net' becomes 'net 2', an empty one 'column 3'."""
    seen: Counter[str] = Counter()
    distinct = []
    for place, heading in enumerate(headings, start=1):
        name = heading.strip() or f"column {place}"
        seen[name.casefold()] += 1
        count = seen[name.casefold()]
        distinct.append(name if count == 1 else f"{name} {count}")
    return tuple(distinct)


def _is_of_total(heading: str) -> bool:
    """Whether a heading is called as a total or a result is, alone or beside a side: 'Profit', 'Profit Budget'."""
    return naming(heading).is_total or naming(parted(heading).rest).is_total
