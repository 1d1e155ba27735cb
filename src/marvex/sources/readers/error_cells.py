"""The cells of a workbook that hold an error, #DIV/0! or #REF!: its parser gives them as empty."""

from __future__ import annotations

import io
import re
import zipfile
import zlib
from collections.abc import Mapping
from pathlib import Path
from xml.etree import ElementTree

from marvex.sources.readers.grid import place_of

# The type of a cell that holds an error (ECMA-376, part 1, 18.18.11), in either kind of quotes.
_MARKS = (b't="e"', b"t='e'")
_PART = re.compile(r"xl/worksheets/[^/]+\.xml")
_PLACE = re.compile(r"([A-Z]{1,3})(\d+)")
_ODS_MARK = b'calcext:value-type="error"'
_CALCEXT = "{urn:org:documentfoundation:names:experimental:calc:xmlns:calcext:1.0}"
_TABLE = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}"

Errors = Mapping[tuple[int, int], str]


def error_cells(path: Path) -> Mapping[str, Errors]:
    """What the cells with an error say, by sheet and by row and column, both counted from 0.

    Of a workbook that cannot be unpacked, none: its parser says what is wrong.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            return _of_ods(archive) if "content.xml" in archive.namelist() else _of_xlsx(archive)
    except (zipfile.BadZipFile, zlib.error, RuntimeError, EOFError, OSError, KeyError, SyntaxError):
        return {}


def _of_xlsx(archive: zipfile.ZipFile) -> Mapping[str, Errors]:
    parts = [one for one in archive.namelist() if _PART.fullmatch(one)]
    found = {part: errors for part in parts if (errors := _in_rows(archive.read(part)))}
    titles = _titles(archive) if found else {}
    return {titles[part]: errors for part, errors in found.items() if part in titles}


def may_hold_errors(sheet: bytes) -> bool:
    """Whether the XML of a sheet, or a piece of it, may have a cell with an error; a text may look like one."""
    return any(mark in sheet for mark in _MARKS)


def _in_rows(sheet: bytes) -> Errors:
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


def _of_ods(archive: zipfile.ZipFile) -> Mapping[str, Errors]:
    content = archive.read("content.xml")
    if _ODS_MARK not in content:
        return {}
    found: dict[str, dict[tuple[int, int], str]] = {}
    for table in ElementTree.fromstring(content).iter(f"{_TABLE}table"):
        errors, row = found.setdefault(table.get(f"{_TABLE}name", ""), {}), 0
        for line in table.iter(f"{_TABLE}table-row"):
            column = 0
            for cell in line:
                if cell.get(f"{_CALCEXT}value-type") == "error":
                    errors[row, column] = "".join(cell.itertext())
                column += int(cell.get(f"{_TABLE}number-columns-repeated", 1))
            row += int(line.get(f"{_TABLE}number-rows-repeated", 1))
    return found
