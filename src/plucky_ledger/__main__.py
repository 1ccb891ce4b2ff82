"""The installed command. Recording must start cheaply, so it is told apart before anything else."""

import gc
import sys
from pathlib import Path

from plucky_ledger.core.trouble import Refused, TroubleCode

WINDOW_PACKAGES = {"PySide6", "pyqtgraph"}


def main() -> None:
    """Run ``plucky-ledger``: the recorder, another command, or the window."""
    if sys.argv[1:2] == ["record"]:
        from plucky_ledger.cli.record import main as record_main

        sys.exit(record_main(sys.argv[2:]))
    from plucky_ledger.cli.main import main as cli_main

    cli_main(obj=_open_window)


def _open_window(path: Path, with_demo: bool) -> int:
    gc.disable()  # what is loaded now is no garbage; the window turns it on again once it stands
    try:
        from plucky_ledger.ui.app import run
    except ModuleNotFoundError as error:
        package = (error.name or "").partition(".")[0]
        if package not in WINDOW_PACKAGES:
            raise
        raise Refused(TroubleCode.PACKAGE_MISSING, package=package, extra="window") from error
    return run(path, with_demo)


if __name__ == "__main__":
    main()
