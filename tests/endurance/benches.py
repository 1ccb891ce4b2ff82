"""A ledger on a server: benches killed in the middle of steps, the server under them, and what is
between the two.
"""

import os
import signal
import socket
import threading
import time
from collections import Counter
from contextlib import closing, suppress
from itertools import count

from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.store.address import address_of
from plucky_ledger.store.errors import LedgerFault
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.job_files import look_into, take_in_file
from plucky_ledger.usecases.jobs.jobs import read_job, read_jobs, take_in
from plucky_ledger.usecases.jobs.meanwhile import Meanwhile
from plucky_ledger.usecases.recording.boots import add_typed
from tests.helpers.server import running_server

STARTS_WITHIN_SECONDS = 20
KILLS_A_JOB = 25


def figures(ledger, number):
    """Every boot's figure, and how often it is there."""
    boots = read_job(ledger, number).boots
    return Counter(boot.readings[Measure.SETTLED].value for boot in boots)


_bases = count(1000, 1000)
"""Each bench writes figures of its own."""


def bench_at_work(address, number, written):
    """A bench in a process of its own: it writes one figure after the other, and down in a file
    what was acknowledged; where the server is gone it goes on with the next.
    """
    figure = float(next(_bases))
    process = os.fork()
    if process:
        return process
    try:
        with open(written, "a", buffering=1) as told:
            ledger = None
            while True:
                figure += 1.0
                try:
                    ledger = ledger or Ledger(address)
                    add_typed(ledger, number, {Measure.SETTLED: figure})
                except LedgerFault:
                    time.sleep(0.05)
                else:
                    told.write(f"{figure}\n")
    finally:
        os._exit(1)


def killed_bench(process):
    os.kill(process, signal.SIGKILL)
    os.waitpid(process, 0)


def nothing_lost_or_twice(address, number, written):
    """Returns how many figures were acknowledged."""
    acknowledged = {float(line) for line in written.read_text().split("\n")[:-1]}
    with Ledger(address) as ledger:
        there = figures(ledger, number)
    assert acknowledged <= set(there), acknowledged - set(there)
    assert max(there.values(), default=1) == 1, there
    return len(acknowledged)


def kill_a_bench(folder, random, kills):
    """In the middle of steps; the next bench finds the job free."""
    written = folder / "written"
    with running_server() as server:
        address, steps = server.ledger(), 0
        for kill in range(kills):
            if kill % KILLS_A_JOB == 0:
                written.write_text("")
                with Ledger(address) as ledger:
                    number = take_in(ledger, Card("", "Harbour PC"), Facts())
            process = bench_at_work(address, number, written)
            time.sleep(random.uniform(0.2, 0.6))
            killed_bench(process)
            if kill % KILLS_A_JOB == KILLS_A_JOB - 1 or kill == kills - 1:
                steps += nothing_lost_or_twice(address, number, written)
        return f"{steps} steps acknowledged"


def kill_a_server(folder, random, kills):
    """Outright, while a bench writes; the bench goes on when it is back."""
    written = folder / "written"
    with running_server() as server:
        address = server.ledger()
        with Ledger(address) as ledger:
            number = take_in(ledger, Card("", "Harbour PC"), Facts())
        process = bench_at_work(address, number, written)
        try:
            for _ in range(kills):
                time.sleep(random.uniform(0.3, 0.8))
                server.kill()
                _started_again(server)
            goes_on(written)
        finally:
            killed_bench(process)
        return f"{nothing_lost_or_twice(address, number, written)} steps acknowledged"


def goes_on(written):
    """The bench acknowledges something more."""
    before, deadline = len(written.read_text()), time.monotonic() + STARTS_WITHIN_SECONDS
    while len(written.read_text()) == before:
        assert time.monotonic() < deadline, "the bench does not go on"
        time.sleep(0.1)


class Network:
    """What is between benches and a server: it delays, keeps everything to itself, or is cut."""

    def __init__(self, folder, server):
        self._to = f"{server.folder}/.s.PGSQL.{server.port}"
        folder.mkdir()
        self._socket = socket.socket(socket.AF_UNIX)
        self._socket.bind(f"{folder}/.s.PGSQL.{server.port}")
        self._socket.listen()
        self.delay_seconds = 0.0
        self.passes = threading.Event()
        self.passes.set()
        self._ends = []
        self._accepting = threading.Thread(target=self._accept, daemon=True)
        self._accepting.start()

    def _accept(self):
        with suppress(OSError):
            while True:
                near, _ = self._socket.accept()
                far = socket.socket(socket.AF_UNIX)
                self._ends += [near, far]
                far.connect(self._to)
                for one, other in ((near, far), (far, near)):
                    threading.Thread(target=self._pass_on, args=(one, other), daemon=True).start()

    def _pass_on(self, one, other):
        with suppress(OSError):
            while data := one.recv(65536):
                time.sleep(self.delay_seconds)
                self.passes.wait()
                other.sendall(data)
        for end in (one, other):
            with suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)

    def cut(self):
        """Every connection ends; what was on its way is lost."""
        ends, self._ends = self._ends, []
        for end in ends:
            with suppress(OSError):  # one of the two sides may be gone
                end.shutdown(socket.SHUT_RDWR)
            end.close()

    def close(self):
        self._socket.shutdown(socket.SHUT_RDWR)
        self._accepting.join()
        self._socket.close()
        self.passes.set()
        self.cut()


def disturb_the_network(folder, random, times):
    """It delays, passes nothing on for a while, and is cut, in the middle of steps."""
    written = folder / "written"
    with running_server() as server, closing(Network(folder / "network", server)) as network:
        address = server.ledger()
        through = address.text.replace(str(server.folder), f"{folder}/network")
        with Ledger(address) as ledger:
            number = take_in(ledger, Card("", "Harbour PC"), Facts())
        process = bench_at_work(address_of(through), number, written)
        try:
            for _ in range(times):
                network.delay_seconds = random.choice((0.0, 0.002, 0.02))
                time.sleep(random.uniform(0.2, 0.6))
                if random.random() < 0.5:
                    network.passes.clear()
                    time.sleep(random.uniform(0.1, 0.5))
                if random.random() < 0.8:
                    network.cut()
                network.passes.set()
            goes_on(written)
        finally:
            killed_bench(process)
        return f"{nothing_lost_or_twice(address, number, written)} steps acknowledged"


def kill_who_brings_home(folder, random, kills):
    """In the middle of taking on the server what was done while it was gone: steps in a job that
    was there, in most rounds a new one, in some another bench's work in between.
    """
    with running_server() as server:
        address, figure, cut_off = server.ledger(), count(1000), 0
        kept = Meanwhile(folder / "meanwhile.ledger")
        for kill in range(kills):
            with Ledger(address) as ledger:
                if kill % KILLS_A_JOB == 0:
                    card = Card("", f"Harbour PC {kill}")
                    number, expected = take_in(ledger, card, Facts()), []
                assert kept.keep(ledger, number)
            done = [float(next(figure)) for _ in range(random.randrange(1, 8))]
            with kept.open() as copy:
                for one in done:
                    add_typed(copy, number, {Measure.SETTLED: one})
                new = None
                if random.random() < 0.7:
                    new = f"PC {next(figure)}"
                    add_typed(
                        copy, take_in(copy, Card("", new), Facts()), {Measure.SETTLED: done[0]}
                    )
            if random.random() < 0.3:
                done.append(float(next(figure)))
                with Ledger(address) as ledger:
                    add_typed(ledger, number, {Measure.SETTLED: done[-1]})
            process = os.fork()
            if process == 0:
                try:
                    _bring_home(kept, address)
                finally:
                    os._exit(0)
            time.sleep(random.uniform(0.0, 1.2))
            killed_bench(process)
            cut_off += kept.path.exists()
            _bring_home(kept, address)
            expected += done
            with Ledger(address) as ledger:
                there = figures(ledger, number)
                assert there == Counter(expected), there - Counter(expected)
                titles = [job.card.title for job in read_jobs(ledger)]
            assert len(titles) == len(set(titles)), titles
            assert new is None or new in titles
        return f"{cut_off} of them before all was at home"


def _bring_home(kept, address):
    """As the window does."""
    with Ledger(address) as ledger:
        home = kept.bring_home(ledger)
        for file in home.files:
            incoming = look_into(ledger, file)
            assert incoming.conflicts == (), incoming.conflicts
            take_in_file(ledger, incoming)
        kept.forget()


def _started_again(server):
    """Its own processes may take a moment to notice that the first of them is gone."""
    deadline = time.monotonic() + STARTS_WITHIN_SECONDS
    while True:
        with suppress(AssertionError):
            server.start()
            return
        assert time.monotonic() < deadline, "the server does not start again"
        time.sleep(0.2)
