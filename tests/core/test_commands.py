"""What a start command really runs, and how surely a program run is an entry's."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.entries.commands import CommandLine, likeness, unwrapped


@pytest.mark.parametrize(
    ("text", "program", "arguments"),
    [
        ("/opt/foghorn/notify --quiet", "/opt/foghorn/notify", ("--quiet",)),
        ("/opt/foghorn/notify %U", "/opt/foghorn/notify", ()),
        ('sh -c "sleep 5 && exec /opt/foghorn/notify -q"', "/opt/foghorn/notify", ("-q",)),
        ("/bin/bash -lc '/opt/till/run; /opt/till/desk'", "/opt/till/desk", ()),
        ("env -u HOME LANG=C /opt/foghorn/notify", "/opt/foghorn/notify", ()),
        ("LANG=C nice -n 10 ionice -c 3 /opt/backup/scan", "/opt/backup/scan", ()),
        ("/usr/bin/python3 -I /opt/tide/import --all", "/opt/tide/import", ("--all",)),
        ("python3 -m till.desk 2", "till.desk", ("2",)),
        ("/usr/lib/jvm/bin/java -Xmx1g -jar /opt/till/till.jar", "/opt/till/till.jar", ()),
        ("timeout 30s setsid nohup /opt/a", "/opt/a", ()),
        ("systemd-run --user --unit quay /opt/a -x", "/opt/a", ("-x",)),
        ("sudo --user warden /opt/a", "/opt/a", ()),
        ("/bin/sh -c sleep 1; exec /opt/a -q", "/opt/a", ("-q",)),
        ("snap run quay", "quay", ()),
        ("/usr/lib/electron25/electron --no-sandbox /opt/quay/app.asar", "/opt/quay/app.asar", ()),
        ("wine /opt/quay/desk.exe", "/opt/quay/desk.exe", ()),
        ("/bin/sh -c 'sleep 1; exec \"/opt/with space/run\" -q'", "/opt/with space/run", ("-q",)),
        ("flatpak run --branch=stable org.made.Up", "org.made.Up", ()),
        ('"/opt/with space/run" -x', "/opt/with space/run", ("-x",)),
        ('/opt/unclosed "quote', "/opt/unclosed", ('"quote',)),
        ("bash /opt/scripts/start.sh", "/opt/scripts/start.sh", ()),
        ("sh", "sh", ()),
        ("", "", ()),
    ],
)
def test_wrappers_are_looked_through(text, program, arguments):
    assert unwrapped(text) == CommandLine(program, arguments)


@given(st.text(max_size=300) | st.text(alphabet="sh -c'\";&|env= /", max_size=80))
def test_any_text_is_taken_without_a_fault(text):
    found = unwrapped(text)
    assert likeness(found, found) in {0, 4}


def test_the_more_alike_the_surer():
    entry = unwrapped("/opt/foghorn/notify --desk 2")
    degrees = [
        likeness(entry, unwrapped(run))
        for run in (
            "/opt/foghorn/notify --desk 2",
            "notify --desk 2",
            "/opt/foghorn/notify --desk 2 --tray",
            "/opt/foghorn/notify",
            "/opt/other/notify --desk 2",
        )
    ]
    assert degrees == [4, 3, 2, 1, 0]
