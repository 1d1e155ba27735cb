"""The cells of a workbook that hold an error, #DIV/0! or #REF!, a formula that nothing has worked out, or a percentage.

Its parser gives the first as empty, the second as empty or 0, and 75% as 0.75. It does not say which figures are shown
in thousands or millions by their format alone.
"""

from __future__ import annotations

import io
import itertools
import re
import zipfile
import zlib
from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import field
from functools import cache
from pathlib import Path
from xml.etree import ElementTree
from xml.sax.saxutils import unescape

from marvex.core.time.calendar import Grain
from marvex.core.values import dataclass
from marvex.sources.dates import written
from marvex.sources.readers.grid import letter_of, place_of
from marvex.sources.readers.sums_by_formula import rows_added_up

# The type of a cell that holds an error (ECMA-376, part 1, 18.18.11), in either kind of quotes.
_MARKS = (b't="e"', b"t='e'")
# A cell of a formula, its attributes, the formula and the value that was kept of it.
_FORMULA = re.compile(rb"<c\b([^>]*)>\s*<f\b[^>]*?(?:/>|>([^<]*)</f>)\s*(?:<v>([^<]*)</v>)?")
_IN_CELL = re.compile(rb"""\b(r|s|t)=["'](\w+)["']""")
_NUMBER = re.compile(rb"<c\b([^>]*[^>/])>(?:\s*<f\b[^>]*?(?:/>|>[^<]*</f>))?\s*<v>")  # a cell with a value
_TEXT = re.compile(rb"<c\b([^>]*[^>/])>")  # a cell with something in it
_SIGN = re.compile(r'\[\$([^\-\]]+)[^\]]*\]|"([€$£¥₹]|[A-Z]{3})\s?"|(?<!\[)([€$£¥₹])')  # in the format of a figure
_SCALING = re.compile(r"[0#?](,+)(?=[^0#?,]|$)")  # in the format of a figure
_TO_BE_WORKED_OUT = re.compile(rb"""\bfullCalcOnLoad=["'](?:1|true)["']""")
_PART = re.compile(r"xl/worksheets/[^/]+\.xml")
_PLACE = re.compile(r"([A-Z]{1,3})(\d+)")
_ODS_MARKS = (
    *(b'calcext:value-type="error"', b'office:value-type="percentage"', b'office:value-type="date"'),
    *(b"table:visibility=", b"<table:table-row-group", b"fo:margin-left=", b"table:formula="),
)
MOST_COLUMNS = 16_384  # of a sheet
MOST_REPEATED = 100_000  # cells that one stands for
_CALCEXT = "{urn:org:documentfoundation:names:experimental:calc:xmlns:calcext:1.0}"
_OFFICE = "{urn:oasis:names:tc:opendocument:xmlns:office:1.0}"
_STYLE = "{urn:oasis:names:tc:opendocument:xmlns:style:1.0}"
_MARGIN = "{urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0}margin-left"
_LENGTH = re.compile(r"(\d*\.?\d+)(in|cm|mm|pt)")
_INCHES = {"in": 1.0, "cm": 1 / 2.54, "mm": 1 / 25.4, "pt": 1 / 72}
_LEVEL = 0.12  # inches that a text is set in by one step
_TABLE = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}"

Texts = Mapping[tuple[int, int], str]


@dataclass(frozen=True, slots=True)
class OddCells:
    """What cells with an error say, the formulas without a value, and which cells are shown in per cent.

    All are by row and column, both counted from 0; `shown_in` is by column, the powers of ten that figures are shown in
    by their format, each with how many are; `levels` by row, how deep its group or its name is set in; `months` and
    `years` are dates that are shown without their day, or as a year alone; `currencies` are the signs that figures are
    shown with, where those are several; `sums` are the rows that the formulas of a row add up, counted from 1.
    """

    errors: Texts = field(default_factory=dict)
    formulas: Texts = field(default_factory=dict)
    percents: frozenset[tuple[int, int]] = frozenset()
    shown_in: Mapping[int, Counter[int]] = field(default_factory=dict)
    hidden_rows: frozenset[int] = frozenset()
    hidden_columns: frozenset[int] = frozenset()
    levels: Mapping[int, int] = field(default_factory=dict)
    months: frozenset[tuple[int, int]] = frozenset()
    years: frozenset[tuple[int, int]] = frozenset()
    currencies: Texts = field(default_factory=dict)
    sums: Mapping[int, frozenset[int]] = field(default_factory=dict)

    def __bool__(self) -> bool:
        looks = (self.hidden_rows, self.hidden_columns, self.levels, self.months, self.years, self.currencies)
        return any((self.errors, self.formulas, self.percents, self.shown_in, *looks, self.sums))


@dataclass(frozen=True, slots=True)
class _Styles:
    """The styles of cells, as cells name them: in per cent, months and years alone, in which power, how far set in."""

    percents: frozenset[bytes] = frozenset()
    months: frozenset[bytes] = frozenset()
    years: frozenset[bytes] = frozenset()
    powers: Mapping[bytes, int] = field(default_factory=dict)
    set_in: Mapping[bytes, int] = field(default_factory=dict)
    currencies: Mapping[bytes, str] = field(default_factory=dict)


def odd_cells(path: Path) -> Mapping[str, OddCells]:
    """The cells without a value of their own, by sheet.

    Of a workbook that cannot be unpacked, none: its parser says what is wrong.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            return _of_ods(archive) if "content.xml" in archive.namelist() else _of_xlsx(archive)
    except (zipfile.BadZipFile, zlib.error, RuntimeError, EOFError, OSError, KeyError, SyntaxError):
        return {}


def _of_xlsx(archive: zipfile.ZipFile) -> Mapping[str, OddCells]:
    parts = [one for one in archive.namelist() if _PART.fullmatch(one)]
    is_new = _TO_BE_WORKED_OUT.search(archive.read("xl/workbook.xml")) is not None
    styles = _styles_of_cells(archive)
    found = {}
    for part in parts:
        sheet = archive.read(part)
        odd = OddCells(
            errors=_in_rows(sheet),
            formulas=_never_worked_out(sheet, is_new=is_new),
            percents=_styled(sheet, styles.percents),
            months=_styled(sheet, styles.months),
            years=_styled(sheet, styles.years),
            shown_in=_shown_in(sheet, styles.powers),
            hidden_rows=frozenset(place for of, to in _hidden(sheet, b"row", b"r", b"r") for place in range(of, to)),
            hidden_columns=frozenset(
                place
                for of, to in _hidden(sheet, b"col", b"min", b"max")
                for place in range(of, min(to, MOST_COLUMNS))
            ),
            levels=_levels(sheet, styles.set_in),
            currencies=_currencies(sheet, styles.currencies),
            sums=_sums(sheet),
        )
        if odd:
            found[part] = odd
    titles = _titles(archive) if found else {}
    return {titles[part]: errors for part, errors in found.items() if part in titles}


def may_hold_errors(sheet: bytes) -> bool:
    """Whether the XML of a sheet, or a piece of it, may have a cell with an error; a text may look like one."""
    return any(mark in sheet for mark in _MARKS)


def _in_rows(sheet: bytes) -> Texts:
    if not may_hold_errors(sheet):
        return {}
    found: dict[tuple[int, int], str] = {}
    for _, one in ElementTree.iterparse(io.BytesIO(sheet)):
        if _is(one, "c") and one.get("t") == "e":
            place = _PLACE.fullmatch(one.get("r", ""))
            text = next((part.text for part in one if _is(part, "v")), None)
            if place and text:
                found[int(place[2]) - 1, place_of(place[1])] = text
        elif _is(one, "row"):
            one.clear()
    return found


def _never_worked_out(sheet: bytes, *, is_new: bool) -> Texts:
    """The formulas without a value; all of them where they are to be worked out on opening, and each has 0 till then.

    So scripts write workbooks, which no spreadsheet has opened since.
    """
    kept: dict[tuple[int, int], tuple[bytes, bytes]] = {}
    for cell in _FORMULA.finditer(sheet) if b"<f" in sheet else ():
        attributes = dict(_IN_CELL.findall(cell[1]))
        place = _PLACE.fullmatch(attributes.get(b"r", b"").decode())
        if place and attributes.get(b"t", b"n") == b"n":
            kept[int(place[2]) - 1, place_of(place[1])] = cell[2] or b"", cell[3] or b""
    is_empty = is_new and all(value in (b"", b"0") for _, value in kept.values())
    return {
        place: f"={unescape(formula.decode('utf-8', 'replace'))}"
        for place, (formula, value) in kept.items()
        if is_empty or not value
    }


def _styles_of_cells(archive: zipfile.ZipFile) -> _Styles:
    if "xl/styles.xml" not in archive.namelist():
        return _Styles()
    styles = ElementTree.fromstring(archive.read("xl/styles.xml"))
    codes = {one.get("numFmtId"): one.get("formatCode", "") for one in styles.iter() if _is(one, "numFmt")}
    # Of those that are built in, 9 is 0% and 10 is 0.00%, 17 is mmm-yy (18.8.30).
    plain = {name: re.sub(r'"[^"]*"|\\.', "", code).partition(";")[0] for name, code in codes.items()}
    percents = {"9", "10", *(name for name, code in plain.items() if "%" in code)}
    # A comma behind the last digit leaves out three of them.
    powers = {name: 3 * len(found[1]) for name, code in plain.items() if (found := _SCALING.search(code))}
    letters = {name: set(re.sub(r"\[[^\]]*\]", "", code).casefold()) for name, code in plain.items()}
    dates = {name: found & set("ymd") for name, found in letters.items() if not found & set("hs0#?@")}
    months = {"17", *(name for name, found in dates.items() if found in ({"y", "m"}, {"m"}))}
    years = {name for name, found in dates.items() if found == {"y"}}
    formats = next((list(one) for one in styles if _is(one, "cellXfs")), [])
    named = [(str(at).encode(), one.get("numFmtId")) for at, one in enumerate(formats)]
    percent, month, year = (
        frozenset(style for style, name in named if name in names) for names in (percents, months, years)
    )
    set_in = {
        str(at).encode(): int(part.get("indent", "0"))
        for at, one in enumerate(formats)
        for part in one
        if _is(part, "alignment") and part.get("indent", "0") not in ("", "0")
    }
    in_powers = {style: powers[name] for style, name in named if name in powers}
    signs = {name: found[1] or found[2] or found[3] for name, code in codes.items() if (found := _SIGN.search(code))}
    currencies = {style: signs[name].strip() for style, name in named if name in signs}
    return _Styles(percents=percent, months=month, years=year, powers=in_powers, set_in=set_in, currencies=currencies)


def _currencies(sheet: bytes, styles: Mapping[bytes, str]) -> Texts:
    """The signs of currencies that figures are shown with by their format, where those are several."""
    if len(set(styles.values())) < 2:
        return {}
    cells = (dict(_IN_CELL.findall(cell[1])) for cell in _NUMBER.finditer(sheet))
    shown = {one[b"r"].decode(): sign for one in cells if b"r" in one and (sign := styles.get(one.get(b"s", b"")))}
    places = {place: sign for text, sign in shown.items() if (place := _PLACE.fullmatch(text))}
    found = {(int(place[2]) - 1, place_of(place[1])): sign for place, sign in places.items()}
    return found if len(set(found.values())) > 1 else {}


def _sums(sheet: bytes) -> Mapping[int, frozenset[int]]:
    """The rows that are added up by formulas, by the row of those."""
    found: dict[int, frozenset[int]] = {}
    for cell in _FORMULA.finditer(sheet) if b"<f" in sheet else ():
        place = _PLACE.fullmatch(dict(_IN_CELL.findall(cell[1])).get(b"r", b"").decode())
        if place and cell[2] and (rows := rows_added_up(cell[2].decode("utf-8", "replace"), place[1], int(place[2]))):
            found[int(place[2])] = found.get(int(place[2]), frozenset()) | rows
    return found


def _levels(sheet: bytes, styles: Mapping[bytes, int]) -> Mapping[int, int]:
    """How deep each row is: by the groups of rows that it is in, and by how far its first text is set in."""
    found: dict[int, int] = {}
    for one in re.finditer(rb"<row\b[^>]*\boutlineLevel=[^>]*>", sheet) if b"outlineLevel=" in sheet else ():
        said: dict[bytes, bytes] = dict(re.findall(rb"""\b(\w+)=["'](\w+)["']""", one[0]))
        if b"r" in said:
            found[int(said[b"r"]) - 1] = int(said[b"outlineLevel"])
    seen: set[int] = set()
    is_set_in = any(b's="%s"' % one in sheet or b"s='%s'" % one in sheet for one in styles)
    for cell in _TEXT.finditer(sheet) if is_set_in else ():
        attributes = dict(_IN_CELL.findall(cell[1]))
        place = _PLACE.fullmatch(attributes.get(b"r", b"").decode())
        if place and attributes.get(b"t") in (b"s", b"str", b"inlineStr") and (row := int(place[2]) - 1) not in seen:
            seen.add(row)
            if depth := styles.get(attributes.get(b"s", b""), 0):
                found[row] = found.get(row, 0) + depth
    return found


def _shown_in(sheet: bytes, styles: Mapping[bytes, int]) -> Mapping[int, Counter[int]]:
    """In which powers of ten the figures of each column are shown, of columns that have such figures."""
    if not any(b's="%s"' % one in sheet or b"s='%s'" % one in sheet for one in styles):
        return {}
    found: dict[int, Counter[int]] = {}
    for cell in _NUMBER.finditer(sheet):
        attributes = dict(_IN_CELL.findall(cell[1]))
        place = _PLACE.fullmatch(attributes.get(b"r", b"").decode())
        if place and attributes.get(b"t", b"n") == b"n":
            found.setdefault(place_of(place[1]), Counter())[styles.get(attributes.get(b"s", b""), 0)] += 1
    return {column: counts for column, counts in found.items() if any(counts.keys())}


def _hidden(sheet: bytes, what: bytes, first: bytes, last: bytes) -> Iterator[tuple[int, int]]:
    """The hidden rows or columns, each run from its first to the one after its last, but for groups folded up."""
    for one in re.finditer(rb"<%s\b[^>]*\bhidden=[^>]*>" % what, sheet) if b"hidden=" in sheet else ():
        said: dict[bytes, bytes] = dict(re.findall(rb"""\b(\w+)=["'](\w+)["']""", one[0]))
        if said.get(b"hidden") in (b"1", b"true") and said.get(b"outlineLevel", b"0") == b"0" and first in said:
            yield int(said[first]) - 1, int(said[last] if last in said else said[first])


def _styled(sheet: bytes, styles: frozenset[bytes]) -> frozenset[tuple[int, int]]:
    if not any(b's="%s"' % one in sheet or b"s='%s'" % one in sheet for one in styles):
        return frozenset()
    styled = re.compile(rb"""<c\b[^>]*?\bs=["'](?:%s)["'][^>]*>""" % b"|".join(styles))
    attributes = (dict(_IN_CELL.findall(cell[0])) for cell in styled.finditer(sheet))
    places = (_PLACE.fullmatch(one.get(b"r", b"").decode()) for one in attributes)
    return frozenset((int(place[2]) - 1, place_of(place[1])) for place in places if place)


def _is(one: ElementTree.Element, name: str) -> bool:
    return one.tag.rpartition("}")[2] == name


def _titles(archive: zipfile.ZipFile) -> Mapping[str, str]:
    """The title of the sheet that each part of the workbook holds."""
    relations = ElementTree.fromstring(archive.read("xl/_rels/workbook.xml.rels"))
    parts = {one.get("Id"): one.get("Target", "") for one in relations}
    found = {}
    for one in ElementTree.fromstring(archive.read("xl/workbook.xml")).iter():
        if _is(one, "sheet"):
            relation = next((value for name, value in one.items() if name.endswith("}id")), None)
            part = parts.get(relation, "")
            found[part.lstrip("/") if part.startswith("/") else f"xl/{part}"] = one.get("name", "")
    return found


def _of_ods(archive: zipfile.ZipFile) -> Mapping[str, OddCells]:
    content = archive.read("content.xml")
    if not any(mark in content for mark in _ODS_MARKS):
        return {}
    root, found = ElementTree.fromstring(content), {}
    set_in, read = _margins(root), cache(written)
    for table in root.iter(f"{_TABLE}table"):
        errors: dict[tuple[int, int], str] = {}
        percents: set[tuple[int, int]] = set()
        shown: dict[Grain, set[tuple[int, int]]] = {Grain.MONTH: set(), Grain.YEAR: set()}
        hidden: set[int] = set()
        levels: dict[int, int] = {}
        sums: dict[int, frozenset[int]] = {}
        grouped = Counter(
            line for group in table.iter(f"{_TABLE}table-row-group") for line in group.iter(f"{_TABLE}table-row")
        )
        row = 0
        for line in table.iter(f"{_TABLE}table-row"):
            column, rows = 0, int(line.get(f"{_TABLE}number-rows-repeated", 1))
            first = next((cell for cell in line if cell.get(f"{_OFFICE}value-type") == "string"), None)
            depth = grouped[line] + (0 if first is None else set_in.get(first.get(f"{_TABLE}style-name", ""), 0))
            if depth and rows <= MOST_REPEATED:
                levels.update(dict.fromkeys(range(row, row + rows), depth))
            for cell in line:
                columns = int(cell.get(f"{_TABLE}number-columns-repeated", 1))
                alike = itertools.product(range(row, row + rows), range(column, column + columns))
                if cell.get(f"{_CALCEXT}value-type") == "error":
                    errors[row, column] = "".join(cell.itertext())
                if cell.get(f"{_OFFICE}value-type") == "percentage":
                    percents.update(itertools.islice(alike, MOST_REPEATED))
                if cell.get(f"{_OFFICE}value-type") == "date" and (its := read("".join(cell.itertext()))):
                    shown.get(its.grain, set()).update(itertools.islice(alike, MOST_REPEATED))
                if formula := cell.get(f"{_TABLE}formula"):  # of:=SUM([.B2:.B3])
                    plain = re.sub(r"^\w+:|[\[\].]", "", formula)
                    sums[row + 1] = sums.get(row + 1, frozenset()) | rows_added_up(plain, letter_of(column), row + 1)
                column += columns
            if line.get(f"{_TABLE}visibility") in ("collapse", "filter") and not grouped[line]:
                hidden.update(itertools.islice(range(row, row + rows), MOST_REPEATED))
            row += rows
        found[table.get(f"{_TABLE}name", "")] = OddCells(
            errors=errors,
            percents=frozenset(percents),
            hidden_rows=frozenset(hidden),
            hidden_columns=_hidden_columns(table),
            levels=levels,
            months=frozenset(shown[Grain.MONTH]),
            years=frozenset(shown[Grain.YEAR]),
            sums=sums,
        )
    return found


def _margins(root: ElementTree.Element) -> Mapping[str, int]:
    """How many levels the styles of cells set a text in, by their names."""
    found = {}
    for style in root.iter(f"{_STYLE}style"):
        for one in style.iter(f"{_STYLE}paragraph-properties"):
            size = _LENGTH.fullmatch(one.get(_MARGIN, ""))
            if size and (levels := round(float(size[1]) * _INCHES[size[2]] / _LEVEL)):
                found[style.get(f"{_STYLE}name", "")] = levels
    return found


def _hidden_columns(table: ElementTree.Element) -> frozenset[int]:
    hidden: set[int] = set()
    column = 0
    for one in table.iter(f"{_TABLE}table-column"):
        columns = int(one.get(f"{_TABLE}number-columns-repeated", 1))
        if one.get(f"{_TABLE}visibility") in ("collapse", "filter"):
            hidden.update(range(column, min(column + columns, MOST_COLUMNS)))
        column += columns
    return frozenset(hidden)
