"""The bus client against a real message bus, with a service on it that answers, waits and tells."""

import threading

import pytest
from jeepney import (
    DBus,
    DBusAddress,
    HeaderFields,
    MessageFlag,
    MessageType,
    new_error,
    new_method_return,
    new_signal,
)
from jeepney.io.blocking import open_dbus_connection

from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.linux.bus import Address, NoAnswer, opened
from tests.helpers.bus import private_bus

HARBOUR = Address("example.harbour", "/quay", "example.Harbour")


class Harbour:
    """Moors ships, on a thread of its own."""

    def __init__(self, address):
        self.flags = []
        self._connection = open_dbus_connection(bus=address)
        self._connection.send_and_get_reply(DBus().RequestName(HARBOUR.service))
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._serve, daemon=True)
        self._thread.start()

    def _serve(self):
        while not self._over.is_set():
            try:
                message = self._connection.receive(timeout=0.1)
            except TimeoutError:
                continue
            if message.header.message_type is MessageType.method_call:
                self.flags.append(message.header.flags)
                self._answer(message)

    def _answer(self, message):
        member = message.header.fields[HeaderFields.member]
        if member == "Moor":
            ship, places = message.body
            quay = DBusAddress(HARBOUR.path, HARBOUR.service, HARBOUR.interface)
            self._connection.send(new_signal(quay, "Moored", "s", (ship,)))
            self._connection.send(new_method_return(message, "sx", (ship, sum(places))))
        elif member == "Refuse":
            self._connection.send(new_error(message, "example.Harbour.Full", "s", ("no room",)))

    def close(self):
        self._over.set()
        self._thread.join(3)
        self._connection.close()


@pytest.fixture
def harbour():
    with private_bus() as address:
        service = Harbour(address)
        yield service, address
        service.close()


def test_arguments_go_with_their_types_and_the_answer_comes_back(harbour):
    _, address = harbour
    with opened(address) as bus:
        assert bus.call(HARBOUR, "Moor", "sax", ("Lantern", [2, 3])) == ("Lantern", 5)


@pytest.mark.parametrize("authorise", [False, True])
def test_only_who_says_so_may_be_asked_for_authorisation(harbour, authorise):
    service, address = harbour
    with opened(address) as bus:
        bus.call(HARBOUR, "Moor", "sax", ("Lantern", [1]), authorise=authorise)
    allowed = MessageFlag.allow_interactive_authorization
    assert bool(service.flags[-1] & allowed) is authorise


def test_a_refusal_carries_its_name_and_the_connection_goes_on(harbour):
    _, address = harbour
    with opened(address) as bus:
        with pytest.raises(NoAnswer) as refused:
            bus.call(HARBOUR, "Refuse")
        assert refused.value.reason.code is ReasonCode.ERROR_REPLY
        assert refused.value.reason.facts["name"] == "example.Harbour.Full"
        assert bus.call(HARBOUR, "Moor", "sax", ("Lantern", [])) == ("Lantern", 0)


def test_each_call_has_its_own_limit(harbour):
    """A late answer to one question is not taken for the answer to the next."""
    _, address = harbour
    with opened(address) as bus:
        with pytest.raises(NoAnswer) as late:
            bus.call(HARBOUR, "Never", seconds=0.2)
        assert late.value.reason.code is ReasonCode.TIME_UP
        assert late.value.reason.facts["seconds"] == 0.2
        assert bus.call(HARBOUR, "Moor", "sax", ("Lantern", [1])) == ("Lantern", 1)


def test_signals_that_were_listened_for_are_heard_in_order(harbour):
    _, address = harbour
    with opened(address) as bus:
        bus.listen(HARBOUR, "Moored")
        for ship in ("Lantern", "Gull"):
            bus.call(HARBOUR, "Moor", "sax", (ship, []))
        heard = [bus.heard(2.0), bus.heard(2.0)]
        assert [one.body for one in heard] == [("Lantern",), ("Gull",)]
        assert {(one.path, one.interface, one.member) for one in heard} == {
            (HARBOUR.path, HARBOUR.interface, "Moored")
        }
        assert bus.heard(0.05) is None


def test_no_bus_and_nobody_on_it_are_answers(tmp_path):
    with pytest.raises(NoAnswer) as none, opened(f"unix:path={tmp_path / 'none'}"):
        pass
    assert none.value.reason.code is ReasonCode.NO_BUS
    with private_bus() as address, opened(address) as bus:
        with pytest.raises(NoAnswer) as nobody:
            bus.call(HARBOUR, "Moor", "sax", ("Lantern", []))
        assert nobody.value.reason.code is ReasonCode.ERROR_REPLY
