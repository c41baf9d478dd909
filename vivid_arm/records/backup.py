"""Backups: the whole shop in one file, proved by a digest of every table.

A file is a zip of `shop.dump` (PostgreSQL's own format) and `manifest.json`: when, by which
program and migration, and of each table the count of rows and a SHA-256 that any order of the
rows gives. Both are taken from one moment of the database.
"""

import os
import re
import tempfile
import zipfile
from collections.abc import Iterable
from datetime import UTC, date, datetime
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, Field, ValidationError
from sqlalchemy import Connection, text

from vivid_arm import __version__
from vivid_arm.records import database
from vivid_arm.records.cluster import running_cluster, tool

DAYS, WEEKS = 7, 4
SUFFIX = ".vivid-arm.zip"
NAME = re.compile(r"^(day-\d{4}-\d\d-\d\d|before-\w{1,20}-\d{8}T\d{6})\.vivid-arm\.zip$")
_DUMP, _MANIFEST = "shop.dump", "manifest.json"


class BackupError(RuntimeError):
    """A backup that cannot be made, read or restored; the message says why and what to do."""


class TableDigest(BaseModel):
    """How many rows a table has, and the SHA-256 over them."""

    rows: Annotated[int, Field(ge=0)]
    digest: str


class Manifest(BaseModel):
    """What a backup says of itself."""

    made_at: datetime
    program: str
    migration: str
    tables: dict[str, TableDigest]


def back_up(url: str, file: Path) -> Manifest:
    """Write the whole database to a new file, whole or not at all.

    Raises BackupError when the file is there, or the database or the disk refuses.
    """
    if file.exists():
        raise BackupError(f"{file} is there already. Nothing was overwritten; choose another name.")
    engine = database.connect(url)
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        with (
            tempfile.TemporaryDirectory(dir=file.parent, prefix=".backup-") as folder,
            engine.connect().execution_options(isolation_level="REPEATABLE READ") as connection,
        ):
            connection.execute(text("SET LOCAL statement_timeout = 0"))
            snapshot = connection.scalar(text("SELECT pg_export_snapshot()"))
            manifest = Manifest(
                made_at=datetime.now(UTC),
                program=__version__,
                migration=database.revision(engine) or "",
                tables=digests(connection),
            )
            dump = Path(folder) / _DUMP
            tool(
                "pg_dump", "-Fc", "--no-owner", "--no-privileges", f"--snapshot={snapshot}",
                f"--file={dump}", url=url,
            )  # fmt: skip
            whole = Path(folder) / file.name
            with zipfile.ZipFile(whole, "w") as made:
                made.write(dump, _DUMP)
                made.writestr(_MANIFEST, manifest.model_dump_json(indent=2))
            with whole.open("rb") as written:
                os.fsync(written.fileno())
            whole.chmod(0o600)
            whole.rename(file)
    except OSError as error:
        raise BackupError(f"{file} cannot be written: {error.strerror}.") from None
    finally:
        engine.dispose()
    return manifest


def digests(connection: Connection) -> dict[str, TableDigest]:
    """Each table's rows and digest, the same whatever order the rows lie in."""
    names = connection.scalars(
        text("SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY tablename")
    ).all()
    connection.execute(text("SET LOCAL timezone = 'UTC'"))
    found = {}
    for name in names:
        rows, digest = connection.execute(
            text(
                "SELECT count(*), encode(sha256(coalesce(string_agg(d, ''::bytea ORDER BY d),"
                " ''::bytea)), 'hex') FROM"
                f" (SELECT sha256(convert_to(to_jsonb(t)::text, 'UTF8')) AS d FROM {name} t) AS x"
            )
        ).one()
        found[name] = TableDigest(rows=rows, digest=digest)
    return found


def manifest_of(file: Path) -> Manifest:
    """What a backup says of itself. Raises BackupError for what is no backup."""
    try:
        with zipfile.ZipFile(file) as kept:
            return Manifest.model_validate_json(kept.read(_MANIFEST))
    except FileNotFoundError:
        raise BackupError(f"There is no {file}.") from None
    except (OSError, zipfile.BadZipFile, KeyError, ValidationError):
        raise BackupError(f"{file} is no backup of Vivid Arm, or is spoilt.") from None


def restore(url: str, file: Path) -> Manifest:
    """Bring a backup into an empty database, prove it, and migrate it to today.

    Raises BackupError when the database holds a shop, or the backup is of a newer program,
    spoilt, or not what its manifest says.
    """
    manifest = manifest_of(file)
    if manifest.migration not in database.revisions():
        raise BackupError(
            f"{file} was written by a newer Vivid Arm ({manifest.program}). Update this one first."
        )
    engine = database.connect(url)
    try:
        with engine.begin() as connection:
            if connection.scalar(text("SELECT to_regclass('builds')")) and connection.scalar(
                text("SELECT EXISTS (SELECT FROM builds) OR EXISTS (SELECT FROM instruments)")
            ):
                raise BackupError(
                    "This shop is not empty. Nothing was changed; restore beside it with --data."
                )
            connection.execute(text("DROP SCHEMA public CASCADE"))
            connection.execute(text("CREATE SCHEMA public"))
        with tempfile.TemporaryDirectory() as folder:
            with zipfile.ZipFile(file) as kept:
                dump = kept.extract(_DUMP, folder)
            tool(
                "pg_restore", "--no-owner", "--no-privileges", "--exit-on-error",
                "--single-transaction", f"--dbname={_name_of(url)}", dump, url=url,
            )  # fmt: skip
        with engine.begin() as connection:
            connection.execute(text("SET LOCAL statement_timeout = 0"))
            differ = different(manifest.tables, digests(connection))
        if differ:
            raise BackupError(f"{file} does not hold what it says: {', '.join(differ)}.")
        database.migrate(engine)
    except (zipfile.BadZipFile, KeyError):
        raise BackupError(f"{file} is spoilt.") from None
    finally:
        engine.dispose()
    return manifest


def carry(old: str, new: str) -> None:
    """Bring a shop from one server to another and prove it. Raises BackupError."""
    with tempfile.TemporaryDirectory(prefix="vivid-arm-carry-", dir="/var/tmp") as folder:
        file = Path(folder) / f"carried{SUFFIX}"
        back_up(old, file)
        restore(new, file)


def different(one: dict[str, TableDigest], other: dict[str, TableDigest]) -> list[str]:
    """Tables that are not the same in both."""
    return sorted(name for name in one.keys() | other.keys() if one.get(name) != other.get(name))


def verify(file: Path) -> Manifest:
    """Restore a backup into a cluster of its own, that goes afterwards. Raises BackupError."""
    with tempfile.TemporaryDirectory(prefix="vivid-arm-verify-", dir="/var/tmp") as folder:
        Path(folder).chmod(0o755)
        with running_cluster(Path(folder) / "data") as url:
            return restore(url, file)


def _name_of(url: str) -> str:
    return url.rsplit("/", 1)[1].split("?")[0]


def daily(url: str, folder: Path, today: date) -> Path | None:
    """Make today's backup where there is none yet, and let old ones go; the new file."""
    file = folder / f"day-{today.isoformat()}{SUFFIX}"
    made = None
    if not file.exists():
        back_up(url, file)
        made = file
    kept = {day_of(f): f for f in folder.glob(f"day-*{SUFFIX}") if NAME.match(f.name)}
    for day in kept.keys() - days_kept(kept):
        kept[day].unlink()
    return made


def day_of(file: Path) -> date:
    return date.fromisoformat(file.name.removeprefix("day-").removesuffix(SUFFIX))


def days_kept(days: Iterable[date]) -> set[date]:
    """The last seven days there are, and the last day of each of the last four weeks.

    >>> from datetime import timedelta
    >>> len(days_kept(date(2026, 1, 1) + timedelta(days=i) for i in range(60)))
    10
    """
    newest = sorted(days, reverse=True)
    weeks: dict[tuple[int, int], date] = {}
    for day in newest:
        weeks.setdefault(day.isocalendar()[:2], day)
    return {*newest[:DAYS], *list(weeks.values())[:WEEKS]}


def kept_in(folder: Path) -> list[Path]:
    """The backups beside the data, the newest first."""
    if not folder.is_dir():
        return []
    found = [f for f in folder.iterdir() if NAME.match(f.name)]
    return sorted(found, key=lambda f: f.stat().st_mtime, reverse=True)
