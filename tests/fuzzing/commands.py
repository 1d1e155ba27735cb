"""Whole commands on damaged and hostile inputs, by the thousand.

A finding is a status that is none of 0, 1 and 2, an exception that comes out, or a message of more than four lines.
"""

from __future__ import annotations

import contextlib
import io
import random
import tempfile
import time
import traceback
import zipfile
from collections import Counter
from pathlib import Path

import xlsxwriter

from marvex.cli.main import main

SLOWEST = 10  # seconds that a call may take
SIDES = ["--current", "now", "--base", "then"]
LEDGER = 'date,item,scenario,net\n2026-01-01,A,actual,5\n2026-01-02,B,budget,"7"\n2025-01-01,Ä,actual,3.50\n'.encode()
RECORDS = b'[{"item":"A","now":1,"then":2.5},{"item":"B","now":3,"then":null}]'
STATEMENT = (
    b'[statement]\nname="P"\nincome_sign="positive"\ncost_sign="positive"\n'
    b'[[line]]\nlabel="A"\naccounts=["A"]\nkind="income"\n[[line]]\nlabel="T"\ntotal_of=["A"]\n'
)
STYLE = b'inherits="dark"\n[fills]\nbetter="#238573"\n[sizes]\ntitle=20\n[colours]\nground="transparent"\n'
RULE = b"A [worse]: change > 5% and not (share < 3% or rank <= 2)"
WINDOWS = (b"2026-01", b"2026-Q1/2026-Q2", b"latest:month", b"rolling:12", b"FY2026-P03", b"2026-W05", b"year-ago")
ODD = (
    *(b"\x00", b"\xff", b'"', b"'", b",", b"\n", b"\r", b"<", b">", b"-", b"9" * 400, b"1e999", b"[[" * 50),
    *(b"ZZZZZ9", b'r="A0"', b"\xe2\x80\xae", b"\x1b[31m", b"=1+1", b"NaN"),
)


def mutated(chance: random.Random, content: bytes) -> bytes:
    """The content with a few bytes changed, put in, taken out, or said twice."""
    found = bytearray(content)
    for _ in range(chance.randint(1, 4)):
        at = chance.randrange(len(found) + 1)
        match chance.randrange(4):
            case 0:
                found[at : at + 1] = bytes([chance.randrange(256)])
            case 1:
                found[at:at] = chance.choice(ODD)
            case 2:
                del found[at : at + chance.randint(1, 20)]
            case _:
                found[at:at] = found[at : at + chance.randint(1, 60)]
    return bytes(found)


def workbook() -> dict[str, bytes]:
    """The parts of a small workbook."""
    content = io.BytesIO()
    book = xlsxwriter.Workbook(content)
    sheet = book.add_worksheet("S")
    for row, line in enumerate((("item", "now", "then"), ("A", 1.5, 2), ("B", 3, 4), ("C x", 5, 6))):
        sheet.write_row(row, 0, line)
    sheet.merge_range(5, 0, 7, 0, "m")
    book.close()
    with zipfile.ZipFile(content) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def call(chance: random.Random, parts: dict[str, bytes]) -> list[str]:
    """A call on an input that was just damaged; all other files are whole."""

    def text(content: bytes) -> str:
        return mutated(chance, content).decode("utf-8", "replace")

    Path("whole.csv").write_bytes(LEDGER)
    match chance.choice(("workbook", "workbook", "csv", "json", "statement", "style", "rule", "window")):
        case "workbook":
            part = chance.choice([name for name in parts if name.endswith((".xml", ".rels"))])
            with zipfile.ZipFile("m.xlsx", "w") as made:
                for name, content in parts.items():
                    made.writestr(name, mutated(chance, content) if name == part else content)
            return chance.choice((["survey", "m.xlsx"], ["table", "m.xlsx", *SIDES]))
        case "csv":
            Path("m.csv").write_bytes(mutated(chance, LEDGER))
            return chance.choice((["survey", "m.csv"], ["table", "m.csv", "--by", "item"], ["commentary", "m.csv"]))
        case "json":
            Path("m.json").write_bytes(mutated(chance, RECORDS))
            return ["table", "m.json", *SIDES]
        case "statement":
            Path("m.toml").write_bytes(mutated(chance, STATEMENT))
            return ["table", "whole.csv", "--statement", "m.toml", "--account", "item"]
        case "style":
            Path("m.toml").write_bytes(mutated(chance, STYLE))
            return ["draw", "variance", "whole.csv", "--by", "item", "--style", "m.toml", "-o", "x.svg"]
        case "rule":
            return ["table", "whole.csv", "--by", "item", "--band", text(RULE), "--band", "B: otherwise"]
    window, versus = text(chance.choice(WINDOWS)), text(chance.choice(WINDOWS))
    return ["table", "whole.csv", "--by", "item", "--for", window, "--versus", versus]


def tried(words: list[str]) -> tuple[int, str]:
    """The status of a call, and what is wrong with how it ended; empty where nothing is."""
    out, err = io.StringIO(), io.StringIO()
    try:
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = main(words)
    except SystemExit as stopped:
        status = int(stopped.code or 0)
    except BaseException as problem:
        return 99, "".join(traceback.format_exception_only(problem)).strip()
    if status not in (0, 1, 2):
        return status, err.getvalue().strip()
    is_long = status == 2 and len(err.getvalue().splitlines()) > 4
    return status, "a message of more than four lines" if is_long or "Traceback" in err.getvalue() else ""


def run(minutes: float, first: int) -> tuple[Counter[int], list[str]]:
    """Tries inputs for so long; gives how many ended with which status, and what was found."""
    statuses: Counter[int] = Counter()
    found: dict[str, str] = {}
    parts, seed, end = workbook(), first, time.monotonic() + 60 * minutes
    with tempfile.TemporaryDirectory() as folder, contextlib.chdir(folder):
        while time.monotonic() < end:
            words = call(random.Random(seed), parts)
            began = time.monotonic()
            status, wrong = tried(words)
            took = time.monotonic() - began
            statuses[status] += 1
            if wrong or took > SLOWEST:
                wrong = wrong or f"took {took:.0f} seconds"
                found.setdefault(wrong[:160], f"seed {seed}: {' '.join(words)[:120]}\n    {wrong}")
            seed += 1
    return statuses, list(found.values())
