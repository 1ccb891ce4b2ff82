"""System libraries that a window needs: those missing here, and the command to install them."""

import ctypes
import shutil
from collections.abc import Sequence

DEBIAN_PACKAGES = {
    "libEGL.so.1": "libegl1",
    "libGL.so.1": "libgl1",
    "libxkbcommon.so.0": "libxkbcommon0",
    "libxkbcommon-x11.so.0": "libxkbcommon-x11-0",
    "libdbus-1.so.3": "libdbus-1-3",
    "libfontconfig.so.1": "libfontconfig1",
    "libglib-2.0.so.0": "libglib2.0-0",
    "libxcb-cursor.so.0": "libxcb-cursor0",
    "libxcb-icccm.so.4": "libxcb-icccm4",
    "libxcb-image.so.0": "libxcb-image0",
    "libxcb-keysyms.so.1": "libxcb-keysyms1",
    "libxcb-randr.so.0": "libxcb-randr0",
    "libxcb-render-util.so.0": "libxcb-render-util0",
    "libxcb-shape.so.0": "libxcb-shape0",
    "libxcb-xinerama.so.0": "libxcb-xinerama0",
    "libxcb-xkb.so.1": "libxcb-xkb1",
}
"""By the library's name."""


def missing_libraries() -> tuple[str, ...]:
    """Names of the libraries that cannot be loaded here."""
    return tuple(library for library in DEBIAN_PACKAGES if not _loads(library))


def install_command(libraries: Sequence[str]) -> str:
    """The command that installs libraries on this system; their names alone where none is known."""
    if shutil.which("apt-get"):
        packages = (DEBIAN_PACKAGES.get(library, library) for library in libraries)
        return f"sudo apt-get install {' '.join(packages)}"
    if shutil.which("dnf"):
        return "sudo dnf install " + " ".join(f"'{library}()(64bit)'" for library in libraries)
    return ", ".join(libraries)


def _loads(library: str) -> bool:
    try:
        ctypes.CDLL(library)
    except OSError:
        return False
    return True
