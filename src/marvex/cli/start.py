"""The process of one command, from its start to its end."""

from __future__ import annotations

import codecs
import contextlib
import gc
import os
import signal
import sys
from typing import NoReturn

from marvex.cli.speech import interrupted

# What an old encoding has no sign for is written with one that says the same.
PLAIN_SIGNS = dict(zip("−–—▲▼│█─×÷…", ["-", "-", "-", "^", "v", "|", "#", "-", "x", "/", "..."], strict=True))


def _make_streams_safe() -> None:
    """Output that can be written whatever its encoding, and that fails in words where there is none."""

    def plainly(problem: UnicodeError) -> tuple[str, int]:
        assert isinstance(problem, UnicodeEncodeError)
        text = problem.object[problem.start : problem.end]
        return "".join(PLAIN_SIGNS.get(sign, "?") for sign in text), problem.end

    codecs.register_error("plainly", plainly)
    # A stream that was closed from the start is none at all.
    sys.stdout = sys.stdout or open(os.devnull)  # noqa: PTH123, SIM115
    sys.stderr = sys.stderr or open(os.devnull, "w")  # noqa: PTH123, SIM115
    for stream in (sys.stdout, sys.stderr):
        stream.reconfigure(errors="plainly")  # type: ignore[union-attr]


def run() -> NoReturn:
    """The entry point of the command `marvex`."""
    # There are no matrices here, for which NumPy would start threads that keep a core busy waiting.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    # One command and its end: looking for cycles among a workbook's cells costs more than it frees.
    gc.disable()
    _make_streams_safe()
    # Told to end, by a scheduler or by a terminal that closes, it ends as by Ctrl-C: with nothing half done.
    for name in ("SIGTERM", "SIGHUP"):
        if hasattr(signal, name) and signal.getsignal(getattr(signal, name)) is not signal.SIG_IGN:  # as by nohup
            signal.signal(getattr(signal, name), signal.default_int_handler)
    try:
        from marvex.cli.main import main

        status = main(sys.argv[1:])
    except KeyboardInterrupt:
        status = interrupted()
    except SystemExit as stopped:  # what --help and --version end with
        status = int(stopped.code or 0)
    with contextlib.suppress(OSError):
        sys.stdout.flush()
        sys.stderr.flush()
    # All is written: taking the libraries down one by one takes longer than many a table.
    os._exit(status)
