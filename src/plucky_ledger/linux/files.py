"""Writing a file whole or not at all."""

import os
import tempfile
from pathlib import Path


class NotSaved(Exception):
    """A file could not be written; the text says why and what to try."""


def save_file(data: bytes, path: Path) -> None:
    """Write beside the target first, so that nothing half-written ever has its name."""
    try:
        descriptor, beside = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
    except OSError as error:
        raise NotSaved(
            f"{path.parent} cannot be written to ({error.strerror}). Choose another folder."
        ) from error
    try:
        with os.fdopen(descriptor, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        os.replace(beside, path)
    except OSError as error:
        Path(beside).unlink(missing_ok=True)
        raise NotSaved(
            f"{path.name} could not be written: {error.strerror}. Nothing was left half-written; "
            "choose another place or free some space."
        ) from error
