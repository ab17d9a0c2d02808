"""Large answers, sent from a file or from memory that is shared: a slow reader takes no thread and no copy."""

import io
import tempfile
from collections.abc import Iterable, Mapping, Sequence
from typing import BinaryIO

from flask import Response, request
from werkzeug.wsgi import wrap_file

BLOCK = 1 << 18


class Slices(io.RawIOBase):
    """Several pieces of memory one after the other, read as a file; none of them is copied."""

    def __init__(self, parts: Sequence[memoryview]) -> None:
        self._parts = [part.cast("B") for part in parts]
        self.length = sum(len(part) for part in self._parts)
        self._at = 0

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def tell(self) -> int:
        return self._at

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        start = {io.SEEK_SET: 0, io.SEEK_CUR: self._at, io.SEEK_END: self.length}[whence]
        self._at = max(0, min(start + offset, self.length))
        return self._at

    def read(self, size: int = -1) -> bytes:
        wanted = self.length - self._at if size < 0 else size
        found, start = [], 0
        for part in self._parts:
            first = self._at - start
            if 0 <= first < len(part) and wanted > 0:
                piece = bytes(part[first : first + wanted])
                found.append(piece)
                self._at += len(piece)
                wanted -= len(piece)
            start += len(part)
        return b"".join(found)


def sent(file: BinaryIO | Slices, length: int, mimetype: str, headers: Mapping[str, str]) -> Response:
    """A file as an answer, from its beginning; the server reads it as fast as it is taken, and closes it."""
    file.seek(0)
    # The server sends what it knows as a file by itself, after the request has ended.
    body = wrap_file(request.environ, file, BLOCK)  # type: ignore[arg-type] # it only reads and seeks
    answer = Response(body, mimetype=mimetype, headers=dict(headers), direct_passthrough=True)
    answer.content_length = length
    return answer


def collected(parts: Iterable[bytes]) -> tuple[BinaryIO, int]:
    """What comes piece by piece, in a file of its own that is gone when it is closed; and its length."""
    file: BinaryIO = tempfile.TemporaryFile()  # noqa: SIM115 - closed by whoever sends it
    for part in parts:
        file.write(part)
    return file, file.tell()
