"""Lists of objects, `.json` and `.jsonl`, as headings and rows of text."""

from __future__ import annotations

import gzip
import json
import re
from decimal import Decimal
from pathlib import Path
from typing import Any

from marvex.core.errors import Mistake
from marvex.sources.cells import BINARY_DIGITS, typed_figures

_FIGURE = re.compile(r"-?[0-9]+(?:\.[0-9]+)?")
_SURROGATE = re.compile("[\ud800-\udfff]")
_NOISE = re.compile(r"(?:9{6,}|0{6,})[0-9]?$")


def objects(path: Path, name: str, kind: str, numbers: str) -> tuple[list[str], list[list[str]]]:
    """A list of objects, or one object a line, as headings and rows; every figure keeps its digits."""
    text = gzip.decompress(path.read_bytes()) if path.suffix == ".gz" else path.read_bytes()
    decoder: Any = {"parse_float": _Figure, "parse_int": str}
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
    if not isinstance(records, list) or not all(isinstance(record, dict) for record in records):
        raise Mistake(f"{name} is not a list of objects", "Give [{…}, {…}], or one object a line as .jsonl.")
    headings = list(dict.fromkeys(key for record in records for key in record))
    if not headings:
        raise Mistake(f"{name} is empty", "Give a list of objects with rows of data.")
    columns = [_texts([record.get(key) for record in records], numbers) for key in headings]
    if any(_SURROGATE.search("".join(texts)) for texts in (headings, *columns)):
        raise Mistake(f"{name} holds half a letter, which no file can", "Write its letters as UTF-8.")
    return headings, [list(row) for row in zip(*columns, strict=True)]


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
