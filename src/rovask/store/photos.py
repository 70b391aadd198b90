"""Photos and papers beside the database, named by their checksum; the refit keeps only what they are.

They lie in a folder, or in any object store that speaks S3; both hold the same names. A file is whole or not there at all, and is never
written over: one that is there already is the same picture.
"""

from __future__ import annotations

import hashlib
import os
import re
import tempfile
from collections.abc import Iterator
from datetime import timedelta
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Protocol
from urllib.parse import urlsplit

import obstore
from obstore.exceptions import BaseError, NotFoundError
from obstore.store import S3Store

if TYPE_CHECKING:
    from obstore.store import S3Config

from rovask.formats.photo import Picture
from rovask.store.errors import NotFound

MISSING = "The file of this photo is missing on the server; bring it back from a backup."
AWAY = "This photo can't be had just now; try again in a moment."
DAMAGED = "The file of this photo is damaged on the server; bring it back from a backup."
PATIENCE = timedelta(seconds=20)
_NAMED = re.compile(r"[0-9a-f]{2}/([0-9a-f]{64})(\.small)?\.jpg")


class Files(Protocol):
    """Where files lie by name."""

    def has(self, name: str) -> bool:
        """Whether there is one of that name. Raises OSError."""

    def put(self, name: str, content: bytes) -> None:
        """Keep one, whole or not at all; once it returns it is safe. Raises OSError."""

    def get(self, name: str) -> bytes:
        """Its content. Raises FileNotFoundError, OSError."""

    def drop(self, name: str) -> None:
        """Take one away; it need not be there. Raises OSError."""

    def names(self) -> Iterator[str]:
        """All there are. Raises OSError."""

    def look(self) -> None:
        """Raises OSError when nothing can be kept here."""


class Folder:
    """Files in a folder of this machine."""

    def __init__(self, path: Path) -> None:
        self.path = path

    def has(self, name: str) -> bool:
        """Whether there is one of that name."""
        return (self.path / name).exists()

    def put(self, name: str, content: bytes) -> None:
        """Keep one; on disk before it has its name, also when the disk fills up."""
        path = self.path / name
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, fresh = tempfile.mkstemp(dir=path.parent)
        try:
            with os.fdopen(handle, "wb") as file:
                file.write(content)
                file.flush()
                os.fsync(file.fileno())
            Path(fresh).replace(path)
            self._settle(path.parent)
        except OSError:
            Path(fresh).unlink(missing_ok=True)
            raise

    def _settle(self, folder: Path) -> None:
        """The name itself survives a power cut only once its folder is on disk."""
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)

    def get(self, name: str) -> bytes:
        """Its content."""
        return (self.path / name).read_bytes()

    def drop(self, name: str) -> None:
        """Take one away."""
        (self.path / name).unlink(missing_ok=True)

    def names(self) -> Iterator[str]:
        """All there are."""
        for path in sorted(self.path.glob("??/*.jpg")):
            yield path.relative_to(self.path).as_posix()

    def look(self) -> None:
        """Raises OSError when nothing can be kept here."""
        self.path.mkdir(parents=True, exist_ok=True)
        if not os.access(self.path, os.W_OK):
            raise PermissionError(13, "the folder can't be written")


class Bucket:
    """Files in an object store that speaks S3. Its keys are read from the environment."""

    def __init__(self, url: str, endpoint: str, region: str) -> None:
        parts = urlsplit(url)
        config: S3Config = {"region": region}
        if endpoint:
            config |= {"endpoint": endpoint, "virtual_hosted_style_request": False}
        self.store = S3Store(
            parts.netloc,
            prefix=parts.path.strip("/") or None,
            config=config,
            client_options={"allow_http": endpoint.startswith("http://"), "timeout": PATIENCE},
            retry_config={"max_retries": 3, "retry_timeout": PATIENCE},
        )

    def has(self, name: str) -> bool:
        """Whether there is one of that name."""
        try:
            self.store.head(name)
        except (FileNotFoundError, NotFoundError):
            return False
        except BaseError as error:
            raise _away(error) from None
        return True

    def put(self, name: str, content: bytes) -> None:
        """Keep one."""
        try:
            self.store.put(name, content, attributes={"Content-Type": "image/jpeg"})
        except BaseError as error:
            raise _away(error) from None

    def get(self, name: str) -> bytes:
        """Its content."""
        try:
            return bytes(self.store.get(name).bytes())
        except (FileNotFoundError, NotFoundError):
            raise FileNotFoundError(2, "no such file", name) from None
        except BaseError as error:
            raise _away(error) from None

    def drop(self, name: str) -> None:
        """Take one away."""
        try:
            self.store.delete(name)
        except (FileNotFoundError, NotFoundError):
            return
        except BaseError as error:
            raise _away(error) from None

    def names(self) -> Iterator[str]:
        """All there are."""
        try:
            for rows in obstore.list(self.store):
                for row in rows:
                    yield row["path"]
        except BaseError as error:
            raise _away(error) from None

    def look(self) -> None:
        """Raises OSError when it does not answer."""
        self.has("look")


def _away(error: BaseError) -> OSError:
    """In words without the store's address and keys."""
    return OSError(5, f"the store of photos does not answer ({type(error).__name__})")


def name_of(sha256: str, small: bool) -> str:
    """What a photo's file is called."""
    return f"{sha256[:2]}/{sha256}{'.small' if small else ''}.jpg"


class PhotoStore:
    """The photos of an installation."""

    def __init__(self, files: Files) -> None:
        self.files = files

    def keep(self, picture: Picture) -> None:
        """Keep a picture; the same one again is the same file. Raises OSError; then whatever was kept of it is swept up later."""
        for content, small in ((picture.large, False), (picture.small, True)):
            name = name_of(picture.sha256, small)
            if not self.files.has(name):
                self.files.put(name, content)

    def content(self, sha256: str, small: bool = False) -> bytes:
        """The file of a photo. Raises NotFound when it is gone or no longer what its checksum says."""
        try:
            data = self.files.get(name_of(sha256, small))
        except FileNotFoundError:
            raise NotFound(MISSING) from None
        except OSError:
            raise NotFound(AWAY) from None
        if not small and hashlib.sha256(data).hexdigest() != sha256:
            raise NotFound(DAMAGED)
        return data

    def checksums(self) -> set[str]:
        """The checksums of all photos there are, the refits of which may be gone."""
        found = (_NAMED.fullmatch(name) for name in self.files.names())
        return {one[1] for one in found if one}

    def drop(self, sha256: str) -> None:
        """Take a photo's files away."""
        for small in (True, False):
            self.files.drop(name_of(sha256, small))

    def look(self) -> None:
        """Raises OSError when nothing can be kept here."""
        self.files.look()


@lru_cache(maxsize=8)
def photo_store(state: Path, url: str = "", endpoint: str = "", region: str = "us-east-1") -> PhotoStore:
    """The store of an installation's photos: a folder of its state, or the object store at ``url``. Raises ValueError for no s3:// address."""
    if url and not url.startswith("s3://"):
        raise ValueError("ROVASK_PHOTOS_URL must be s3://bucket or s3://bucket/prefix")
    return PhotoStore(Bucket(url, endpoint, region) if url else Folder(state / "photos"))
