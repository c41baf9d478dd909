"""The daily backups beside the data: listed, and one of them to take away."""

from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Request
from fastapi import Path as InPath
from fastapi.responses import FileResponse
from pydantic import BaseModel

from vivid_arm.api.problems import NotFound
from vivid_arm.core.words import say
from vivid_arm.records.backup import NAME, kept_in

router = APIRouter(prefix="/api/backups", tags=["backups"])


class BackupOut(BaseModel):
    """A backup that lies beside the data, its size in bytes."""

    name: str
    made_at: datetime
    size: int


class ZipResponse(FileResponse):
    media_type = "application/zip"


def _folder(request: Request) -> Path | None:
    found: Path | None = request.app.state.backups
    return found


@router.get("")
def read_backups(request: Request) -> list[BackupOut]:
    """The backups there are, the newest first."""
    folder = _folder(request)
    out = []
    for file in kept_in(folder) if folder else []:
        kept = file.stat()
        at = datetime.fromtimestamp(kept.st_mtime, UTC)
        out.append(BackupOut(name=file.name, made_at=at, size=kept.st_size))
    return out


@router.get("/{name}", response_class=ZipResponse)
def read_backup(name: Annotated[str, InPath(max_length=80)], request: Request) -> ZipResponse:
    """One backup, whole, to keep somewhere else."""
    folder = _folder(request)
    if folder is None or not NAME.match(name) or not (folder / name).is_file():
        raise NotFound(say("There is no such backup."))
    return ZipResponse(folder / name, filename=name)
