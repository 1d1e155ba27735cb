"""`marvex pack`: build all of a pack: pictures, tables, page, workbook, document."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

from marvex.cli import options
from marvex.core.errors import Mistake
from marvex.core.words.printable import printable

if TYPE_CHECKING:
    from marvex.pack.build import BuiltPack

EXAMPLE = """\
example:
  marvex begin ledger.csv -o pack.toml
  marvex pack pack.toml
  marvex pack pack.toml --for 2026-11 --issue"""
MOST_SAID = 5


def add_to(commands: Any) -> None:
    parser = options.add_command(
        commands,
        "pack",
        help="build all of a pack: pictures, tables, page, workbook, document",
        description="Builds what a pack file asks for into a folder; only what has changed is made again.",
        example=EXAMPLE,
    )
    parser.add_argument("pack", metavar="PACK.toml", type=Path, help="the pack file")
    parser.add_argument("folder", metavar="FOLDER", nargs="?", type=Path, help="where to; default: the pack's name")
    parser.add_argument("--for", dest="for_", metavar="WINDOW", help="move the whole pack there, such as 2026-11")
    parser.add_argument("--only", metavar="NAME", help="make this view alone")
    parser.add_argument("--fresh", action="store_true", help="make all again, changed or not")
    parser.add_argument("--issue", action="store_true", help="freeze the figures as the edition of their period")
    parser.add_argument(
        "--compare", metavar="PERIOD", help="set the last edition against this one, and build nothing"
    )
    parser.add_argument(
        "--watch", action="store_true", help="build whenever the pack or a source changes, and show it"
    )
    options.add_loudness(parser)
    parser.set_defaults(run=run)


def run(parsed: argparse.Namespace) -> int:
    from marvex.pack.pack_file import read_pack

    path = parsed.pack.absolute()
    folder = (parsed.folder or parsed.pack.with_suffix("")).absolute()
    if parsed.compare is not None:
        return _compare(folder, parsed.compare)
    if folder == path.parent:
        raise Mistake(f"'{folder}' is where the pack file lies", "Name a folder of its own to build in.")
    if parsed.watch:
        from marvex.cli.speech import say
        from marvex.pack.watch import watch

        return watch(path, folder, lambda: _build(parsed, path, folder), say)
    read_pack(path, parsed.for_)
    return _build(parsed, path, folder)


def _build(parsed: argparse.Namespace, path: Path, folder: Path) -> int:
    import contextlib
    import re

    from marvex.pack.build import Asked, build_pack
    from marvex.pack.pack_file import MOVING, read_pack

    with contextlib.chdir(path.parent):
        pack = read_pack(path, parsed.for_)
    moves = pack.for_ is not None and not re.fullmatch(MOVING, pack.for_)
    asked = Asked(folder=folder, is_fresh=parsed.fresh, only=parsed.only, issues=parsed.issue, moves=moves)
    with _progress(parsed.loudness) as told:
        built = build_pack(pack, asked, told)
    _say(built, folder, parsed.loudness)
    return 2 if built.failed else 1 if built.gate else 0


def build_quietly(path: Path, folder: Path, loudness: int) -> int:
    """Builds a pack as it stands, and freezes its edition: what the demo does."""
    parsed = argparse.Namespace(for_=None, fresh=False, only=None, issue=True, loudness=loudness)
    return _build(parsed, path.absolute(), folder.absolute())


def _say(built: BuiltPack, folder: Path, loudness: int) -> None:
    from marvex.cli.speech import say

    for line in _mistakes(built.failed):
        say(line)
    if loudness >= 0:
        made, kept = len(built.made), len(built.kept)
        names = f" ({', '.join(built.made)})" if built.made else ""
        say(f"{built.period}: made {made} {'view' if made == 1 else 'views'}{names}, {kept} had not changed")
        for line in built.said:
            if loudness > 0 or line.startswith("caution:"):
                say(line)
        if built.stands:
            say(f"dates of their own did not move in {', '.join(built.stands)}")
    for what, told in (
        ("met a band that fails", built.failing),
        ("restated since the last edition", built.restated),
        ("needs a remark", built.lacking),
    ):
        for name, texts in told.items():
            more = f" and {len(texts) - MOST_SAID} more" if len(texts) > MOST_SAID else ""
            say(f"{name}: {what}: {'; '.join(texts[:MOST_SAID])}{more}")
    if built.edition and loudness >= 0:
        say(f"froze the edition {built.edition}")
    if built.failed:
        say(f"not made: {', '.join(built.failed)}; what was there before stays.")
    if loudness >= 0:
        say(f"open {folder / 'index.html'}")


def _mistakes(failed: Mapping[str, Mistake]) -> Iterator[str]:
    """What is wrong with views, each mistake once; the views that have it in common are counted."""
    alike: dict[tuple[str, ...], list[str]] = {}
    for name, mistake in failed.items():
        _, _, its = mistake.what.partition(f"view '{name}'")
        alike.setdefault((its or mistake.what, *mistake.place, mistake.mend), []).append(name)
    for (_, *more), (first, *others) in alike.items():
        named = f"view '{first}'"
        also = f"{named} and {len(others)} more" if others else named
        yield f"marvex: {failed[first].what.replace(named, also, 1)}"
        yield from (f"  {line}" for line in more if line)


@contextmanager
def _progress(loudness: int) -> Iterator[Callable[[str, int, int], None]]:
    """A bar with names and the time left on a terminal, else nothing: lines come at the end."""
    if loudness < 0 or not sys.stderr.isatty():
        yield lambda *_: None
        return
    from rich.console import Console
    from rich.progress import BarColumn, Progress, TextColumn, TimeRemainingColumn

    columns = (TextColumn("{task.description}"), BarColumn(), TimeRemainingColumn())
    with Progress(*columns, console=Console(file=sys.stderr), transient=True) as bar:
        task = bar.add_task("reading", total=None)

        def told(what: str, done: int, of: int) -> None:
            bar.update(task, description=printable(what), completed=done, total=of)

        yield told


def _compare(folder: Path, period: str) -> int:
    from marvex.pack.editions import check_edition, compared, last_edition

    older = check_edition(folder, period)
    newer = last_edition(folder)
    assert newer is not None
    if newer == older:
        raise Mistake(f"{period} is the last edition, and there is none to set it against", "Name an earlier one.")
    print(compared(older, newer), end="")
    return 0
