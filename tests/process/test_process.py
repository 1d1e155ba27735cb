"""What only a process of its own shows: start, signals, pipes, terminals, exit statuses, and output that is whole."""

from __future__ import annotations

import os
import re
import shlex
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from conftest import DEMO, MARVEX, ROOT, Desk

BY_ROUTE = ("table", str(DEMO), "--by", "route", "--versus", "year-ago")


def in_a_terminal(desk: Desk, *words: str, **variables: str) -> str:
    """What the command prints in a terminal of 150 columns."""
    shell = " ".join(shlex.quote(word) for word in (str(MARVEX), *words))
    told = {**os.environ, "TERM": "xterm-256color", "COLUMNS": "150", **variables}
    done = subprocess.run(
        ["script", "-qec", shell, "/dev/null"], cwd=desk.folder, env=told, capture_output=True, check=True
    )
    return done.stdout.decode()


def test_colour_is_for_terminals_and_can_be_refused(desk: Desk) -> None:
    told = {name: "" for name in ("NO_COLOR",) if name in os.environ}
    assert "\x1b[35m" in in_a_terminal(desk, *BY_ROUTE, "-q", **told)
    assert "\x1b[35m" not in in_a_terminal(desk, *BY_ROUTE, "-q", NO_COLOR="1")


def test_a_process_gives_what_a_call_within_gives(desk: Desk) -> None:
    # The quick exit cuts nothing off: a long table is whole, down a pipe as in a file.
    rows = [(f"2026-{1 + n % 12:02}-01", f"Berth {n}", n) for n in range(5_000)]
    desk.write("long.csv", rows, ("date", "berth", "net"))
    words = ("table", "long.csv", "--by", "berth", "--versus", "none", "-q")
    out = desk.process(*words).out
    assert out == desk.run(*words).out
    assert out.count("Berth ") == 5_000 and "5,000 of 5,000 rows" in out


def test_statuses_are_what_a_scheduled_job_reads(desk: Desk) -> None:
    desk.write("items.csv", [("Fuel", 120, 100)], ("item", "now", "then"))
    words = ("table", "items.csv", "--current", "now", "--base", "then")
    assert desk.process(*words).status == 0
    gate = desk.process(*words, "--band", "Over [worse fails]: change > 5%")
    assert gate.status == 1 and "met a band that fails: Over" in gate.err and "Fuel" in gate.out
    wrong = desk.process(*words, "--band", "Over [worse]: chnge > 5%")
    assert (wrong.status, wrong.out) == (2, "") and "Did you mean change?" in wrong.err
    assert desk.process("--version").out.startswith("marvex ")


def test_standard_input_is_read_once_whatever_is_asked_of_it(desk: Desk) -> None:
    feed = b"Step,Amount\nOpening,900\nHires,120\nLeavers,-60\nClosing,960\n"
    done = desk.process("draw", "waterfall", "-", "-o", "w.png", "--figures", "w.json", feed=feed)
    assert done.status == 0, done.err
    assert (desk.folder / "w.png").stat().st_size > 10_000


def test_a_full_disk_and_a_closed_pipe_end_in_one_line_at_most(desk: Desk) -> None:
    shell = " ".join(shlex.quote(word) for word in (str(MARVEX), *BY_ROUTE, "-q"))
    for words in (shell, f"{shlex.quote(str(MARVEX))} --help"):
        full = subprocess.run(["sh", "-c", f"{words} > /dev/full"], capture_output=True, cwd=desk.folder, check=False)
        told = full.stderr.decode().splitlines()
        assert full.returncode == 2 and told[0] == "marvex: the result cannot be printed: No space left on device."
    closed = subprocess.run(["sh", "-c", f"{shell} | head -1"], capture_output=True, cwd=desk.folder, check=False)
    assert (closed.returncode, closed.stderr) == (0, b"")


def test_an_interruption_writes_nothing_and_says_so(desk: Desk) -> None:
    with subprocess.Popen([MARVEX, "table", "-", "-o", "t.csv"], cwd=desk.folder, stdin=subprocess.PIPE,
                          stdout=subprocess.PIPE, stderr=subprocess.PIPE) as waiting:  # fmt: skip
        time.sleep(2)
        waiting.send_signal(signal.SIGINT)
        _, told = waiting.communicate(timeout=20)
    assert (waiting.returncode, told) == (130, b"marvex: interrupted. Nothing was written.\n")
    assert list(desk.folder.iterdir()) == []


@pytest.mark.parametrize("words", ["--help", "draw --help"])
def test_help_loads_neither_the_engine_nor_the_drawing_library(desk: Desk, words: str) -> None:
    asked = f"""
import sys
from marvex.cli.main import main
try:
    main({words.split()!r})
except SystemExit:
    print([one for one in ("matplotlib", "duckdb", "pandas", "numpy", "pydantic") if one in sys.modules])
"""
    done = subprocess.run([sys.executable, "-c", asked], capture_output=True, text=True, cwd=desk.folder, check=True)
    assert done.stdout.splitlines()[-1] == "[]"


def test_modules_start_the_same_command(desk: Desk) -> None:
    done = subprocess.run([sys.executable, "-m", "marvex", "--version"], capture_output=True, text=True, check=True)
    assert done.stdout == desk.process("--version").out


def test_no_option_is_named_below_the_request() -> None:
    # A mistake knows its field; what that is called where it was said, `request/wording.py` and a pack say.
    for folder in ("core", "sources", "tables"):
        for path in sorted((ROOT / "src/marvex" / folder).rglob("*.py")):
            code = strings_of(path)
            assert not [text for text in code if "--" in text.replace("---", "")], path


def test_a_view_is_added_in_one_file_as_the_document_says(desk: Desk) -> None:
    (text,) = re.findall(r"```python\n(.*?)```", (ROOT / "docs/contributing.md").read_text(), re.DOTALL)
    assert len(text.splitlines()) < 100
    shutil.copytree(ROOT / "src/marvex", desk.folder / "marvex", ignore=shutil.ignore_patterns("__pycache__"))
    (desk.folder / "marvex/views/dots.py").write_text(text)
    words = ("draw", "dots", str(DEMO), "--by", "route", "--versus", "year-ago", "-o", "dots.svg", "-q")
    done = subprocess.run([sys.executable, "-m", "marvex", *words], cwd=desk.folder, capture_output=True, check=False)
    assert (done.returncode, done.stderr) == (0, b"")
    assert "Harrow Skerry loop" in (desk.folder / "dots.svg").read_text()
    assert (
        "dots"
        in subprocess.run(
            [sys.executable, "-m", "marvex", "draw", "--help"],
            cwd=desk.folder,
            capture_output=True,
            text=True,
            check=True,
        ).stdout
    )


def test_each_decision_has_the_one_file_that_the_document_names() -> None:
    named = re.findall(r"^\| .* \| `(src/marvex/[^`]+)` \|$", (ROOT / "docs/design.md").read_text(), re.MULTILINE)
    assert len(named) >= 20 and all((ROOT / one).is_file() for one in named)


def strings_of(path: Path) -> list[str]:
    """The texts in a module, but for what documents it."""
    import ast

    tree = ast.parse(path.read_text())
    documented = (ast.Module, ast.ClassDef, ast.FunctionDef)
    told = {ast.get_docstring(one, clean=False) for one in ast.walk(tree) if isinstance(one, documented)}
    texts = [one.value for one in ast.walk(tree) if isinstance(one, ast.Constant) and isinstance(one.value, str)]
    return [text for text in texts if text not in told]


def test_a_result_is_printed_whatever_the_encoding_or_fails_in_words(desk: Desk) -> None:
    desk.write("t.csv", [("A", 1, 2)], ("item", "now", "then"))
    call = f"{MARVEX} table t.csv --current now --base then"

    def shell(line: str) -> subprocess.CompletedProcess[bytes]:
        return subprocess.run(["bash", "-c", line], cwd=desk.folder, capture_output=True, check=False, timeout=60)

    old = shell(f"PYTHONIOENCODING=cp1252 {call}")
    assert old.returncode == 0 and b"1 below then (-50.0%)" in old.stdout
    assert shell(f"{call} | head -1; exit ${{PIPESTATUS[0]}}").returncode == 0
    for end in (">&-", "> /dev/full"):
        done = shell(f"{call} {end}")
        assert done.returncode == 2 and b"the result cannot be printed" in done.stderr and b"Trace" not in done.stderr
    assert shell(f"{call} 2>&-").returncode == 0


def test_nothing_is_asked_of_a_network(desk: Desk) -> None:
    # Python tells an audit hook of every socket that is made, whichever library makes it.
    asked = """
import sys
def refuse(event, _):
    if event.startswith("socket."):
        raise SystemExit("a socket was asked for: " + event)
sys.addaudithook(refuse)
from marvex.cli.main import main
for words in {calls!r}:
    assert main(words) == 0, words
"""
    sides = ["--by", "account_name", "--versus", "year-ago", "-q"]
    calls = [
        ["table", str(DEMO), *sides, "--verify", "-o", "t.xlsx", "--figures", "t.json", "--per-day", "working"],
        ["draw", "waterfall", str(DEMO), *sides, "-o", "w.svg", "-o", "w.pdf", "--since", "t.json"],
        ["commentary", str(DEMO), *sides],
        ["trace", str(DEMO), *sides, "--at", "Fuel"],
        ["survey", str(DEMO)],
        ["begin", "little.csv", "-o", "p.toml"],
        ["pack", "p.toml", "-q"],
    ]
    desk.write("little.csv", [("Fuel", 5, 4), ("Crew", 7, 8)], ("item", "actual", "budget"))
    done = subprocess.run(
        [sys.executable, "-c", asked.format(calls=calls)],
        cwd=desk.folder,
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr


def test_a_trace_shows_as_many_rows_as_it_may(desk: Desk) -> None:
    rows = [("Fuel", f"secret {n}", n, 1) for n in range(9)]
    desk.write("l.csv", rows, ("item", "payee", "now", "then"))
    words = ("trace", "l.csv", "--by", "item", "--current", "now", "--base", "then", "--at", "Fuel", "-o", "t.json")
    for asked, shown in ((("--trace-rows", "0"), 0), (("--trace-rows", "2"), 2), ((), 5)):
        done = desk.run(*words, *asked)
        assert done.status == 0, done.err
        told = (done.out + (desk.folder / "t.json").read_text()).count("secret")
        assert told == 0 if not shown else told >= 2 * shown, asked
