"""The model of settings as options of the command line, and back."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from itertools import groupby
from typing import Any, NoReturn

from marvex.core.errors import Mistake, did_you_mean
from marvex.request.settings import FIELDS, OPTIONS, SEVERAL, Option, Settings
from marvex.request.wording import flag

_SHORT = {"output": "-o"}
_UNSAID = object()


class Parser(argparse.ArgumentParser):
    """A parser whose mistakes are Marvex's: one message, with the nearest word.

    The options of a command or a view are added when it is called: all of all together are several
    hundred, and making them takes longer than most tables.
    """

    place: str | None = None  # the command or view whose options are still to be added

    def parse_known_args(self, args=None, namespace=None):  # type: ignore[no-untyped-def]
        self.complete()
        return super().parse_known_args(args, namespace)

    def complete(self) -> None:
        """Adds the options that are still to be added."""
        place, self.place = self.place, None
        if place is not None:
            _add_options(self, place)

    def error(self, message: str) -> NoReturn:
        raise Mistake(message, f"See {self.prog} --help.")

    def _check_value(self, action: argparse.Action, value: Any) -> None:
        if action.choices is None or value in action.choices:
            return
        known = [str(choice) for choice in action.choices]
        name = action.option_strings[-1] if action.option_strings else str(action.metavar or action.dest)
        what = f"{name}: there is no '{value}'"
        raise Mistake(what, did_you_mean(str(value), known, f"There are {', '.join(known)}."))


def parse(parser: argparse.ArgumentParser, arguments: Sequence[str]) -> argparse.Namespace:
    """The command line as values; raises Mistake where an option is unknown, or given twice."""
    parsed, unknown = parser.parse_known_args(list(arguments))
    if unknown:
        _refuse(unknown, parsed)
    return parsed


def _refuse(unknown: Sequence[str], parsed: argparse.Namespace) -> NoReturn:
    word = unknown[0].partition("=")[0]
    place = getattr(parsed, "place", parsed.command)
    if not word.startswith("-"):
        raise Mistake(f"'{word}' is one word too many", f"See marvex {place} --help.")
    usable = [flag(name) for name, about in OPTIONS.items() if place in about.places]
    if any(word == flag(name) for name in OPTIONS):
        raise Mistake(f"marvex {place} cannot use {word}", f"See marvex {place} --help for what it can.")
    raise Mistake(f"marvex {place} has no option {word}", did_you_mean(word, usable, f"See marvex {place} --help."))


def add_command(commands: Any, name: str, *, help: str, description: str, example: str) -> Parser:
    """A command (or a view) with its help, its description and a worked example."""
    parser: Parser = commands.add_parser(
        name,
        help=help,
        description=description,
        epilog=example,
        formatter_class=argparse.RawDescriptionHelpFormatter,
        allow_abbrev=False,
    )
    return parser


def add_source(parser: argparse.ArgumentParser) -> None:
    """The SOURCE that a command reads, and how loud it is."""
    parser.add_argument(
        "source",
        metavar="SOURCE",
        nargs="+",
        help="a .csv, .tsv, .txt, .parquet, .xlsx, .ods, .json or .jsonl file, plain or gzipped, or - for CSV; "
        "several as SCENARIO=FILE",
    )
    add_loudness(parser)


def add_settings(parser: Parser, place: str) -> None:
    """Gives a command (`table`) or a view (`draw waterfall`) every option that it can use."""
    parser.set_defaults(place=place)
    parser.place = place


def complete_all(parser: Parser) -> None:
    """Adds the options of all commands and views, for what must know them all."""
    parser.complete()
    for action in parser._actions:
        for choice in action.choices.values() if isinstance(action.choices, dict) else ():
            complete_all(choice)


def _add_options(parser: Parser, place: str) -> None:
    usable = [(name, about) for name, about in OPTIONS.items() if place in about.places]
    for group, members in groupby(usable, key=lambda pair: pair[1].group):
        box = parser.add_argument_group(group)
        for name, about in members:
            _add(box, name, about, place)


def settings_of(parsed: argparse.Namespace) -> Settings:
    """The settings that a parsed command line asks for."""
    said: dict[str, Any] = {
        name: value
        for name in OPTIONS
        if (value := getattr(parsed, name, _UNSAID)) is not _UNSAID and value is not None
    }
    for name, value in said.items():
        if OPTIONS[name].repeats:
            said[name] = tuple(value)
    return Settings(**said)


def add_loudness(parser: argparse.ArgumentParser, default: Any = argparse.SUPPRESS) -> None:
    """`-q` and `-v`, before the command or after it."""
    parser.add_argument(
        "-q",
        "--quiet",
        dest="loudness",
        action="store_const",
        const=-1,
        default=default,
        help="say nothing but mistakes and results",
    )
    parser.add_argument(
        "-v",
        "--verbose",
        dest="loudness",
        action="store_const",
        const=1,
        default=argparse.SUPPRESS,
        help="say more of what was done",
    )


def _add(box: Any, name: str, about: Option, place: str) -> None:
    words = [_SHORT[name], flag(name)] if name in _SHORT else [flag(name)]
    common = {"dest": name, "help": about.help.replace("%", "%%")}
    if FIELDS[name].default is False:
        box.add_argument(*words, action="store_true", default=None, **common)
        return
    # Only a table can set several comparisons side by side.
    once = not about.repeats or (name in ("for_", "versus") and place not in SEVERAL)
    if about.choices:
        box.add_argument(*words, action=_Once, choices=about.choices, type=about.read, **common)
        return
    action = _OnceOfMany if once and about.repeats else _Once if once else "append"
    box.add_argument(*words, action=action, type=_reader(name, about), metavar=about.metavar, **common)


def _reader(name: str, about: Option) -> Any:
    def read(text: str) -> Any:
        try:
            return about.read(text)
        except ValueError as problem:
            raise Mistake(f"{flag(name)} '{text}' cannot be read", f"{problem}.".capitalize()) from None

    return read


class _Once(argparse.Action):
    """An option that may be given once: a second one is a mistake, not a correction."""

    def __call__(self, parser, namespace, values, option_string=None) -> None:  # type: ignore[no-untyped-def]  # noqa: ARG002
        if getattr(namespace, self.dest, None) is not None:
            raise Mistake(f"{option_string} is given twice", "Give it once.")
        setattr(namespace, self.dest, self.kept(values))

    def kept(self, values: Any) -> Any:
        return values


class _OnceOfMany(_Once):
    """An option that repeats elsewhere but may be given once here."""

    def kept(self, values: Any) -> Any:
        return [values]
