"""Whose PC it is, where other accounts have older buses and sign-in programs of their own."""

import json
import time

import pytest

from tests.real_pc.entries import STARTING
from tests.real_pc.use import switched_on

pytestmark = pytest.mark.usefixtures("at_ease")
RECORDING = "/root/people.jsonl"
THEIR_OWN = "/home/bench/people.jsonl"
OTHERS = {"warden": 1001, "signscreen": 120}
THEIRS = "theirs.desktop"
PROGRAM = "[Desktop Entry]\nType=Application\nName=Theirs\nExec=/bin/sleep 600\n"
BUS_WITHIN_SECONDS = 30.0


@pytest.fixture
def with_others(real_pc):
    """Another person and a sign-in screen's account, both with managers that linger."""
    switched_on(real_pc)
    for name, number in OTHERS.items():
        system = ["--system"] if number < 1000 else []
        real_pc.run("useradd", *system, "-m", "-u", str(number), name)
        folder = f"/home/{name}/.config/autostart"
        real_pc.run("mkdir", "-p", folder)
        real_pc.path(f"{folder}/{THEIRS}").write_text(PROGRAM)
        real_pc.run("chown", "-R", f"{name}:{name}", f"/home/{name}")
        real_pc.run("loginctl", "enable-linger", name)
        bus, deadline = f"/run/user/{number}/bus", time.monotonic() + BUS_WITHIN_SECONDS
        while real_pc.tried("test", "-S", bus).returncode and time.monotonic() < deadline:
            time.sleep(0.5)
        real_pc.run("touch", "--date=2020-01-01", bus)
    yield real_pc
    for name in OTHERS:
        real_pc.run("loginctl", "disable-linger", name)
        real_pc.tried("loginctl", "terminate-user", name)
        real_pc.run("userdel", "--force", "--remove", name)


def test_the_list_is_of_the_person_who_signed_in(with_others):
    with_others.run("plucky-ledger", "record", "--for", "12", "--out", RECORDING)
    text = with_others.path(RECORDING).read_text()
    lines = [json.loads(line) for line in text.splitlines()]
    entries = {line["entry"] for line in lines if line["kind"] == "entry"}
    # A service that has ended may be forgotten by now; what the person's session has is there.
    assert entries >= {name for name in STARTING if name.endswith(".desktop")}
    assert THEIRS not in entries
    assert f"person:warden:{THEIRS}" in entries
    assert not [name for name in entries if "signscreen" in name]
    (theirs,) = [line for line in lines if line.get("entry", "").endswith(f"warden:{THEIRS}")]
    assert (theirs["name"], theirs["owner"]) == ("Theirs (warden)", "user")
    (user,) = {line["user"] for line in lines if line["kind"] == "context" and line.get("user")}
    assert user == "bench"
    notes = [line["said"] for line in lines if line["kind"] == "note" and line.get("said")]
    assert not [said for said in notes if said["code"] == "other_people"]
    with_others.run("plucky-ledger", "record", "--for", "12", "--out", THEIR_OWN, user=True)
    text = with_others.path(THEIR_OWN).read_text()
    lines = [json.loads(line) for line in text.splitlines()]
    notes = [line["said"] for line in lines if line["kind"] == "note" and line.get("said")]
    (others,) = [said for said in notes if said["code"] == "other_people"]
    assert others["facts"] == {"people": 1}
    assert not [line for line in lines if line.get("entry", "").startswith("person:")]


SWITCHES = """
import json, sys
from plucky_ledger.control.control_of_this_pc import ControlOfThisPc
from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import EntryRequest

control, entry = ControlOfThisPc(), sys.argv[2]
if sys.argv[1] == "off":
    wish = EntryRequest(entry, "Theirs", EntryState.OFF)
    (done,) = control.switch(SwitchRequest("posting", "0001", "x", (wish,)))
    print(json.dumps([control.look([entry])[entry].state, done.before, done.after]))
else:
    print(json.dumps([one.entry_id for one in control.put_back(RevertSelection(("posting",)))]))
"""


def test_what_starts_with_another_person_is_switched_as_them(with_others):
    """By somebody who may become administrator; the note of it is in the system's journal."""
    theirs = with_others.path(f"/home/warden/.config/autostart/{THEIRS}")
    entry = f"person:warden:{THEIRS}"
    python = ("/opt/plucky/bin/python", "-c", SWITCHES)
    told = json.loads(with_others.run(*python, "off", entry, user=True))
    assert told == [None, "on", "off"]
    assert "Hidden=true" in theirs.read_text()
    below = [theirs.parents[2], *theirs.parents[2].rglob("*")]
    assert {path.lstat().st_uid for path in below} == {OTHERS["warden"]}
    assert json.loads(with_others.run(*python, "back", entry, user=True)) == [entry]
    assert theirs.read_text() == PROGRAM
    for nobody in ("root", "signscreen", "bench2"):
        refused = with_others.tried(*python, "off", f"person:{nobody}:{THEIRS}", user=True)
        assert refused.returncode == 1, nobody
