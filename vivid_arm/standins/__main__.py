"""Run one stand-in: python -m vivid_arm.standins supplier|gauge."""

import asyncio
import contextlib
from pathlib import Path
from typing import Annotated

import typer
import uvicorn

from vivid_arm.standins.gauge import GaugeStandIn
from vivid_arm.standins.supplier import make_supplier

cli = typer.Typer(add_completion=False)
Port = Annotated[int, typer.Option(min=1, max=65535)]


@cli.command()
def supplier(port: Port, file: Path | None = None, pace: float = 20.0) -> None:
    """The rod supplier on loopback; its books in ``file``, a step each ``pace`` seconds."""
    uvicorn.run(make_supplier(file, pace), host="127.0.0.1", port=port, log_level="warning")


@cli.command()
def gauge(port: Port) -> None:
    """The indicator and the caliper on one data cable, on loopback."""
    with contextlib.suppress(KeyboardInterrupt):
        asyncio.run(GaugeStandIn().serve(port))


@cli.callback()
def standins() -> None:
    """The simulated outside world."""


if __name__ == "__main__":
    cli()
