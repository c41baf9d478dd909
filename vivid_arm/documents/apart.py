"""Heavy work in a process of its own, bound in memory and time, two at a time.

A photo or a page can ask for more than the machine has. It then costs its own process,
never the application's.
"""

import multiprocessing
import resource
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from multiprocessing.connection import Connection
from typing import Any, TypeVar

from vivid_arm.core.errors import InputError
from vivid_arm.core.words import Unit, language, say
from vivid_arm.languages import language_of

AT_A_TIME = 2
_MEGABYTE = 1_000_000
Made = TypeVar("Made")

# A server that has read the heavy modules once; each piece of work is a fork of it.
_context = multiprocessing.get_context("forkserver")
_context.set_forkserver_preload(["vivid_arm.documents.photos", "vivid_arm.documents.ready"])
_places = threading.BoundedSemaphore(AT_A_TIME)


class TooMuch(Exception):
    """The work took more memory or time than it may, or its process ended."""


def warm() -> None:
    """Have the server ready before the first piece of work."""
    apart(_nothing, seconds=60, megabytes=500)


def _nothing() -> None:
    """The least work there is."""


def apart(function: Callable[..., Made], *args: Any, seconds: float, megabytes: int) -> Made:
    """What ``function(*args)`` gives in a process of its own; its InputError is raised here.

    Raises TooMuch when it takes longer, with the wait for a place, or needs more memory.
    """
    until, said = time.monotonic() + seconds, language.get()
    if not _places.acquire(timeout=seconds):
        raise TooMuch(say("other work is under way"))
    try:
        ours, theirs = _context.Pipe(duplex=False)
        with ours:
            process = _context.Process(
                target=_work,
                args=(theirs, (said.code, said.unit), function, args, seconds, megabytes),
                daemon=True,
            )
            try:
                process.start()
                theirs.close()
                if not ours.poll(max(0.0, until - time.monotonic())):
                    raise TooMuch(say("it took longer than {seconds} s", seconds=round(seconds)))
                made = ours.recv()
            except EOFError:
                raise TooMuch(say("it needed more than {size} MB", size=megabytes)) from None
            except OSError as error:
                raise TooMuch(say("no process for it ({why})", why=error.strerror)) from None
            finally:
                if process.pid is not None:
                    process.kill()
                    process.join()
    finally:
        _places.release()
    if isinstance(made, InputError):
        raise made
    return made  # type: ignore[no-any-return]


def _work(
    pipe: Connection,
    spoken: tuple[str, Unit],
    function: Callable[..., Any],
    args: Any,
    seconds: float,
    megabytes: int,
) -> None:
    language.set(language_of(*spoken))
    most = _size() + megabytes * _MEGABYTE
    resource.setrlimit(resource.RLIMIT_AS, (most, most))
    resource.setrlimit(resource.RLIMIT_CPU, (int(seconds) + 1, int(seconds) + 2))
    try:
        made = function(*args)
    except InputError as error:
        made = error
    except MemoryError:
        return
    # Whoever asked may have ended meanwhile: then nobody waits for it.
    with suppress(BrokenPipeError):
        pipe.send(made)


def _size() -> int:
    """Bytes of address space this process has already."""
    with open("/proc/self/statm") as statm:  # noqa: PTH123 - a process reading itself
        return int(statm.read().split()[0]) * resource.getpagesize()
