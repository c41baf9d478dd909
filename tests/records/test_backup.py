"""A shop restored is the same shop; a backup that is not whole is said to be."""

import shutil
import zipfile
from collections.abc import Iterator
from datetime import date, timedelta
from pathlib import Path
from uuid import uuid4

import pytest
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.engine import make_url

from tests.builders import load_demo
from vivid_arm.records import backup, database
from vivid_arm.records.backup import BackupError, TableDigest, back_up, restore
from vivid_arm.records.evidence import flaws

pytestmark = pytest.mark.slow


@pytest.fixture
def kept(cluster_url: str, empty: Engine, tmp_path: Path) -> Path:
    """The demo shop with a photo, backed up."""
    load_demo(empty)
    with empty.begin() as connection:
        connection.execute(
            text(
                "INSERT INTO photos (id, build_id, width, height, body)"
                " SELECT gen_random_uuid(), id, 2, 2, '\\xffd8ff00' FROM builds LIMIT 1"
            )
        )
    file = tmp_path / "shop.vivid-arm.zip"
    back_up(cluster_url, file)
    return file


@pytest.fixture
def other(cluster_url: str, engine: Engine) -> Iterator[str]:
    """Another database, empty."""
    name = f"other_{uuid4().hex[:8]}"
    admin = create_engine(cluster_url, isolation_level="AUTOCOMMIT")
    with admin.connect() as connection:
        connection.execute(text(f"CREATE DATABASE {name}"))
    yield make_url(cluster_url).set(database=name).render_as_string(False)
    with admin.connect() as connection:
        connection.execute(text(f"DROP DATABASE {name} WITH (FORCE)"))
    admin.dispose()


def tables(url: str) -> dict[str, TableDigest]:
    engine = database.connect(url)
    with engine.connect() as connection:
        found = backup.digests(connection)
        assert flaws(connection) == []
    engine.dispose()
    return found


def test_a_shop_restored_is_the_same_shop(cluster_url: str, kept: Path, other: str) -> None:
    restore(other, kept)
    here, there = tables(cluster_url), tables(other)
    assert here == there
    assert here["photos"].rows == 1
    filled = ("readings", "orders", "findings", "signatures", "box_rods", "evidence")
    assert min(here[table].rows for table in filled) > 0


def test_a_digest_tells_one_changed_figure(cluster_url: str, kept: Path, empty: Engine) -> None:
    before = tables(cluster_url)
    with empty.begin() as connection:
        connection.execute(text("UPDATE instruments SET accuracy_in = 0.0011"))
    assert backup.different(before, tables(cluster_url)) == ["changes", "instruments"]


def test_a_backup_is_proved_in_a_cluster_of_its_own(kept: Path) -> None:
    assert backup.verify(kept).tables["builds"].rows == 12
    assert list(Path("/var/tmp").glob("vivid-arm-verify-*")) == []


def test_a_shop_that_is_not_empty_stays(cluster_url: str, kept: Path) -> None:
    before = tables(cluster_url)
    with pytest.raises(BackupError, match="not empty"):
        restore(cluster_url, kept)
    assert tables(cluster_url) == before


@pytest.mark.parametrize("how", ["cut", "flipped", "swapped", "no zip", "missing", "newer"])
def test_what_is_not_whole_is_said(kept: Path, other: str, how: str, tmp_path: Path) -> None:
    file = tmp_path / "spoilt.zip"
    shutil.copy(kept, file)
    if how == "cut":
        file.write_bytes(file.read_bytes()[:5000])
    elif how == "flipped":
        body = bytearray(file.read_bytes())
        body[len(body) // 2] ^= 0xFF
        file.write_bytes(body)
    elif how in ("swapped", "newer"):
        with zipfile.ZipFile(kept) as old, zipfile.ZipFile(file, "w") as new:
            manifest = old.read("manifest.json").decode()
            told = ('"rows": 11', '"rows": 12') if how == "swapped" else (
                f'"migration":"{database.head()}"', '"migration":"9999"')  # fmt: skip
            manifest = manifest.replace('"migration": ', '"migration":').replace(*told)
            new.writestr("manifest.json", manifest)
            new.writestr("shop.dump", old.read("shop.dump"))
    elif how == "no zip":
        file.write_text("hello")
    else:
        file.unlink()
    words = {"newer": "newer Vivid Arm", "missing": "There is no", "swapped": "does not hold"}
    with pytest.raises(BackupError, match=words.get(how, "spoilt")):
        restore(other, file)


def test_a_backup_overwrites_nothing(cluster_url: str, kept: Path) -> None:
    before = kept.read_bytes()
    with pytest.raises(BackupError, match="there already"):
        back_up(cluster_url, kept)
    assert kept.read_bytes() == before
    assert [p.name for p in kept.parent.iterdir()] == [kept.name]
    assert kept.stat().st_mode & 0o077 == 0, "nobody else on the machine reads it"


def test_one_a_day_and_old_ones_go(cluster_url: str, empty: Engine, tmp_path: Path) -> None:
    folder = tmp_path / "backups"
    folder.mkdir()
    today = date(2026, 11, 26)
    for age in range(1, 60):
        (folder / f"day-{today - timedelta(days=age)}.vivid-arm.zip").write_text("")
    (folder / "before-0007-20260101T000000.vivid-arm.zip").write_text("")
    (folder / "mine.zip").write_text("")
    made = backup.daily(cluster_url, folder, today)
    assert made is not None
    assert backup.daily(cluster_url, folder, today) is None
    names = sorted(f.name for f in folder.iterdir())
    days = [n for n in names if n.startswith("day-")]
    assert [n[9:14] for n in days] == [
        "11-08", "11-15", "11-20", "11-21", "11-22", "11-23", "11-24", "11-25", "11-26",
    ]  # fmt: skip
    assert f"day-{today}.vivid-arm.zip" in days
    assert "mine.zip" in names
    assert len(names) == 11
