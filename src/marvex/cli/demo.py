"""`marvex demo`: the demo data of Ostrey Sound Ferries, and their pack, built."""

from __future__ import annotations

import argparse
import shutil
from pathlib import Path
from typing import Any

from marvex.cli import options
from marvex.core.errors import Mistake

EXAMPLE = """\
example:
  marvex demo ferries"""

PACK, OWN_EDITION = "pack.toml", "2026-10"

TRY_NEXT = """
Open {page} first: it is one file, and works without a network.
Try next, in {folder}:
  marvex pack pack.toml --compare 2026-09
  marvex begin fares.csv -o fares.toml
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
        help="write the demo data and their pack, and build it",
        description="Writes the ledger of Ostrey Sound Ferries, a made-up company, and builds its management pack.",
        example=EXAMPLE,
    )
    parser.add_argument("folder", metavar="FOLDER", nargs="?", default="demo", help="where to write; default: demo")
    options.add_overwrite(parser)
    options.add_loudness(parser)
    parser.set_defaults(run=run)


def run(parsed: argparse.Namespace) -> int:
    from marvex.cli import pack
    from marvex.cli.speech import say

    folder = Path(parsed.folder)
    write_data(folder, overwrite=parsed.overwrite)
    if parsed.loudness >= 0:
        names = sorted(path.name for path in folder.iterdir() if path.is_file())
        say(f"wrote {', '.join(names)} in {folder}")
    if parsed.overwrite:  # its own edition is frozen once more, and measured against the one before
        shutil.rmtree(folder / "pack" / "editions" / OWN_EDITION, ignore_errors=True)
    status = pack.build_quietly(folder / PACK, folder / "pack", parsed.loudness)
    if parsed.loudness >= 0:
        print(TRY_NEXT.format(folder=folder, page=folder / "pack" / "index.html"))
    return status


def write_data(folder: Path, *, overwrite: bool) -> None:
    """Unpacks the data that the package holds, all of them or none."""
    import gzip
    from importlib.resources import files

    from marvex.app.outputs import Outputs

    outputs = Outputs()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        data = files("marvex.demo") / "data"
        for file in data.iterdir():
            if file.is_file():
                content, name = file.read_bytes(), file.name.removesuffix(".gz")
                outputs.add(folder / name, gzip.decompress(content) if name != file.name else content)
        for edition in (data / "editions").iterdir():
            place = folder / "pack" / "editions" / edition.name
            place.mkdir(parents=True, exist_ok=True)
            for file in edition.iterdir():
                outputs.add(place / file.name, file.read_bytes())
    except OSError as problem:
        raise Mistake(f"'{folder}' cannot be written: {problem.strerror}", "Name another folder.") from problem
    if not overwrite:
        outputs.check_kept()
    outputs.write()
