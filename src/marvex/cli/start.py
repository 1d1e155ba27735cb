"""The process of one command: a long workbook is begun to be parsed before anything else is loaded."""

from __future__ import annotations

import contextlib
import gc
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import NoReturn

from marvex.cli.speech import interrupted
from marvex.sources.readers.kinds import WORKBOOKS, kind_of


def run() -> NoReturn:
    """The entry point of the command `marvex`."""
    # There are no matrices here, for which NumPy would start threads that keep a core busy waiting.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    # One command and its end: looking for cycles among a workbook's cells costs more than it frees.
    gc.disable()
    try:
        _begin_reading(sys.argv[1:])
        from marvex.cli.main import main

        status = main(sys.argv[1:])
    except KeyboardInterrupt:
        status = interrupted()
    with contextlib.suppress(OSError):
        sys.stdout.flush()
        sys.stderr.flush()
    # All is written: taking the libraries down one by one takes longer than many a table.
    os._exit(status)


def _begin_reading(words: Sequence[str]) -> None:
    """Lets workbooks be parsed while the libraries of their command are still being loaded.

    The words are looked at as they are: what they mean, and what is wrong with them, is said later.
    """
    paths = [Path(word.rpartition("=")[2]) for word in words if word.lower().endswith(WORKBOOKS)]
    workbooks = [path for path in paths if kind_of(path) in WORKBOOKS]
    if workbooks:
        from marvex.sources.readers.parsing import begin

        said = [*words, ""]
        following = [said[place + 1] for place, word in enumerate(words) if word == "--sheet"]
        within = [word.partition("=")[2] for word in words if word.startswith("--sheet=")]
        begin(workbooks, next(iter((*following, *within)), None))
