"""`marvex`: reads the command line, runs the command, and turns every mistake into one message."""

from __future__ import annotations

import argparse
import contextlib
import os
import sys
from collections.abc import Sequence

from marvex import __version__
from marvex.cli import options
from marvex.cli.speech import interrupted
from marvex.core.errors import Mistake
from marvex.core.words.printable import printable
from marvex.request.wording import as_options

DONE, WRONG, OURS = 0, 2, 3

DESCRIPTION = """\
Sets one side of a table against another, works out each variance exactly,
judges it by a stated rule, and draws it so that it ties out."""

EXAMPLE = """\
example:
  marvex demo ferries
  marvex draw waterfall ferries/ledger.csv --by route --for 2026 --versus 2025"""


def main(arguments: Sequence[str]) -> int:
    """Runs one command line and gives its exit status: 0, 1, 2, 3 or 130."""
    try:
        try:
            parsed = options.parse(_parser(), arguments)
            return int(parsed.run(parsed))
        finally:  # after --help too, which ends by itself
            sys.stdout.flush()
    except Mistake as mistake:
        return _tell(mistake)
    except KeyboardInterrupt:
        return interrupted()
    except MemoryError:
        return _tell(Mistake("there is not enough memory for this", "Keep fewer rows with --where."))
    except BrokenPipeError:  # the reader of the output has had enough
        _discard_output()
        return DONE
    except (OSError, UnicodeEncodeError) as problem:  # files have been told of by their names
        _discard_output()
        what = getattr(problem, "strerror", None) or str(problem)
        named = getattr(problem, "filename", None)
        place = "the result cannot be printed" if named is None else f"'{str(named)[:60]}…' cannot be opened"
        return _tell(Mistake(f"{place}: {what}"))
    except Exception:
        _discard_output()
        return _tell_of_ours()


def _discard_output() -> None:
    """Lets what is still to be printed go nowhere, since it cannot go where it was meant to."""
    with contextlib.suppress(OSError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def _tell_of_ours() -> int:
    """Says that the mistake is one of Marvex itself, and where it is written down."""
    import tempfile
    import traceback

    where = "it could not be written down"
    with contextlib.suppress(OSError):
        with tempfile.NamedTemporaryFile(
            "w", prefix="marvex-mistake-", suffix=".txt", delete=False, encoding="utf-8", errors="replace"
        ) as file:
            file.write(f"marvex {__version__}\n{traceback.format_exc()}")
        where = f"it is written down in {file.name}"
    print(f"marvex: this is a mistake in marvex; {where}.\nNothing was written.", file=sys.stderr)
    return OURS


def _tell(mistake: Mistake) -> int:
    what = mistake.what if mistake.what.endswith((".", "!", "?")) else mistake.what + "."
    lines = [f"marvex: {what}", *mistake.place, f"Nothing was written. {mistake.mend}".rstrip()]
    print(as_options("\n".join(map(printable, lines))), file=sys.stderr)
    return WRONG


def _parser() -> argparse.ArgumentParser:
    from marvex.cli import begin, commentary, demo, draw, pack, rule, survey, table, trace

    parser = options.Parser(
        prog="marvex",
        description=DESCRIPTION,
        epilog=EXAMPLE,
        formatter_class=options.Help,
        allow_abbrev=False,
    )
    parser.add_argument("--version", action="version", version=f"marvex {__version__}")
    parser.add_argument(
        "--completion",
        metavar="SHELL",
        choices=("bash", "zsh", "tcsh"),
        action=_PrintCompletion,
        help="print the completion script for bash, zsh or tcsh",
    )
    options.add_loudness(parser, default=0)
    commands = parser.add_subparsers(title="commands", dest="command", metavar="COMMAND", required=True)
    for command in (demo, survey, table, draw, commentary, trace, rule, begin, pack):
        command.add_to(commands)
    return parser


class _PrintCompletion(argparse.Action):
    """`--completion bash` prints what a shell needs to complete the command's words."""

    def __call__(self, parser, namespace, values, option_string=None) -> None:  # type: ignore[no-untyped-def]  # noqa: ARG002
        import shtab

        options.complete_all(parser)
        print(shtab.complete(parser, shell=values))
        parser.exit()
