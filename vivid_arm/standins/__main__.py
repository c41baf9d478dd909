"""Run one stand-in: python -m vivid_arm.standins supplier|gauge."""

import asyncio
import contextlib
import os
import sys
from pathlib import Path
from threading import Thread
from typing import Annotated

import typer
import uvicorn

from vivid_arm.standins.gauge import GaugeStandIn
from vivid_arm.standins.supplier import make_supplier

cli = typer.Typer(add_completion=False)
Port = Annotated[int, typer.Option(min=1, max=65535)]
Leave = Annotated[bool, typer.Option(help="Leave when standard input ends.")]


@cli.command()
def supplier(
    port: Port, file: Path | None = None, pace: float = 20.0, until_stdin_ends: Leave = False
) -> None:
    """The rod supplier on loopback; its books in ``file``, a step each ``pace`` seconds."""
    _leave_with_stdin(until_stdin_ends)
    uvicorn.run(make_supplier(file, pace), host="127.0.0.1", port=port, log_level="warning")


@cli.command()
def gauge(port: Port, until_stdin_ends: Leave = False) -> None:
    """The indicator and the caliper on one data cable, on loopback."""
    _leave_with_stdin(until_stdin_ends)
    with contextlib.suppress(KeyboardInterrupt):
        asyncio.run(GaugeStandIn().serve(port))


def _leave_with_stdin(wanted: bool) -> None:
    def wait() -> None:
        sys.stdin.buffer.read()
        os._exit(0)

    if wanted:
        Thread(target=wait, daemon=True).start()


@cli.callback()
def standins() -> None:
    """The simulated outside world."""


if __name__ == "__main__":
    cli()
