"""The pictures of a pack, painted by other processes while the next views are worked out."""

from __future__ import annotations

import contextlib
import importlib
import multiprocessing
import os
import signal
import threading
from collections.abc import Callable, Sequence
from concurrent.futures import CancelledError, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from types import TracebackType
from typing import Any, Self

from marvex.core.errors import Mistake
from marvex.pack.making import Unpainted, painted
from marvex.pack.piece import Piece

_IMPORTED = (
    *("marvex.views.drawing.saving", "matplotlib.backends.backend_svg", "matplotlib.backends.backend_pdf"),
    *("fontTools.subset", "PIL.PngImagePlugin", "marvex.pack.document"),
)


class Painters:
    """As many processes that paint as there are cores; use it in a `with` block.

    They begin at once, while this process is small and has no threads, and import what they need while it reads.
    On two cores a pack of 24 views of ten million rows takes 7.3 s with them, and 11.8 s without.
    """

    def __init__(self) -> None:
        can_fork = "fork" in multiprocessing.get_all_start_methods() and hasattr(os, "sched_getaffinity")
        cores = len(os.sched_getaffinity(0)) if can_fork else 1
        self._pool: ProcessPoolExecutor | None = None
        self._results: dict[str, Any] = {}
        self._begun: dict[str, tuple[Future[Any], Callable[[], Any]]] = {}
        if cores > 1:
            forked = multiprocessing.get_context("fork")
            self._pool = ProcessPoolExecutor(cores, forked, initializer=_prepared)
            self._pool.submit(os.getpid)  # all of them begin with the first work

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, problem: BaseException | None, trace: TracebackType | None
    ) -> None:
        if self._pool is None:
            return
        if problem is not None:
            for process in multiprocessing.active_children():
                process.kill()
        self._pool.shutdown(cancel_futures=True)

    def begin(self, name: str, work: Callable[[], Any]) -> None:
        """Lets some work be done; what it is called with and its result can be pickled."""
        if self._pool is not None:
            with contextlib.suppress(BrokenProcessPool):
                self._begun[name] = self._pool.submit(work), work
                return
        self._results[name] = work()

    def result(self, name: str) -> Any:
        """What came of some work."""
        if name in self._begun:
            future, work = self._begun.pop(name)
            try:
                self._results[name] = future.result()
            except (BrokenProcessPool, CancelledError):  # what a process took with it when it ended is done here
                self._results[name] = work()
        return self._results[name]


def _prepared() -> None:
    """Readies a process: the one who began it is told of an interrupt, and ends it."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    threading.Thread(target=_end_with_parent, daemon=True).start()
    for module in _IMPORTED:
        importlib.import_module(module)


def _end_with_parent() -> None:
    parent = multiprocessing.parent_process()
    if parent is not None:
        parent.join()
        os._exit(0)


def painted_all(jobs: Sequence[tuple[Unpainted, bool]]) -> list[Piece | Mistake]:
    """Each piece with its picture, or the mistake that it ended with.

    Parameters
    ----------
    jobs : what is to be painted, each with whether all of its files are.
    """
    return [_one(one, is_whole) for one, is_whole in jobs]


def _one(one: Unpainted, is_whole: bool) -> Piece | Mistake:
    try:
        return painted(one, is_whole=is_whole)
    except Mistake as mistake:
        return mistake
