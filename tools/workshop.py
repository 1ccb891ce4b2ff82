"""A workshop's ledger to look at: a server of its own in build/workshop, with the demo in it.

The window opens on it; when that is closed the server ends, and what was written stays.
"""

import subprocess
import sys
from pathlib import Path

from tests.helpers.server import Server

from plucky_ledger.store.server_setup import set_up
from plucky_ledger.usecases.jobs.demo import write_demo_on_server

FOLDER = Path(__file__).parent.parent / "build" / "workshop"
DATABASE = "workshop"


def main() -> int:
    """Start it, make the ledger the first time, and open the window."""
    new = not FOLDER.exists()
    server = Server(FOLDER, fsync="on")
    try:
        address = server.named(DATABASE)
        if new:
            with server.connected() as connection:
                connection.execute(f"CREATE DATABASE {DATABASE}")
            set_up(address, "workshop")
            write_demo_on_server(address, lambda _done, _whole: True)
        sys.stdout.write(f"plucky-ledger --ledger '{address.text}'\n")
        command = [sys.executable, "-m", "plucky_ledger", "--ledger", address.text]
        return subprocess.run(command, check=False).returncode
    finally:
        server.stop()


if __name__ == "__main__":
    sys.exit(main())
