"""Processes that share a port: one with more waiting than another gives some of them away."""

import os
from multiprocessing import get_context

MORE_BY = 3
"""So many more wait here than elsewhere that one who goes is answered sooner there."""
_PLACE_WITHIN_S = 1.0


class Crowd:
    """How many requests wait in each process of a port, as all of them see it.

    It is made before the processes are, and goes to each of them; each takes a place in it.
    Without a place, as where there is one process only, nobody is given away.
    """

    def __init__(self, processes: int = 0) -> None:
        spawning = get_context("spawn")
        self._taking = spawning.Lock()
        self._processes = spawning.RawArray("i", processes)
        self._waiting = spawning.RawArray("i", processes)
        self._own: int | None = None

    def join(self) -> None:
        """Take a place of this process's own: one nobody has, or whose process has ended."""
        if self._own is not None and self._processes[self._own] == os.getpid():
            return
        # One that was killed in here must not keep the next from its place.
        alone = self._taking.acquire(timeout=_PLACE_WITHIN_S)
        free = [place for place, process in enumerate(self._processes) if not _lives(process)]
        if free:
            self._own = free[0]
            self._processes[self._own] = os.getpid()
            self._waiting[self._own] = 0
        if alone:
            self._taking.release()

    def too_many(self, waiting: int) -> bool:
        """Say how many wait here; whether they are so many more than in another process."""
        if self._own is None:
            return False
        self._waiting[self._own] = waiting
        return waiting >= MORE_BY and any(
            waiting - others >= MORE_BY
            for process, others in zip(self._processes, self._waiting, strict=True)
            if _lives(process)
        )


def _lives(process: int) -> bool:
    if process <= 0:
        return False
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    return True
