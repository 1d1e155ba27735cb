"""Which files can be read, by their endings; loaded before anything that reads them."""

from __future__ import annotations

from pathlib import Path

DELIMITED = (".csv", ".tsv", ".txt")
WORKBOOKS = (".xlsx", ".ods")
OBJECTS = (".json", ".jsonl")
READABLE = (*DELIMITED, ".parquet", *WORKBOOKS, *OBJECTS)


def kind_of(path: Path) -> str:
    """The ending that says what is in the file, `.gz` aside."""
    suffixes = [suffix.lower() for suffix in path.suffixes]
    return suffixes[-2] if suffixes[-1:] == [".gz"] and len(suffixes) > 1 else "".join(suffixes[-1:])
