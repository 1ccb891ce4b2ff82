"""Lines that say @reboot: found in every table that is read, named, charged, switched by hand."""

import pytest

from plucky_ledger.capture.services import boot_lines as reader
from plucky_ledger.control import by_hand
from plucky_ledger.core.boots.attribution import Owner, OwnerKind, owners_of
from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.kinds import Switcher, is_users_own, switched_by
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.inventory import inventory_of
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.exchange.entries import _entry
from plucky_ledger.linux import boot_lines
from plucky_ledger.wording.switching import set_in_words
from tests.helpers.runs import run

SYSTEMS = """\
# @reboot root /opt/commented
MAILTO=root
@reboot root /opt/tide/import --all
  @Reboot\twarden sh -c "sleep 20; exec /opt/quay/desk" % its input
@daily root /opt/daily
@reboot nobody
@reboot root /opt/tide/import --all
"""
USERS = "@reboot /opt/till/agent 100\\% sure\n*/5 * * * * /opt/often\n"


@pytest.fixture
def pc(tmp_path, monkeypatch):
    for path, text in (
        ("etc/crontab", SYSTEMS),
        ("etc/cron.d/quay", "@reboot root /opt/quay/scan\n"),
        ("etc/cron.d/quay.dpkg-old", "@reboot root /opt/not/read\n"),
        ("var/spool/cron/crontabs/warden", USERS),
    ):
        (tmp_path / path).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / path).write_bytes(text.encode() + b"\xff\n")
    monkeypatch.setattr(boot_lines, "is_administrator", lambda: True)
    return tmp_path


def test_every_table_that_the_daemon_reads_is_read_as_it_does(pc):
    found = boot_lines.boot_lines(pc)
    assert [(line.user, line.command) for line in found] == [
        ("root", "/opt/tide/import --all"),
        ("warden", 'sh -c "sleep 20; exec /opt/quay/desk"'),
        ("root", "/opt/quay/scan"),
        ("warden", "/opt/till/agent 100% sure"),
    ]
    assert len({line.entry_id for line in found}) == 4
    assert all("/" not in line.entry_id for line in found)


def test_who_is_no_administrator_reads_their_own_by_the_daemons_program(pc, monkeypatch):
    program = pc / "bin" / "crontab"
    program.parent.mkdir()
    program.write_text('#!/bin/sh\n[ "$1" = -l ] && echo "@reboot /opt/own"\n')
    program.chmod(0o755)
    monkeypatch.setattr(boot_lines, "is_administrator", lambda: False)
    monkeypatch.setenv("PATH", str(program.parent), prepend=":")
    *_, own = boot_lines.boot_lines(pc)
    assert (own.command, own.file) == ("/opt/own", "")
    program.unlink()
    assert len(boot_lines.boot_lines(pc)) == 3


def test_its_programs_are_charged_to_it_and_not_to_what_started_them(pc, monkeypatch):
    monkeypatch.setattr(reader, "boot_lines", lambda: boot_lines.boot_lines(pc))
    entries = tuple(map(_entry, reader.boot_line_entries()))
    assert {entry.kind for entry in entries} == {EntryKind.BOOT_LINE}
    assert [entry.name for entry in entries] == ["import", "desk", "scan", "agent"]
    # Who reads a table only as administrator would have its lines come and go in the book.
    assert not inventory_of(entries, Facts()).entries
    assert [entry.owner for entry in entries] == ["system", "system", "system", "user"]
    group = "/system.slice/cron.service"
    runs = tuple(
        run(number, number, parent, name, command, group)
        for number, name, command, parent in (
            (10, "cron", "/usr/sbin/cron -f", 1),
            (11, "sh", "/bin/sh -c '/opt/tide/import --all'", 10),
            (12, "import", "/opt/tide/import --all", 11),
            (13, "tar", "tar x", 12),
            (14, "sh", "/bin/sh -c /opt/often", 10),
            (15, "import", "/opt/tide/import --one", 1),
        )
    )
    owners = owners_of(runs, entries)
    charged = Owner(OwnerKind.ENTRY, entries[0].entry_id)
    assert {number for number, owner in owners.items() if owner == charged} == {11, 12, 13}


def test_the_exact_step_is_told(pc, monkeypatch):
    monkeypatch.setattr(by_hand, "boot_lines", lambda: boot_lines.boot_lines(pc))
    first = boot_lines.boot_lines(pc)[0]
    assert switched_by(first.entry_id) is Switcher.BY_HAND
    assert not is_users_own(first.entry_id)
    looked = by_hand.looked_up_by_hand([first.entry_id, "table:crontab:gone"])
    found = looked[first.entry_id]
    assert (found.state, found.possible) == (EntryState.ON, ())
    (step,) = set_in_words(found)
    assert step.startswith(f"to switch it off, put a # before this line in {pc}/etc/crontab: @reb")
    assert looked["table:crontab:gone"].state is None  # it may only not be for us to read
    *_, users = boot_lines.boot_lines(pc)
    told = set_in_words(by_hand.looked_up_by_hand([users.entry_id])[users.entry_id])
    assert "run “crontab -e” as warden and put a #" in told[0]
