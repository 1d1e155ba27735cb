"""The process of one command, from its start to its end."""

from __future__ import annotations

import contextlib
import gc
import os
import sys
from typing import NoReturn

from marvex.cli.speech import interrupted


def run() -> NoReturn:
    """The entry point of the command `marvex`."""
    # There are no matrices here, for which NumPy would start threads that keep a core busy waiting.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    # One command and its end: looking for cycles among a workbook's cells costs more than it frees.
    gc.disable()
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
