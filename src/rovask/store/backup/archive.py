"""The archive: a tar with ``manifest.json``, ``tables/NAME.gz`` and ``photos/…``; whole under its name, or not there.

Everything of the database is read at one moment. Photos are read after it: those it names were kept before it named them, and
none is taken away sooner than thirty days after it is named no more.
"""

from __future__ import annotations

import hashlib
import io
import json
import os
import re
import tarfile
import tempfile
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import sqlalchemy as sa

from rovask.core.plain.faults import RovaskError
from rovask.store.backup.tables import TableCopy, copied, tables_in_order
from rovask.store.database import engine_for
from rovask.store.photos import PhotoStore, name_of

FORMAT = 1
MANIFEST = "manifest.json"
_NAME = re.compile(r"rovask-\d{8}T\d{6}Z\.tar")


class BackupRefused(RovaskError):
    """A backup can't be made, read or restored; the message says why and what to do."""


@dataclass(frozen=True, slots=True)
class Manifest:
    """What an archive holds. photos: sha256 of each file by its name. missing: photos the database names whose files are gone or damaged."""

    rovask: str
    schema: str
    made_at: str
    tables: tuple[TableCopy, ...]
    photos: Mapping[str, str]
    missing: tuple[str, ...] = ()
    format: int = FORMAT


@dataclass(frozen=True, slots=True)
class Made:
    """A backup that was made."""

    path: Path
    size: int
    manifest: Manifest = field(repr=False)


def make_backup(url: str, photos: PhotoStore, folder: Path, version: str, clock: datetime) -> Made:
    """One archive of everything in a folder. Raises BackupRefused, and leaves nothing half then."""
    path = folder / f"rovask-{clock.astimezone(UTC):%Y%m%dT%H%M%SZ}.tar"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(prefix=".rovask-", dir=folder) as scratch:
            half = Path(scratch) / "half.tar"
            with tarfile.open(half, "w") as archive:
                manifest = _written(url, photos, archive, Path(scratch), version, clock)
            with half.open("rb") as file:
                os.fsync(file.fileno())
            half.chmod(0o600)  # it holds everything
            half.replace(path)
    except OSError as error:
        raise BackupRefused(f"The backup could not be written to {folder} ({error.strerror or error}).") from None
    except sa.exc.SQLAlchemyError as error:
        raise BackupRefused(f"The database could not be read ({type(error).__name__}); nothing was written.") from None
    return Made(path, path.stat().st_size, manifest)


def _written(
    url: str, photos: PhotoStore, archive: tarfile.TarFile, scratch: Path, version: str, clock: datetime
) -> Manifest:
    engine = engine_for(url, patient=True)
    try:
        with engine.connect().execution_options(isolation_level="REPEATABLE READ", postgresql_readonly=True) as moment:
            schema = str(moment.scalar(sa.text("select version_num from alembic_version")))
            tables = []
            for name in tables_in_order(moment):
                file = scratch / f"{name}.gz"
                tables.append(copied(moment, name, file))
                archive.add(file, f"tables/{name}.gz")
                file.unlink()
            named = sorted(moment.scalars(sa.text("select distinct sha256 from photo")))
    finally:
        engine.dispose()
    sums: dict[str, str] = {}
    missing = [sha256 for sha256 in named if not _photo(photos, archive, sha256, sums)]
    manifest = Manifest(
        version, schema, clock.astimezone(UTC).isoformat(timespec="seconds"), tuple(tables), sums, tuple(missing)
    )
    _put(archive, MANIFEST, json.dumps(asdict(manifest), indent=1).encode())
    return manifest


def _photo(photos: PhotoStore, archive: tarfile.TarFile, sha256: str, sums: dict[str, str]) -> bool:
    """Put a photo's files into the archive; whether they are there and what their checksum says."""
    try:
        found = {name_of(sha256, small): photos.files.get(name_of(sha256, small)) for small in (False, True)}
    except FileNotFoundError:
        return False
    if hashlib.sha256(found[name_of(sha256, False)]).hexdigest() != sha256:
        return False
    for name, content in found.items():
        sums[name] = hashlib.sha256(content).hexdigest()
        _put(archive, f"photos/{name}", content)
    return True


def _put(archive: tarfile.TarFile, name: str, content: bytes) -> None:
    item = tarfile.TarInfo(name)
    item.size, item.mode = len(content), 0o600
    archive.addfile(item, io.BytesIO(content))


def read_manifest(path: Path) -> Manifest:
    """What an archive says it holds. Raises BackupRefused for none, a damaged one, or one of a newer kind."""
    try:
        with tarfile.open(path) as archive:
            data: dict[str, Any] = json.loads(content(archive, MANIFEST))
        tables = tuple(TableCopy(**row | {"columns": tuple(row["columns"])}) for row in data.pop("tables"))
        if data["format"] != FORMAT:
            raise BackupRefused(f"{path.name} was made by a newer Rovask ({data['rovask']}); restore it with that one.")
        return Manifest(tables=tables, **data | {"missing": tuple(data["missing"])})
    except FileNotFoundError:
        raise BackupRefused(f"There is no file {path}.") from None
    except (tarfile.TarError, OSError, ValueError, KeyError, TypeError, EOFError) as error:
        raise BackupRefused(f"{path.name} is no backup of Rovask, or is damaged ({type(error).__name__}).") from None


def content(archive: tarfile.TarFile, name: str) -> bytes:
    """One file of an archive. Raises KeyError for one that isn't in it."""
    file = archive.extractfile(name)
    if file is None:
        raise KeyError(name)
    return file.read()


def backups_in(folder: Path) -> list[Path]:
    """The archives of a folder that are ours by their name, the newest first."""
    return sorted((path for path in folder.glob("rovask-*.tar") if _NAME.fullmatch(path.name)), reverse=True)


def thinned(folder: Path, keep: int) -> list[Path]:
    """Take away all but the newest ``keep`` archives of a folder; returns what went."""
    gone = backups_in(folder)[max(keep, 1) :]
    for path in gone:
        path.unlink(missing_ok=True)
    return gone
