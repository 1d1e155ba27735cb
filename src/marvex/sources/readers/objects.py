"""Lists of objects, `.json` and `.jsonl`, as headings and rows of text."""

from __future__ import annotations

import gzip
import json
from pathlib import Path
from typing import Any

from marvex.core.errors import Mistake


def objects(path: Path, name: str, kind: str) -> tuple[list[str], list[list[str]]]:
    """A list of objects, or one object a line, as headings and rows; every figure keeps its digits."""
    text = gzip.decompress(path.read_bytes()) if path.suffix == ".gz" else path.read_bytes()
    decoder: Any = {"parse_float": str, "parse_int": str}
    try:
        if kind == ".jsonl":
            lines = text.decode("utf-8-sig").splitlines()
            records = [json.loads(line, **decoder) for line in lines if line.strip()]
        else:
            records = json.loads(text.decode("utf-8-sig"), **decoder)
    except (UnicodeDecodeError, json.JSONDecodeError) as problem:
        raise Mistake(f"{name} is not JSON: {problem}", "Give a list of objects, or one object a line.") from problem
    if not isinstance(records, list) or not all(isinstance(record, dict) for record in records):
        raise Mistake(f"{name} is not a list of objects", "Give [{…}, {…}], or one object a line as .jsonl.")
    headings = list(dict.fromkeys(key for record in records for key in record))
    if not headings:
        raise Mistake(f"{name} is empty", "Give a list of objects with rows of data.")
    return headings, [[_json_text(record.get(key)) for key in headings] for record in records]


def _json_text(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return str(value).lower()
    return value if isinstance(value, str) else json.dumps(value)
