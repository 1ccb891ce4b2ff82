"""A private message bus with a stand-in service manager on it, speaking the real interface."""

import gzip
import json
import subprocess
import threading
import time
from contextlib import contextmanager
from pathlib import Path

from jeepney import (
    DBus,
    HeaderFields,
    MessageType,
    new_error,
    new_method_return,
)
from jeepney.io.blocking import open_dbus_connection

FOLDER = Path(__file__).parent.parent / "data" / "real-boot"
MANAGER_PATH = "/org/freedesktop/systemd1"


def real_units(owner: str):
    """Units as a real manager described them: path and properties with their types."""
    with gzip.open(FOLDER / "units.json.gz", "rt") as file:
        return json.load(file)[owner]


def real_manager():
    return json.loads((FOLDER / "manager.json").read_text())


def _typed(type, data):  # noqa: A002
    """JSON has no structures; where the type says so, lists become tuples."""
    return [tuple(row) for row in data] if type.startswith("a(") else data


@contextmanager
def private_bus():
    """Address of a message bus of our own."""
    daemon = subprocess.Popen(
        ["dbus-daemon", "--session", "--nofork", "--print-address"],
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
    )
    try:
        yield daemon.stdout.readline().decode().strip()
    finally:
        daemon.terminate()
        daemon.wait()
        daemon.stdout.close()


class Answering:
    """A service on a bus that answers on a thread of its own until it is closed."""

    def __init__(self, address: str, name: str) -> None:
        self.asked = 0
        self._connection = open_dbus_connection(bus=address)
        self._connection.send_and_get_reply(DBus().RequestName(name))
        self._thread = threading.Thread(target=self._serve, daemon=True)
        self._ended = False
        self._thread.start()

    def _serve(self) -> None:
        while not self._ended:
            try:
                message = self._connection.receive(timeout=0.2)
            except TimeoutError:
                continue
            if message.header.message_type is MessageType.method_call:
                self.asked += 1
                self._take(message)

    def _take(self, message) -> None:
        self._connection.send(self._answer(message))

    def _answer(self, message):
        raise NotImplementedError

    def close(self) -> None:
        self._ended = True
        self._thread.join(timeout=3)
        self._connection.close()


class SignInManager(Answering):
    """Restarts nothing, and says so or not. Somebody else is signed in, and something goes on."""

    def __init__(self, address: str, allows: bool) -> None:
        self._allows, self.restarts = allows, []
        super().__init__(address, "org.freedesktop.login1")

    def _answer(self, message):
        member = message.header.fields[HeaderFields.member]
        if member == "ListSessions":
            rows = [("1", 1501, "warden", "seat0", "/1"), ("2", 104, "greeter", "", "/2")]
            return new_method_return(message, "a(susso)", (rows,))
        if member == "ListInhibitors":
            rows = [
                ("shutdown:sleep", "Saltmarsh Backup", "copies the disk", "block", 0, 1),
                ("sleep", "Mixer", "plays", "block", 0, 2),
                ("shutdown", "Bus", "wants to finish", "delay", 0, 3),
            ]
            return new_method_return(message, "a(ssssuu)", (rows,))
        if not self._allows:
            name = "org.freedesktop.DBus.Error.InteractiveAuthorizationRequired"
            return new_error(message, name)
        self.restarts.append((member, message.body))
        return new_method_return(message)


class ServiceManager(Answering):
    """Answers what the service manager is asked: each after ``delay`` seconds, so many at most."""

    def __init__(self, address: str, units, manager, answers=10**9, delay=0.0) -> None:
        self._units = {unit["path"]: unit["properties"] for unit in units}
        self._manager = manager
        self._answers, self._delay = answers, delay
        super().__init__(address, "org.freedesktop.systemd1")

    def _take(self, message) -> None:
        if self.asked <= self._answers:
            time.sleep(self._delay)
            super()._take(message)

    def _answer(self, message):
        path = message.header.fields[HeaderFields.path]
        member = message.header.fields[HeaderFields.member]
        if member == "ListUnits":
            rows = [
                (p["Id"]["data"], "", "loaded", "active", "", "", path, 0, "", "/")
                for path, p in self._units.items()
            ]
            return new_method_return(message, "a(ssssssouso)", (rows,))
        if member == "ListUnitFiles":
            files = [
                ("/lib/systemd/system/old-modem.service", "disabled"),
                ("/etc/systemd/system/harborledger-import.service", "enabled"),
                ("/etc/systemd/system/pier-report.service", "masked"),
                ("/lib/systemd/system/getty@.service", "disabled"),
            ]
            return new_method_return(message, "a(ss)", (files,))
        if member == "Get":
            finish = self._manager["FinishTimestampMonotonic"]
            return new_method_return(message, "v", ((finish["type"], finish["data"]),))
        interface = message.body[0]
        if path == MANAGER_PATH:
            return self._properties(message, self._manager)
        if path not in self._units:
            return new_error(message, "org.freedesktop.DBus.Error.UnknownObject")
        wanted = self._units[path] if interface.endswith(".Unit") else {}
        return self._properties(message, wanted)

    @staticmethod
    def _properties(message, properties):
        body = {name: (value["type"], _typed(**value)) for name, value in properties.items()}
        return new_method_return(message, "a{sv}", (body,))


class SignedIn(Answering):
    """A sign-in manager with sessions: id, user, name, class, seat, when in seconds."""

    def __init__(self, address: str, sessions, graphical: bool = True) -> None:
        self._sessions, self._graphical = sessions, graphical
        super().__init__(address, "org.freedesktop.login1")

    def _answer(self, message):
        member = message.header.fields[HeaderFields.member]
        if member == "ListSessions":
            rows = [
                (s["id"], s["user"], s["name"], s["seat"], f"/{s['id']}") for s in self._sessions
            ]
            return new_method_return(message, "a(susso)", (rows,))
        if member == "ListSeats":
            return new_method_return(message, "a(so)", ([("seat0", "/seat0")],))
        path = message.header.fields[HeaderFields.path]
        if path == "/seat0":
            return new_method_return(message, "a{sv}", ({"CanGraphical": ("b", self._graphical)},))
        (found,) = [s for s in self._sessions if path == f"/{s['id']}"]
        properties = {
            "Class": ("s", found["class"]),
            "Name": ("s", found["name"]),
            "Seat": ("(so)", (found["seat"], "/")),
            "TimestampMonotonic": ("t", int(found["at"] * 1e6)),
        }
        return new_method_return(message, "a{sv}", (properties,))
