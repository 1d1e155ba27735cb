"""What a command says on standard error: choices, cautions, files written."""

from __future__ import annotations

import contextlib
import sys
from typing import TYPE_CHECKING

from marvex.core.words.printable import printable

if TYPE_CHECKING:
    from marvex.app.built import Built

DONE, FAILED_BAND, INTERRUPTED = 0, 1, 130


def deliver(built: Built, loudness: int) -> int:
    """Writes the files, says what there is to say unless quiet, and gives the exit status."""
    built.outputs.write()
    # All is written: an interruption from here on is too late to say that nothing was.
    with contextlib.suppress(KeyboardInterrupt) if built.outputs.paths else contextlib.nullcontext():
        for line in _lines(built, loudness) if loudness >= 0 else _unreadable(built):
            say(line)
    return FAILED_BAND if built.shown.meets_gate else DONE


def _unreadable(built: Built) -> list[str]:
    """What makes a picture hard to read, which is said even where nothing else is."""
    return [f"caution: {caution}" for caution in built.shown.unreadable]


def interrupted() -> int:
    """Says that the command was interrupted; gives its exit status."""
    say("marvex: interrupted. Nothing was written.")
    return INTERRUPTED


def say(line: str) -> None:
    print(printable(line), file=sys.stderr)


def _lines(built: Built, loudness: int) -> list[str]:
    analysis = built.shown.analysis
    lines = list(analysis.said)
    if loudness > 0:
        lines += analysis.notes_on_source
        source = analysis.source
        lines.append(f"{source.rows_read:,} rows read, {source.rows_used:,} used")
        lines += [f"{check.name}: difference {check.difference}" for check in built.shown.checks]
    lines += [f"caution: {caution}" for caution in analysis.cautions]
    if built.shown.failing:
        lines.append(f"met a band that fails: {', '.join(built.shown.failing)}")
    if analysis.since is not None and built.outputs.paths:  # otherwise the table on standard output has it
        from marvex.core.words.since_words import since_notes  # not for --help

        lines += since_notes(analysis.since, analysis.figures)
    elif analysis.since is not None and analysis.since.has_changed and analysis.since_is_gate:
        lines.append(f"what was reported has changed since {analysis.since.file}")
    return lines + [f"wrote {path}" for path in built.outputs.paths]
