"""The installed command. Recording must start cheaply, so it is told apart before anything else."""

import sys


def main() -> None:
    """Run ``plucky-ledger``: the recorder, another command, or the window."""
    if sys.argv[1:2] == ["record"]:
        from plucky_ledger.capture.record_command import main as record_main

        sys.exit(record_main(sys.argv[2:]))
    from plucky_ledger.cli import main as cli_main

    cli_main()


if __name__ == "__main__":
    main()
