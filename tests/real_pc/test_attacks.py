"""What a user's process could turn against the administrator, on a real PC with real sudo."""

import json
import stat

import pytest

from plucky_ledger.exchange.boots import boot_from_bytes
from tests.helpers.answers import answered
from tests.real_pc.test_control import everything, scripted
from tests.real_pc.use import ledger_command, recordings, switched_on

pytestmark = pytest.mark.usefixtures("at_ease")
STATE = "/home/bench/.local/state/plucky-ledger"
JOURNAL = "/var/lib/plucky-ledger/changes"
OFF_AND_TELL = """
tell(switch("umask", {"harbour-import.service": "off", "user:ticketdesk-cache.service": "off"}))
"""


@pytest.fixture(scope="module")
def pc(real_pc):
    switched_on(real_pc)
    return real_pc


def made_up(path, text, mode):
    """A change that was never made: putting it back would write this."""
    content = {"type": "file", "text": text, "mode": mode, "encoded": False}
    write = {"path": path, "before": content, "after": {"type": "nothing"}}
    entry = {
        "entry": "bell.desktop",
        "name": "Bell",
        "before": "on",
        "after": "off",
        "writes": [write],
        "stage": "done",
        "by_others": "",
    }
    return json.dumps(
        {
            "key": "made up",
            "at": "2026-11-29T09:00:00+00:00",
            "by": "bench",
            "job": "0001",
            "entries": [entry],
        }
    )


def as_bench(pc, path, text):
    pc.run(
        "sh", "-c", f"mkdir -p $(dirname {path}) && cat > {path} <<'END'\n{text}\nEND", user=True
    )


@pytest.mark.parametrize("how", ["sudo -E", "sudo -E env HOME=/home/bench", "root"])
def test_a_made_up_journal_of_a_users_writes_nothing_as_root(pc, how):
    """Neither a setuid program, nor a unit of the system, nor anything else."""
    for number, (path, text, mode) in enumerate(
        (
            ("/usr/local/bin/shell", "#!/bin/sh\n", 0o4755),
            ("/etc/systemd/system/mine.service", "[Service]\nExecStart=/bin/true\n", 0o644),
            ("/home/bench/.profile-of-mine", "echo", 0o644),
        ),
        1,
    ):
        as_bench(pc, f"{STATE}/changes/00000{number}-x.json", made_up(path, text, mode))
    before = everything(pc)
    command = f"XDG_STATE_HOME=/home/bench/.local/state {how} plucky-ledger put-back --everything"
    if how == "root":
        done = pc.tried(
            "env",
            "HOME=/home/bench",
            f"XDG_STATE_HOME={STATE.rpartition('/')[0]}",
            "plucky-ledger",
            "put-back",
            "--everything",
        )
    else:
        done = pc.tried("sh", "-c", command, user=True)
    assert done.returncode == 0, done
    assert done.stderr.count("writes where no startup entry lies") == 3
    for path in (
        "/usr/local/bin/shell",
        "/etc/systemd/system/mine.service",
        "/home/bench/.profile-of-mine",
    ):
        assert not pc.path(path).exists()
    assert everything(pc) == before
    pc.run("sh", "-c", f"rm -r {STATE}/changes", user=True)


def test_no_ledger_is_begun_as_administrator_where_a_users_link_leads(pc):
    pc.run("ln", "-sf", "/etc/cron.d/mine", "/home/bench/mine.ledger", user=True)
    done = pc.tried(
        "sudo",
        "-E",
        "plucky-ledger",
        "take-in",
        "PC",
        "--new",
        "--ledger",
        "/home/bench/mine.ledger",
        user=True,
    )
    assert done.returncode == 1
    assert "belongs to bench" in done.stderr
    assert not pc.path("/etc/cron.d/mine").exists()
    pc.run("rm", "/home/bench/mine.ledger", user=True)


def test_what_is_switched_under_any_umask_is_seen_by_its_user_and_put_back(pc):
    """As where sudo hands a umask of 077 on."""
    before = everything(pc)
    pc.path("/etc/sudoers.d/umask").write_text("Defaults umask=0077, !umask_override\n")
    assert scripted(pc, OFF_AND_TELL) == {
        "harbour-import.service": "off",
        "user:ticketdesk-cache.service": "off",
    }
    assert stat.S_IMODE(pc.path(JOURNAL).stat().st_mode) == 0o755
    changed = answered(ledger_command(pc, "changes", "--json"))
    assert {entry for change in changes_of(changed) for entry in change} == {
        "harbour-import.service",
        "user:ticketdesk-cache.service",
    }
    told = pc.run("sudo", "-E", "plucky-ledger", "put-back", "--everything", user=True)
    assert "harbour-import" in told
    pc.path("/etc/sudoers.d/umask").unlink()
    assert everything(pc) == before
    assert pc.path(f"{STATE}/changes").stat().st_uid == 1000


def changes_of(told):
    return [change["entries"] for change in told]


def test_a_damaged_journal_keeps_nothing_from_being_put_back(pc):
    before = everything(pc)
    scripted(pc, OFF_AND_TELL)
    for folder, owner in ((JOURNAL, 0), (f"{STATE}/changes", 1000)):
        for name, data in (("000900-a.json", b"\xff\xfe"), ("000901-b.json", b"[" * 90_000)):
            path = pc.path(f"{folder}/{name}")
            path.write_bytes(data)
            pc.run("chown", f"{owner}:{owner}", f"{folder}/{name}")
    done = pc.tried("plucky-ledger", "put-back", "--everything", user=True)
    assert done.returncode == 0, done
    assert everything(pc) == before
    for folder in (JOURNAL, f"{STATE}/changes"):
        assert len(list(pc.path(folder).glob("*.unreadable"))) == 2


def test_disarming_ends_the_recorder_of_this_boot(pc):
    """And what is armed then is not used up by it."""
    job = ledger_command(pc, "take-in", "--this-pc", "--new", "Disarmed PC").strip()
    ledger_command(pc, "arm", job, "--boots", "2")
    pc.tried("systemctl", "reboot")
    pc.wait_until_off()
    switched_on(pc)
    service = "plucky-ledger-recorder.service"
    assert pc.tried("systemctl", "is-active", service).stdout.strip() == "active"
    assert ledger_command(pc, "disarm", "--all")
    assert pc.tried("pgrep", "-f", "plucky-ledger/recorder").stdout == ""
    ledger_command(pc, "arm", job, "--boots", "1")
    pc.tried("systemctl", "reboot")
    pc.wait_until_off()
    switched_on(pc)
    assert pc.tried("systemctl", "is-active", service).stdout.strip() == "active"
    ledger_command(pc, "disarm", "--all")
    kept = [boot_from_bytes(path.read_bytes()).boot for path in recordings(pc)]
    assert len(kept) == 2
    assert not any(boot.cut_short for boot in kept)
    ledger_command(pc, "pick-up", job)
    assert not recordings(pc)  # the tests after this one wait for theirs
