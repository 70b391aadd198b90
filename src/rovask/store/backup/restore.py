"""A backup brought back: into an empty place, or beside, to be compared with what it says of itself."""

from __future__ import annotations

import hashlib
import secrets
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import psycopg
import sqlalchemy as sa
from alembic import command
from alembic.script import ScriptDirectory
from alembic.util import CommandError
from psycopg import sql
from sqlalchemy.engine import make_url

from rovask.store import queue
from rovask.store.backup.archive import BackupRefused, Manifest, content, read_manifest
from rovask.store.backup.tables import copied, count_on, loaded
from rovask.store.database import engine_for, sqlalchemy_url, transaction
from rovask.store.migrate import config_for, migrate
from rovask.store.photos import Folder, PhotoStore
from rovask.store.record_tables import RefitRow


def restore(path: Path, url: str, photos: PhotoStore) -> Manifest:
    """Bring everything in an archive back into an empty database and a store of photos. Raises BackupRefused.

    Nobody is signed in afterwards, and links that were not used are gone. Refits are planned and played anew by the worker.
    """
    manifest = read_manifest(path)
    _is_empty(url)
    engine = engine_for(url, patient=True)
    try:
        with tarfile.open(path) as archive:
            _up_to(engine, url, manifest.schema)
            with engine.begin() as connection:
                _load(connection, archive, manifest)
            for name, sha256 in manifest.photos.items():
                data = content(archive, f"photos/{name}")
                if hashlib.sha256(data).hexdigest() != sha256:
                    raise BackupRefused(f"The photo {name} in {path.name} is damaged.")
                if not photos.files.has(name):
                    photos.files.put(name, data)
        migrate(url)
    except (tarfile.TarError, EOFError, KeyError) as error:
        raise BackupRefused(f"{path.name} is damaged ({type(error).__name__}); nothing can be relied on.") from None
    except sa.exc.SQLAlchemyError as error:
        raise BackupRefused(
            f"The database would not take it ({type(error).__name__}: {getattr(error, 'orig', '')})."
        ) from None
    except OSError as error:
        raise BackupRefused(f"The photos could not be brought back ({error.strerror or error}).") from None
    finally:
        engine.dispose()
    with transaction(url) as session:
        for pk in session.scalars(sa.select(RefitRow.pk)):
            queue.wish_for_search(session, pk)
            queue.wish_to_play(session, pk)
    return manifest


def checked(path: Path, url: str) -> list[str]:
    """Restore an archive beside, into a database and a folder that go again, and compare; returns what differs, in words.

    url: a server on which databases may be made; the one it names is not touched. Raises BackupRefused for what can't be restored at all.
    """
    manifest = read_manifest(path)
    with beside(url) as scratch, tempfile.TemporaryDirectory(prefix="rovask-check-") as folder:
        photos = PhotoStore(Folder(Path(folder)))
        engine = engine_for(scratch, patient=True)
        wrong: list[str] = []
        try:
            with tarfile.open(path) as archive:
                _up_to(engine, scratch, manifest.schema)
                with engine.begin() as connection:
                    _load(connection, archive, manifest)
            with engine.connect() as connection:
                for table in manifest.tables:
                    again = copied(connection, table.name, only=table.columns)
                    if again != table:
                        wrong.append(f"table {table.name}: {again.rows} rows for {table.rows}, or other ones")
        except (tarfile.TarError, EOFError, KeyError, OSError) as error:
            raise BackupRefused(f"{path.name} is damaged ({type(error).__name__}).") from None
        except sa.exc.SQLAlchemyError as error:
            raise BackupRefused(f"A table of {path.name} can't be read back ({type(error).__name__}).") from None
        finally:
            engine.dispose()
    with beside(url) as scratch, tempfile.TemporaryDirectory(prefix="rovask-check-") as folder:
        photos = PhotoStore(Folder(Path(folder)))
        restore(path, scratch, photos)  # the whole way, up to the schema of this version
        for name, sha256 in manifest.photos.items():
            if hashlib.sha256(photos.files.get(name)).hexdigest() != sha256:
                wrong.append(f"photo {name} is another one")
        from rovask.store.database import sessions_for

        sessions_for(scratch).kw["bind"].dispose()
    wrong += [
        f"photo {sha256}: its file was missing or damaged when the backup was made" for sha256 in manifest.missing
    ]
    return wrong


@contextmanager
def beside(url: str) -> Iterator[str]:
    """An empty database on the server of another, for as long as it is needed. Raises BackupRefused where none may be made."""
    name = f"rovask_check_{secrets.token_hex(4)}"
    plain = make_url(sqlalchemy_url(url)).set(drivername="postgresql")
    try:
        with psycopg.connect(url, autocommit=True) as connection:
            connection.execute(sql.SQL("create database {}").format(sql.Identifier(name)))
    except psycopg.Error as error:
        raise BackupRefused(
            f"No database can be made beside the one there is ({type(error).__name__}); this role needs CREATEDB for --check."
        ) from None
    try:
        yield plain.set(database=name).render_as_string(hide_password=False)
    finally:
        with psycopg.connect(url, autocommit=True) as connection:
            connection.execute(sql.SQL("drop database {} with (force)").format(sql.Identifier(name)))


def _is_empty(url: str) -> None:
    engine = engine_for(url, patient=True)
    try:
        with engine.connect() as connection:
            tables = set(sa.inspect(connection).get_table_names(schema="public"))
            for name in ("refit", "account"):
                if name in tables and connection.scalar(sa.text(f"select exists (select from {name})")):
                    raise BackupRefused(
                        "There are refits or accounts here already; a backup is restored into an empty place. "
                        "Name another database, or another ROVASK_STATE."
                    )
    except sa.exc.OperationalError as error:
        raise BackupRefused(f"The database does not answer: {error.orig}") from None
    finally:
        engine.dispose()


def _up_to(engine: sa.Engine, url: str, schema: str) -> None:
    """The schema the archive was made with, empty."""
    config = config_for(url)
    try:
        ScriptDirectory.from_config(config).get_revision(schema)
    except CommandError:
        raise BackupRefused(f"It was made by a newer Rovask (schema {schema}); restore it with that one.") from None
    with engine.connect() as connection:
        config.attributes["connection"] = connection
        found = connection.scalar(sa.text("select to_regclass('public.alembic_version')"))
        at = connection.scalar(sa.text("select version_num from alembic_version")) if found else None
        if at != schema:
            (command.upgrade if at is None or at < schema else command.downgrade)(config, schema)
        connection.commit()


def _load(connection: sa.Connection, archive: tarfile.TarFile, manifest: Manifest) -> None:
    for table in manifest.tables:
        file = archive.extractfile(f"tables/{table.name}.gz")
        if file is None:
            raise KeyError(table.name)
        loaded(connection, table, file)
        count_on(connection, table.name)
        again = copied(connection, table.name, only=table.columns)
        if again != table:
            raise BackupRefused(
                f"The table {table.name} came back with {again.rows} rows for {table.rows}, or other ones."
            )
