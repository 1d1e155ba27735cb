"""What is written to a sheet, kept as plain data: it can be stored, and written into any workbook later."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

Script = list[list[Any]]


class RecordedBook:
    """Stands for a workbook: its sheets keep what is asked of them."""

    def __init__(self) -> None:
        self.script: Script = []

    def add_worksheet(self, _: str) -> RecordedSheet:
        return RecordedSheet(self.script)

    def add_format(self, look: dict[str, Any]) -> dict[str, Any]:
        """A format is what it looks like, until it is made in a real workbook."""
        return {"look": look}


class RecordedSheet:
    """Stands for a sheet."""

    def __init__(self, script: Script) -> None:
        self._script = script

    def __getattr__(self, method: str) -> Any:
        if method.startswith("_"):
            raise AttributeError(method)
        return lambda *words: self._script.append([method, *words])


class Replayed:
    """A real workbook into which what was kept is written."""

    def __init__(self, book: Any) -> None:
        self._book = book
        self._formats: dict[tuple[tuple[str, Any], ...], Any] = {}

    def write(self, sheet: Any, script: Sequence[Sequence[Any]]) -> None:
        for method, *words in script:
            getattr(sheet, method)(*map(self._real, words))

    def _real(self, word: Any) -> Any:
        if not isinstance(word, dict):
            return word
        if "look" not in word:
            return {name: self._real(one) for name, one in word.items()}
        key = tuple(sorted(word["look"].items()))
        if key not in self._formats:
            self._formats[key] = self._book.add_format(word["look"])
        return self._formats[key]
