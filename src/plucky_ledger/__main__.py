"""The installed command. Recording and disarming must start cheaply: they are told apart first."""

import gc
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from plucky_ledger.usecases.jobs.opening import Address

WINDOW_PACKAGES = ("PySide6", "plucky_ledger.ui")
"""What a lean install lacks: the toolkit, or as packages of Debian's our own window."""
LOADING_KEEPS = 1_000_000
"""Objects kept before garbage is looked for: what is loaded at first is none, and a command is over
before there is any to speak of. A window that is up looks sooner."""


def main() -> None:
    """Run ``plucky-ledger``: the recorder, another command, or the window."""
    gc.set_threshold(LOADING_KEEPS)
    # Our matrices are small: more threads would be no sooner, and keep every other core busy.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    if sys.argv[1:2] == ["record"]:
        from plucky_ledger.cli.record import main as record_main

        sys.exit(record_main(sys.argv[2:]))
    if sys.argv[1:2] == ["administer"]:
        from plucky_ledger.cli.administer import main as administer_main

        sys.exit(administer_main(sys.argv[2:]))
    if sys.argv[1:2] == ["disarm"] and _disarmed_quickly(sys.argv[2:]):
        return
    from plucky_ledger.cli.main import main as cli_main

    cli_main(obj=_open_window)


def _disarmed_quickly(arguments: list[str]) -> bool:
    from plucky_ledger.cli.disarm import disarm_quickly
    from plucky_ledger.core.values.trouble import Trouble

    try:
        done = disarm_quickly(arguments)
    except Trouble:
        return False  # the command tries again, and tells what is in the way
    if done:
        from plucky_ledger.wording.disarming import disarmed
        from plucky_ledger.wording.language import use_the_users

        use_the_users()
        sys.stdout.write(f"{disarmed(True)}\n")
    return done


def _open_window(address: "Address", with_demo: bool, recordings: tuple[Path, ...] = ()) -> int:
    try:
        from plucky_ledger.ui.app import run
    except ModuleNotFoundError as error:
        package = next((p for p in WINDOW_PACKAGES if (error.name or "").startswith(p)), None)
        if package is None:
            raise
        from plucky_ledger.core.values.trouble import Refused, TroubleCode

        raise Refused(TroubleCode.PACKAGE_MISSING, package=package, extra="window") from error
    except ImportError:
        from plucky_ledger.usecases.jobs.display import library_missing

        lacks = library_missing()
        if lacks is None:
            raise
        raise lacks from None
    return run(address, with_demo, recordings)


if __name__ == "__main__":
    main()
