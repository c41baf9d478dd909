"""What the program writes about itself: words for a terminal, or a JSON object a line."""

import logging
import sys

from asgi_correlation_id import CorrelationIdFilter
from pythonjsonlogger.json import JsonFormatter

ACCESS = logging.getLogger("vivid_arm.access")
"""One line for each answer."""
_ID = "request"


def set_up(*, as_json: bool) -> None:
    """Write to standard error; as JSON each answer too, under the name of its request."""
    handler = logging.StreamHandler(sys.stderr)
    handler.addFilter(_RequestName())
    root = logging.getLogger()
    root.handlers = [handler]
    root.setLevel(logging.WARNING)
    ACCESS.setLevel(logging.INFO if as_json else logging.CRITICAL)
    if as_json:
        handler.setFormatter(
            JsonFormatter(
                f"%(asctime)s %(levelname)s %(name)s %(message)s %({_ID})s",
                rename_fields={"asctime": "at", "levelname": "level", "name": "of"},
                datefmt="%Y-%m-%dT%H:%M:%S%z",
            )
        )
    else:
        handler.setFormatter(logging.Formatter("%(levelname)s: %(message)s"))
    for name in ("uvicorn", "uvicorn.error"):
        log = logging.getLogger(name)
        log.handlers, log.propagate = [], True


class _RequestName(CorrelationIdFilter):
    def filter(self, record: logging.LogRecord) -> bool:
        super().filter(record)
        setattr(record, _ID, record.correlation_id)  # type: ignore[attr-defined]
        return True
