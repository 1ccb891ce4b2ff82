"""A screen reader's view of the program: a desktop of its own, and what stands on its bus.

The program runs on an X server that nobody sees, with a session's bus and the accessibility bus of
the desktop: what is read here is what is read out to somebody, and nothing else is known.
"""

import os
import shutil
import subprocess
import sys
import time
from collections import deque
from collections.abc import Iterator
from contextlib import ExitStack, suppress
from dataclasses import dataclass
from pathlib import Path

from jeepney import DBusAddress, MatchRule, MessageType, Properties, message_bus, new_method_call
from jeepney.io.blocking import DBusConnection, Proxy, open_dbus_connection

LAUNCHER = next(
    (
        path
        for path in map(
            Path,
            ("/usr/libexec/at-spi-bus-launcher", "/usr/lib/at-spi2-core/at-spi-bus-launcher"),
        )
        if path.exists()
    ),
    None,
)
LACKS = (
    "Xvfb, dbus-daemon or the accessibility bus is not installed (Debian: xvfb, dbus, at-spi2-core)"
)
CAN_BE_READ = LAUNCHER is not None and all(map(shutil.which, ("Xvfb", "dbus-daemon")))
AT_LEAST_WITHIN_SECONDS = 180.0
STATES = {"enabled": 8, "expandable": 9, "expanded": 10, "focusable": 11, "focused": 12}
STATES |= {"selected": 23, "showing": 25, "checked": 4}
"""Bits of a state, as the accessibility bus counts them."""
KEY_BY_SYMBOL = 3
KEYS = {"Return": 0xFF0D, "Tab": 0xFF09, "Escape": 0xFF1B, "Down": 0xFF54, "space": 0x20}


class NotThere(AssertionError):
    """What was looked for is not read out anywhere."""


@dataclass(frozen=True)
class Thing:
    """One thing on the accessibility bus."""

    bus: DBusConnection
    program: str
    path: str

    def _ask(self, interface: str, method: str, signature: str | None = None, *body):
        address = DBusAddress(self.path, self.program, f"org.a11y.atspi.{interface}")
        message = new_method_call(address, method, signature, body)
        reply = self.bus.send_and_get_reply(message, timeout=AT_LEAST_WITHIN_SECONDS)
        if reply.header.message_type is not MessageType.method_return:
            raise NotThere(f"{interface}.{method}: {reply.body}")
        return reply.body[0] if reply.body else None

    def _property(self, name: str):
        address = DBusAddress(self.path, self.program, "org.a11y.atspi.Accessible")
        reply = self.bus.send_and_get_reply(Properties(address).get(name))
        return reply.body[0][1] if reply.header.message_type is MessageType.method_return else ""

    @property
    def name(self) -> str:
        return self._property("Name")

    @property
    def description(self) -> str:
        return self._property("Description")

    @property
    def role(self) -> str:
        return self._ask("Accessible", "GetRoleName")

    @property
    def parent(self) -> "Thing":
        program, path = self._property("Parent")
        return Thing(self.bus, program, path)

    @property
    def children(self) -> list["Thing"]:
        found = self._ask("Accessible", "GetChildren")
        return [Thing(self.bus, program, path) for program, path in found]

    def has(self, state: str) -> bool:
        low, high = self._ask("Accessible", "GetState")
        return bool((low | high << 32) >> STATES[state] & 1)

    @property
    def sides(self) -> set[str]:
        """Its interfaces, by their last words."""
        return {name.rpartition(".")[2] for name in self._ask("Accessible", "GetInterfaces")}

    @property
    def text(self) -> str:
        """What is written in it."""
        return self._ask("Text", "GetText", "ii", 0, -1)

    def all(self) -> Iterator["Thing"]:
        """It and what is in it, as far as that is shown; what vanishes meanwhile is left out."""
        waiting = deque([self])
        while waiting:
            thing = waiting.popleft()
            with suppress(NotThere):
                if thing.has("showing"):
                    waiting.extend(thing.children)
                    yield thing

    def find(self, role: str, begins: str = "") -> "Thing":
        """The first of a role whose name begins so."""
        for thing in self.all():
            with suppress(NotThere):
                if thing.role == role and thing.name.startswith(begins):
                    return thing
        raise NotThere(f"no {role} “{begins}”")

    def press(self) -> None:
        """Do the first thing that can be done with it."""
        self._ask("Action", "DoAction", "i", 0)

    def focus(self) -> None:
        self._ask("Component", "GrabFocus")

    def choose(self, begins: str) -> None:
        """Choose the part whose name begins so."""
        names = [child.name for child in self.children]
        at = next((at for at, name in enumerate(names) if name.startswith(begins)), None)
        if at is None:
            raise NotThere(f"no “{begins}” in {names}")
        self._ask("Selection", "ClearSelection")
        assert self._ask("Selection", "SelectChild", "i", at)

    @property
    def chosen(self) -> list[str]:
        """Names of its chosen parts."""
        count = range(len(self.children))
        return [
            self.children[at].name
            for at in count
            if self._ask("Selection", "IsChildSelected", "i", at)
        ]

    def write(self, text: str) -> None:
        """Write in it, in place of what stands there."""
        self._ask("EditableText", "SetTextContents", "s", text)


class Desktop:
    """A desktop nobody sees, on which the program runs and is read out."""

    def __init__(self, home: Path) -> None:
        self._ended = ExitStack()
        server = self._start("Xvfb", "-displayfd", "1", "-screen", "0", "1280x900x24")
        self._environment = {
            **os.environ,
            "DISPLAY": f":{server.stdout.readline().decode().strip()}",
            "QT_QPA_PLATFORM": "xcb",
            "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1",
            "HOME": str(home),
            "XDG_CONFIG_HOME": str(home / "config"),
            "XDG_STATE_HOME": str(home / "state"),
        }
        session = self._start("dbus-daemon", "--session", "--print-address", "--nofork")
        address = session.stdout.readline().decode().strip()
        self._environment["DBUS_SESSION_BUS_ADDRESS"] = address
        self._start(str(LAUNCHER), "--launch-immediately")
        self.bus = self._connected(self._accessibility_bus(address))

    def _start(self, *command: str) -> subprocess.Popen:
        environment = getattr(self, "_environment", None)
        process = subprocess.Popen(
            command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, env=environment
        )
        self._ended.callback(self._end, process)
        return process

    @staticmethod
    def _end(process: subprocess.Popen) -> None:
        process.terminate()
        process.wait(timeout=20)
        process.stdout.close()

    def _connected(self, address: str) -> DBusConnection:
        connection = open_dbus_connection(address)
        self._ended.callback(connection.close)
        return connection

    def _accessibility_bus(self, address: str) -> str:
        session = self._connected(address)
        bus = DBusAddress("/org/a11y/bus", "org.a11y.Bus", "org.a11y.Bus")
        while True:
            reply = session.send_and_get_reply(new_method_call(bus, "GetAddress"))
            if reply.header.message_type is MessageType.method_return and reply.body[0]:
                return reply.body[0]
            time.sleep(0.1)

    def open(self, *arguments: object) -> Thing:
        """Start the program; returns it once it can be read."""
        self._listen()
        command = (sys.executable, "-m", "plucky_ledger", *map(str, arguments))
        self.program = self._start(*command)
        return self.wait(lambda: next(iter(self._programs().children), None))

    def _programs(self) -> Thing:
        return Thing(self.bus, "org.a11y.atspi.Registry", "/org/a11y/atspi/accessible/root")

    def _listen(self) -> None:
        """Hear what is announced from now on."""
        registry = DBusAddress(
            "/org/a11y/atspi/registry", "org.a11y.atspi.Registry", "org.a11y.atspi.Registry"
        )
        for event in ("object:announcement", "focus:", "object:state-changed:focused"):
            call = new_method_call(registry, "RegisterEvent", "sass", (event, [], ""))
            self.bus.send_and_get_reply(call)
        rule = MatchRule(
            type="signal", interface="org.a11y.atspi.Event.Object", member="Announcement"
        )
        Proxy(message_bus, self.bus).AddMatch(rule)
        self._heard = self._ended.enter_context(self.bus.filter(rule, bufsize=1_000))

    def heard(self) -> list[str]:
        """What has been announced since this was asked last."""
        said = []
        self.bus.send_and_get_reply(message_bus.GetId())  # takes in what has arrived
        while self._heard:
            said.append(self._heard.popleft().body[3][1])
        return said

    def wait(self, until):
        """Wait until something is there; returns it."""
        deadline = time.monotonic() + AT_LEAST_WITHIN_SECONDS
        while True:
            try:
                found = until()
            except NotThere:
                found = None
            if found:
                return found
            if time.monotonic() > deadline:
                raise NotThere(f"waited for it in vain; there was: {self._all_names()}")
            time.sleep(0.5)  # each look asks for hundreds of things

    def _all_names(self) -> list[str]:
        everything = (thing for one in self._programs().children for thing in one.all())
        return [thing.name for thing in everything if thing.name]

    def key(self, name: str) -> None:
        """Press a key."""
        keyboard = DBusAddress(
            "/org/a11y/atspi/registry/deviceeventcontroller",
            "org.a11y.atspi.Registry",
            "org.a11y.atspi.DeviceEventController",
        )
        symbol = KEYS.get(name) or ord(name)
        body = (symbol, "", KEY_BY_SYMBOL)
        call = new_method_call(keyboard, "GenerateKeyboardEvent", "isu", body)
        self.bus.send_and_get_reply(call)

    def close(self) -> None:
        """End all of it."""
        self._ended.close()
