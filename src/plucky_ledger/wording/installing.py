"""The line that installs what is missing: with pip, or from Debian's packages where we are one."""

from pathlib import Path

import plucky_ledger

DEBIANS = Path("/usr/lib/python3/dist-packages")
"""Where Debian's own packages lie, and nothing that pip installed."""
_PACKAGES = {
    "window": "plucky-ledger-window",
    "pdf": "weasyprint python3-jinja2",
    "numerics": "python3-numpy",
    "zstd": "python3-zstandard",
}
"""By extra, the packages of Debian that have it."""


def install_command(extra: str) -> str:
    """What to type for an extra of ours."""
    if Path(plucky_ledger.__file__).parent.parent == DEBIANS:
        return f"sudo apt install {_PACKAGES[extra]}"
    return f"pip install 'plucky-ledger[{extra}]'"
