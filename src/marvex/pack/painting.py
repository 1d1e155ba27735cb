"""The pictures of a pack, painted by other processes while the next views are worked out."""

from __future__ import annotations

import importlib
import multiprocessing
import os
import pickle
import tempfile
from collections.abc import Sequence
from pathlib import Path
from types import TracebackType
from typing import Any, Self

from marvex.core.errors import Mistake
from marvex.pack.making import Unpainted, painted
from marvex.pack.piece import Piece

_IMPORTED = (
    *("marvex.views.drawing.saving", "matplotlib.backends.backend_svg", "matplotlib.backends.backend_pdf"),
    *("fontTools.subset", "PIL.PngImagePlugin"),
)

Job = tuple[Unpainted, bool]  # what is to be painted, and whether with all of its files
Result = Piece | Mistake


class Painters:
    """Processes that paint, as many at a time as there are cores; use it in a `with` block.

    On two cores a pack of ten views and twelve choices took 22 s with them, and 38 s without; one of 24 views
    without choices 10 s and 17 s.
    """

    def __init__(self) -> None:
        can_fork = "fork" in multiprocessing.get_all_start_methods()
        self._cores = len(os.sched_getaffinity(0)) if can_fork and hasattr(os, "sched_getaffinity") else 1
        self._results: dict[str, list[Result]] = {}
        self._running: dict[str, tuple[Any, Sequence[Job]]] = {}
        self._folder = tempfile.TemporaryDirectory(prefix="marvex-")

    def __enter__(self) -> Self:
        # What every process would import for itself: 0.3 s of each.
        for module in _IMPORTED if self._cores > 1 else ():
            importlib.import_module(module)
        return self

    def __exit__(
        self, kind: type[BaseException] | None, problem: BaseException | None, trace: TracebackType | None
    ) -> None:
        for process, _ in self._running.values():
            process.kill()
            process.join()
        self._folder.cleanup()

    def begin(self, name: str, jobs: Sequence[Job]) -> None:
        """Lets the pictures of a view be painted."""
        if self._cores < 2:
            self._results[name] = [_one(job) for job in jobs]
            return
        while len(self._running) >= self._cores:
            self._collect(next(iter(self._running)))
        # What is to be painted is there already when it begins, so that nothing is sent to it.
        process = multiprocessing.get_context("fork").Process(
            target=_paint, args=(jobs, self._file(name)), daemon=True
        )
        process.start()
        self._running[name] = process, jobs

    def results(self, name: str) -> list[Result]:
        """The pictures of a view, or the mistakes that they ended with, in order."""
        if name in self._running:
            self._collect(name)
        return self._results[name]

    def _collect(self, name: str) -> None:
        process, jobs = self._running.pop(name)
        process.join()
        path = self._file(name)
        # What a process took with it when it ended is painted here.
        self._results[name] = pickle.loads(path.read_bytes()) if path.exists() else [_one(job) for job in jobs]

    def _file(self, name: str) -> Path:
        return Path(self._folder.name) / name


def _paint(jobs: Sequence[Job], path: Path) -> None:
    import signal

    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the one who began it is told, and ends it
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    content = pickle.dumps([_one(job) for job in jobs])
    draft = path.with_suffix(".draft")
    draft.write_bytes(content)
    draft.replace(path)
    os._exit(0)


def _one(job: Job) -> Result:
    one, is_whole = job
    try:
        return painted(one, is_whole=is_whole)
    except Mistake as mistake:
        return mistake
