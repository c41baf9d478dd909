"""A page's live stream, read beside a test."""

import json
import queue
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from threading import Thread
from typing import Any

import httpx

Told = dict[str, Any]
_PATIENCE_S = 30


class Ear:
    """What a stream has told, in order; ``ended`` stands for its end."""

    def __init__(self, url: str, **how: Any) -> None:
        self._heard: queue.Queue[Told] = queue.Queue()
        self._client = httpx.Client(trust_env=False, timeout=_PATIENCE_S, verify=False, **how)
        self._url = url
        Thread(target=self._listen, daemon=True).start()
        self.until(lambda told: told["what"] in ("beat", "all"))

    def _listen(self) -> None:
        try:
            with self._client.stream("GET", f"{self._url}/api/live") as stream:
                for line in stream.iter_lines():
                    if line.startswith("data: "):
                        self._heard.put(json.loads(line.removeprefix("data: ")))
        except (httpx.HTTPError, RuntimeError):
            pass
        self._heard.put({"what": "ended"})

    def until(self, right: Callable[[Told], bool]) -> list[Told]:
        """All that comes up to what is waited for. Raises queue.Empty when it never comes."""
        found: list[Told] = []
        end = time.monotonic() + _PATIENCE_S
        while not found or not right(found[-1]):
            found.append(self._heard.get(timeout=max(end - time.monotonic(), 0.01)))
        return found

    def close(self) -> None:
        self._client.close()


@contextmanager
def hearing(url: str, **how: Any) -> Iterator[Ear]:
    """Listen at an address as long as the test wants."""
    ear = Ear(url, **how)
    try:
        yield ear
    finally:
        ear.close()
