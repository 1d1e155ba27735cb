"""Lists of objects, `.json` and `.jsonl`, as headings and rows of text."""

from __future__ import annotations

import gzip
import json
import re
from collections import Counter
from decimal import Decimal
from functools import partial
from pathlib import Path
from typing import Any

from marvex.core.errors import Mistake, listed
from marvex.sources.cells import BINARY_DIGITS, typed_figures

_FIGURE = re.compile(r"-?[0-9]+(?:\.[0-9]+)?")
_SURROGATE = re.compile("[\ud800-\udfff]")
_NOISE = re.compile(r"(?:9{6,}|0{6,})[0-9]?$")


def objects(path: Path, name: str, kind: str, numbers: str) -> tuple[list[str], list[list[str]]]:
    """A list of objects, or one object a line, as headings and rows; every figure keeps its digits.

    The list may be the only one within an object, and what is within an object's object has a heading of both names.
    """
    text = gzip.decompress(path.read_bytes()) if path.suffix == ".gz" else path.read_bytes()
    decoder: Any = {"parse_float": _Figure, "parse_int": str, "object_pairs_hook": partial(_object, name)}
    try:
        if kind == ".jsonl":
            lines = text.decode("utf-8-sig").split("\n")  # a string may hold other ends of lines
            records = [json.loads(line, **decoder) for line in lines if line.strip()]
        else:
            records = json.loads(text.decode("utf-8-sig"), **decoder)
    except (UnicodeDecodeError, json.JSONDecodeError) as problem:
        raise Mistake(f"{name} is not JSON: {problem}", "Give a list of objects, or one object a line.") from problem
    except RecursionError:
        raise Mistake(f"{name} is nested too deeply", "Give a list of objects, or one object a line.") from None
    lists = _lists(records)
    lists = {key: found for key, found in lists.items() if found} or lists
    if len(lists) != 1:
        what = f"holds several lists: {listed(lists)}" if lists else "is not a list of objects"
        raise Mistake(f"{name} {what}", "Give [{…}, {…}], or one object a line as .jsonl.")
    records = [_object(name, _flat(record)) for found in lists.values() for record in found]
    headings = list(dict.fromkeys(key for record in records for key in record))
    if not headings:
        raise Mistake(f"{name} is empty", "Give a list of objects with rows of data.")
    columns = [_texts([record.get(key) for record in records], numbers) for key in headings]
    if any(_SURROGATE.search("".join(texts)) for texts in (headings, *columns)):
        raise Mistake(f"{name} holds half a letter, which no file can", "Write its letters as UTF-8.")
    return headings, [list(row) for row in zip(*columns, strict=True)]


def _object(name: str, pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) < len(pairs):
        twice = next(key for key, count in Counter(key for key, _ in pairs).items() if count > 1)
        raise Mistake(f"{name} has an object with '{twice}' twice", "Give each a name of its own.")
    return found


def _lists(value: Any, name: str = "") -> dict[str, list[dict[str, Any]]]:
    """The lists of objects that a value is or that its objects hold, by their names."""
    if isinstance(value, list):
        return {name: value} if all(isinstance(one, dict) for one in value) else {}
    inner = value.items() if isinstance(value, dict) else ()
    return {path: found for key, one in inner for path, found in _lists(one, f"{name}.{key}".strip(".")).items()}


def _flat(record: dict[str, Any], name: str = "") -> list[tuple[str, Any]]:
    """An object with those within it laid open: {"net": {"value": 5}} has `net.value`."""
    found = []
    for key, value in record.items():
        found += _flat(value, f"{name}{key}.") if isinstance(value, dict) and value else [(f"{name}{key}", value)]
    return found


class _Figure(str):
    """A figure with decimals, as it is written."""


def _texts(values: list[Any], numbers: str) -> list[str]:
    """A column as text, its figures as they were meant and so that they fit the convention of its texts."""
    texts = _without_noise([_json_text(value) for value in values])
    places = [place for place, value in enumerate(values) if isinstance(value, _Figure)]
    others = [texts[place] for place, value in enumerate(values) if type(value) is str]
    for place, text in zip(places, typed_figures([texts[place] for place in places], others, numbers), strict=True):
        texts[place] = text
    return texts


def _without_noise(texts: list[str]) -> list[str]:
    """A column of binary figures, as their digits show, with the decimals that 15 digits of the largest leave."""
    figures = [text for text in texts if _FIGURE.fullmatch(text)]
    if not any(_is_binary(text) for text in figures):
        return texts
    unit = Decimal(1).scaleb(
        -max(0, BINARY_DIGITS - max(len(text.lstrip("-0").partition(".")[0]) for text in figures))
    )
    return [f"{Decimal(text).quantize(unit).normalize():f}" if _FIGURE.fullmatch(text) else text for text in texts]


def _is_binary(text: str) -> bool:
    """Whether a figure has 16 or 17 digits, or ends as a sum of binary figures does: 17830.4399999999."""
    digits = text.strip("-0").replace(".", "")
    return "." in text and (len(digits) in (BINARY_DIGITS + 1, BINARY_DIGITS + 2) or _NOISE.search(text) is not None)


def _json_text(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return str(value).lower()
    return value if isinstance(value, str) else json.dumps(value)
