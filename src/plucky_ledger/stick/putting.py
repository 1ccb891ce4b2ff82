"""Files on a stick, whose file system may have neither modes nor links."""

import errno
import os
from contextlib import suppress
from pathlib import Path


def put(path: Path, data: bytes) -> None:
    """Write a file, whole or not at all, in the place of one that was there, and read it back: a
    stick may be pulled at any moment, and a bad one gives back something else.

    Raises OSError; nothing half-written is left where that can still be removed.
    """
    half = path.with_name(f"{path.name}.part")
    try:
        with half.open("wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        if half.read_bytes() != data:
            raise OSError(errno.EIO, os.strerror(errno.EIO))
        half.replace(path)
    except OSError:
        with suppress(OSError):  # it may be gone with the stick
            half.unlink()
        raise
