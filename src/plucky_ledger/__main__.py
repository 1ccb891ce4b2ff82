"""The installed command. Recording must start cheaply, so it is told apart before anything else."""

import sys
from pathlib import Path


def main() -> None:
    """Run ``plucky-ledger``: the recorder, another command, or the window."""
    if sys.argv[1:2] == ["record"]:
        from plucky_ledger.cli.record import main as record_main

        sys.exit(record_main(sys.argv[2:]))
    from plucky_ledger.cli.commands import main as cli_main

    cli_main(obj=_open_window)


def _open_window(path: Path, with_demo: bool) -> int:
    from plucky_ledger.ui.app import run

    return run(path, with_demo)


if __name__ == "__main__":
    main()
