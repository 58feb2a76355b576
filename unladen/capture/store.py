"""Bodies on disk under the SHA-256 of their content."""

from __future__ import annotations

import contextlib
import errno
import hashlib
import os
import re
import tempfile
from collections.abc import Callable, Iterable
from pathlib import Path

from unladen.errors import StoreFull

_CHUNK = 1 << 20


_DIGEST = re.compile("[0-9a-f]{64}")


class BodyStore:
    """A folder of immutable bodies; the same bytes are kept once.

    `spend` is told of bytes before they are written, and raises `StoreFull` where they have no room.
    """

    def __init__(self, root: Path | str, spend: Callable[[int], None] | None = None) -> None:
        self.root = Path(root)
        self._spend = spend
        self.root.mkdir(parents=True, exist_ok=True)

    def path(self, digest: str) -> Path:
        """Where the body with this hexadecimal SHA-256 lies, whether or not it exists.

        Raises `KeyError` for what is none.

        Digests stand in documents that people hand in, and must not lead out of the store.
        """
        if not _DIGEST.fullmatch(digest):
            raise KeyError(digest)
        return self.root / digest[:2] / digest[2:]

    def __contains__(self, digest: str) -> bool:
        return bool(_DIGEST.fullmatch(digest)) and self.path(digest).exists()

    def get(self, digest: str) -> bytes:
        """The body; raises `KeyError` when it is not here."""
        try:
            return self.path(digest).read_bytes()
        except FileNotFoundError:
            raise KeyError(digest) from None

    def put(self, body: bytes) -> str:
        """Keep a body and return its digest; raises `StoreFull`."""
        digest = hashlib.sha256(body).hexdigest()
        if digest not in self:
            self._place(digest, [body])
        return digest

    def take_from(self, other: BodyStore, digest: str) -> None:
        """Have a body that another store of the same disk holds, without a second copy of it where that can be.

        Raises `KeyError` when the other one has it no more, and `StoreFull`.
        """
        target = self.path(digest)
        target.parent.mkdir(exist_ok=True)
        try:
            os.link(other.path(digest), target)
        except FileExistsError:
            return
        except FileNotFoundError:
            raise KeyError(digest) from None
        except OSError:  # another disk, or one that knows no links
            self._place(digest, [other.get(digest)])

    def drop(self, digest: str) -> None:
        """Let a body go."""
        self.path(digest).unlink(missing_ok=True)

    def trim(self, limit: int) -> int:
        """Let the bodies that were put or `touch`ed longest ago go until no more than `limit` bytes are held.

        For stores of what can be made again. Returns the bytes that went.
        """
        rows = []
        for path in self.root.glob("??/*"):
            with contextlib.suppress(FileNotFoundError):
                stat = path.stat()
                rows.append((stat.st_mtime, stat.st_size, path))
        surplus, gone = sum(size for _, size, _ in rows) - limit, 0
        for _, size, path in sorted(rows):
            if gone >= surplus:
                break
            path.unlink(missing_ok=True)
            gone += size
        return gone

    def touch(self, digest: str) -> None:
        """Note that a body is of use, for `trim`."""
        with contextlib.suppress(FileNotFoundError):
            os.utime(self.path(digest))

    def put_chunks(self, chunks: Iterable[bytes]) -> tuple[str, int]:
        """Keep a body that arrives in pieces; returns digest and size in bytes; raises `StoreFull`."""
        sha = hashlib.sha256()
        size = 0

        def counted() -> Iterable[bytes]:
            nonlocal size
            for chunk in chunks:
                sha.update(chunk)
                size += len(chunk)
                yield chunk

        temporary = self._write(counted())
        digest = sha.hexdigest()
        self._move(temporary, digest)
        return digest, size

    def put_file(self, path: Path) -> tuple[str, int]:
        """Keep a copy of a file; returns digest and size in bytes; raises `StoreFull` and `OSError`."""

        def chunks() -> Iterable[bytes]:
            with path.open("rb") as source:
                while chunk := source.read(_CHUNK):
                    yield chunk

        return self.put_chunks(chunks())

    def _place(self, digest: str, chunks: Iterable[bytes]) -> None:
        self._move(self._write(chunks), digest)

    def _write(self, chunks: Iterable[bytes]) -> Path:
        handle, name = tempfile.mkstemp(dir=self.root, prefix="incoming-")
        try:
            with os.fdopen(handle, "wb") as target:
                for chunk in chunks:
                    if self._spend:
                        self._spend(len(chunk))
                    target.write(chunk)
        except OSError as error:
            Path(name).unlink(missing_ok=True)
            if error.errno in (errno.ENOSPC, errno.EDQUOT):
                raise StoreFull(f"the disk of {self.root} is full") from error
            raise
        except BaseException:
            Path(name).unlink(missing_ok=True)
            raise
        return Path(name)

    def _move(self, temporary: Path, digest: str) -> None:
        target = self.path(digest)
        target.parent.mkdir(exist_ok=True)
        temporary.replace(target)
