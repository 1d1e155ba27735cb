"""One reader, language or file of Marvex at a time, fed by atheris with inputs that reach ever more of its code.

python tests/fuzzing/parts.py TARGET [libFuzzer's own options] CORPUS
"""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Callable
from datetime import date
from pathlib import Path

import atheris

with atheris.instrument_imports(include=["marvex"]):
    from marvex.app.styling import styled
    from marvex.core.errors import Mistake
    from marvex.core.rules.language import parse_rule
    from marvex.core.time.calendar import CIVIL, Grain
    from marvex.core.time.notation import WindowReader, read_widening
    from marvex.pack.pack_file import read_pack
    from marvex.request.figures_file import earlier_run
    from marvex.request.rule_file import rules_from
    from marvex.request.statement_file import statement_from
    from marvex.sources.dates import read_days
    from marvex.sources.expression import parse_expression
    from marvex.sources.readers.files import Files
    from marvex.sources.readers.source_file import Wanted
    from marvex.sources.where import parse_filters

HEADINGS = ("net", "price", "odd name")
FOLDER = Path(tempfile.mkdtemp(prefix="marvex-fuzz-"))


def _text(content: bytes) -> str:
    return content.decode("utf-8", "replace")


def _file(content: bytes, ending: str) -> Path:
    path = FOLDER / f"input{ending}"
    path.write_bytes(content)
    return path


def _window(content: bytes) -> None:
    WindowReader(CIVIL, date(2026, 10, 31), Grain.DAY, date(2026, 11, 26)).read(_text(content))


def _reader(ending: str) -> Callable[[bytes], None]:
    def read(content: bytes) -> None:
        files = Files()
        try:
            files.file(Wanted(source=str(_file(content, ending))))
        finally:
            files.close()

    return read


TARGETS: dict[str, Callable[[bytes], object]] = {
    "rule": lambda content: parse_rule(_text(content).splitlines()),
    "window": _window,
    "widening": lambda content: read_widening(_text(content), "span"),
    "expression": lambda content: parse_expression(_text(content), HEADINGS, "f.csv"),
    "where": lambda content: parse_filters([_text(content)], HEADINGS, "f.csv"),
    "dates": lambda content: read_days(_text(content).split("\n"), "auto", "f.csv"),
    "statement": lambda content: statement_from(_file(content, ".toml"), None),
    "pack": lambda content: read_pack(_file(content, ".toml")),
    "rules": lambda content: rules_from(str(_file(content, ".toml"))),
    "style": lambda content: styled(str(_file(content, ".toml"))),
    "figures": lambda content: earlier_run(_file(content, ".json")),
    **{ending: _reader(f".{ending}") for ending in ("csv", "json", "jsonl", "xlsx", "ods", "csv.gz")},
}


def main() -> None:
    target = TARGETS[sys.argv[1]]

    def one(content: bytes) -> None:
        try:
            target(content)
        except Mistake as mistake:
            assert mistake.what, "a mistake that says nothing"

    atheris.Setup([sys.argv[0], *sys.argv[2:]], one)
    atheris.Fuzz()


if __name__ == "__main__":
    main()
