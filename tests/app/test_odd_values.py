"""Every option of every command, with values that nobody should give: done, or refused in a few words."""

from __future__ import annotations

import itertools
import shlex
from pathlib import Path

import pytest

from marvex.cli.main import main
from marvex.request.settings import OPTIONS
from marvex.request.wording import flag

ODD = (
    *("", "é", "-1", "0", "999999999999999999999", "NaN", "'", '"', "=", "a=b", "a:b", ",", "%", "5%", "\u202e"),
    *("route", "nofile.toml", "ledger.csv", "x.png", ".", "top:0", "top:x", "1x1", "1/2", "rolling:0", "distinct:no"),
    *("2026-13", "2026-02-30", "FY2026-P99", "2026-W54", "2026/2025", "latest:", "april", "last friday of june"),
    *("X [bad]: otherwise", "X [worse]: change >", "X: otherwise", "xx_YY", "EUR", "1e9", "period", "prior", "none"),
)
PLACES = {
    "survey": "survey ledger.csv",
    "table": "table ledger.csv --by route",
    "trace": "trace ledger.csv --by route --at Merle",
    "rule": "rule budget ledger.csv --by route",
    "commentary": "commentary ledger.csv --by route",
    "draw waterfall": "draw waterfall ledger.csv --by route",
    "draw against": "draw against ledger.csv",
    "draw paired": "draw paired ledger.csv",
    "draw trend": "draw trend ledger.csv",
    "draw variance": "draw variance ledger.csv --by route",
    "draw shift": "draw shift ledger.csv --by route",
    "draw statement": "draw statement ledger.csv --statement lines.toml",
}
LINES = """\
[statement]
name = "Result"
[[line]]
label = "Fares"
accounts = ["4*"]
kind = "income"
"""


@pytest.fixture
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    months = itertools.product((2025, 2026), range(1, 13), ("Merle", "Calder Bay"), ("actual", "budget"))
    rows = [f"{year}-{month:02}-01,4000,{route},{one},{year - 2000 + month}" for year, month, route, one in months]
    (tmp_path / "ledger.csv").write_text("\n".join(("date,account,route,scenario,net", *rows)))
    (tmp_path / "lines.toml").write_text(LINES)
    monkeypatch.chdir(tmp_path)
    return tmp_path


@pytest.mark.parametrize("place", PLACES)
def test_an_odd_value_is_used_or_refused_in_a_few_words(
    place: str, folder: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    options = [name for name, one in OPTIONS.items() if place in one.places]
    # Each option has its turn with some of the values, others in every place.
    begun = list(PLACES).index(place)
    for number, name in enumerate(options):
        for value in ("xx_YY", *(ODD[(begun * 7 + number * 3 + step * 11) % len(ODD)] for step in range(2))):
            before = {one: one.read_bytes() for one in folder.iterdir()}
            words = [*shlex.split(PLACES[place]), f"{flag(name)}={value}"]
            try:
                status = main(words)
            except SystemExit as stopped:
                status = stopped.code
            told = capsys.readouterr().err
            assert status in (0, 1, 2), words
            if status == 2:
                assert len(told[told.rindex("marvex: ") :].splitlines()) <= 4, words
                assert {one: one.read_bytes() for one in folder.iterdir()} == before, words
            for one in set(folder.iterdir()) - set(before):
                one.unlink()
