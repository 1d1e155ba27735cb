"""`marvex demo`: the demo data of Ostrey Sound Ferries, drawn and tabulated."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

from marvex.cli import options
from marvex.core.errors import Mistake

if TYPE_CHECKING:
    from marvex.request.settings import Settings

EXAMPLE = """\
example:
  marvex demo ferries"""

LEDGER, STATEMENT = "ledger.csv", "statement.toml"

TRY_NEXT = """
Try next, in {folder}:
  marvex draw waterfall ledger.csv --by route --for 2025 --versus 2024
  marvex table ledger.csv --by account_name --where route='Harrow Skerry loop' --versus year-ago
  marvex table actual=ledger.csv budget=plan.xlsx --by account_name --by budget=Account
  marvex table ledger.csv --of actual+forecast --versus budget --where kind=income
  marvex commentary ledger.csv --by account_name --then-by route --where kind=cost --source-sign negative --better down
  marvex table tickets.csv --by route --total-as distinct:ticket --for 2026-09 --versus year-ago
  marvex draw trend ledger.csv --every month --versus year-ago --where kind=income --base-as area
  marvex draw shift ledger.csv --by route --versus year-ago --where kind=income --order current
  marvex table october.csv
  marvex draw waterfall results.csv --versus none
  marvex draw waterfall movements.csv
  marvex draw waterfall fares.csv --amount fares --volume tickets --by passenger --for 2026 --versus year-ago
  marvex draw waterfall ledger.csv --statement statement.toml --versus budget
  marvex draw waterfall ledger.csv --by account_name --where kind=cost --source-sign negative --better down \\
      --band 'Overspend [worse]: change > 5% and change > 10k' --band 'Watch [watch]: change > 0' \\
      --band 'Within budget [better]: otherwise'"""


def add_to(commands: Any) -> None:
    parser = options.add_command(
        commands,
        "demo",
        help="write the demo data, and draw and tabulate them",
        description="Writes the ledger of Ostrey Sound Ferries, a made-up company, and what can be made of it.",
        example=EXAMPLE,
    )
    parser.add_argument("folder", metavar="FOLDER", nargs="?", default="demo", help="where to write; default: demo")
    options.add_overwrite(parser)
    options.add_loudness(parser)
    parser.set_defaults(run=run)


def run(parsed: argparse.Namespace) -> int:
    from marvex.app.draw import build_picture, view_place
    from marvex.app.session import Session
    from marvex.app.table import build_table
    from marvex.cli.speech import deliver, say
    from marvex.request.place import TABLE
    from marvex.request.request import request_of
    from marvex.tables.terminal import print_table

    folder = Path(parsed.folder)
    _write_data(folder, overwrite=parsed.overwrite)
    source = str(folder / LEDGER)
    if parsed.loudness >= 0:
        say(f"wrote {', '.join(sorted(path.name for path in folder.iterdir()))} in {folder}")
    by_route = _settings(by=("route",), versus=("year-ago",), output=(folder / "result-by-route.png",))
    by_account = _settings(
        by=("account_name",),
        where=("kind=cost",),
        source_sign=("negative",),
        better="down",
        versus=("budget",),
        output=(folder / "costs-by-account.png",),
    )
    income = _settings(
        panels_by="route",
        where=("kind=income",),
        versus=("year-ago",),
        every="month",
        output=(folder / "income-by-route.png",),
    )
    statement = _settings(
        statement=folder / STATEMENT,
        for_=("latest:month", "2026"),
        versus=("budget", "year-ago"),
        output=(folder / "profit-and-loss.png",),
    )
    for view, settings in (
        ("waterfall", by_route),
        ("waterfall", by_account),
        ("trend", income),
        ("statement", statement),
    ):
        with Session() as session:
            built = build_picture(session, view, request_of([source], settings, view_place(view)))
        if not parsed.overwrite:
            built.outputs.check_kept()
        deliver(built, parsed.loudness)
    with Session() as session:
        settings = _settings(by=("route",), versus=("year-ago", "budget"))
        table = build_table(session, request_of([source], settings, TABLE))
    words = table.words
    print_table(table.shown.analysis, words.title, words.subtitle, words.foot)
    if parsed.loudness >= 0:
        print(TRY_NEXT.format(folder=folder))
    return 0


def _settings(**said: Any) -> Settings:
    from marvex.request.settings import Settings

    return Settings(**said)


def _write_data(folder: Path, *, overwrite: bool) -> None:
    """Unpacks the data that the package holds, all of them or none."""
    import gzip
    from importlib.resources import files

    from marvex.app.outputs import Outputs

    outputs = Outputs()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for file in (files("marvex.demo") / "data").iterdir():
            content = file.read_bytes()
            name = file.name.removesuffix(".gz")
            outputs.add(folder / name, gzip.decompress(content) if name != file.name else content)
    except OSError as problem:
        raise Mistake(f"'{folder}' cannot be written: {problem.strerror}", "Name another folder.") from problem
    if not overwrite:
        outputs.check_kept()
    outputs.write()
