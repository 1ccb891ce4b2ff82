"""What we write into desktop entries means to the real generator what we say it means."""

import shutil
import subprocess
import tempfile
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plucky_ledger.control.desktop_entries import SignInPrograms
from plucky_ledger.control.writes import carry_out
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.values.trouble import Refused
from plucky_ledger.linux.desktop_entries import read_desktop_entry
from tests.helpers.generator import LACKS, generator

GENERATOR = generator()
NAME = "horn.desktop"
pytestmark = pytest.mark.skipif(not GENERATOR, reason=LACKS)

odd_ends = st.sampled_from(
    [
        "\n",
        "\n",
        "\n",
        "\r\n",
        "\r",
        "\n\r",
        "\\\n",
        "\\\\\n",
        "\\\r\n",
        "\x0b",
        "\x0c",
        "\x1c",
        "\x85",
        "\u2028",
        "\u2029",
        " \n",
        "\n\n",
    ]
)
lines_of_hidden = ("Hidden=true", "Hidden=false", "Hidden = true")
odd_lines = st.sampled_from(
    [
        "Hidden=true",
        "Hidden=false",
        "Hidden = true",
        "\x0bHidden=true",
        "Hidden\u2028=true",
        "Comment=cries",
        "# Hidden=true",
        "[Desktop Action a]",
        "[Desktop Entry]",
        "Exec=/bin/false",
        "Exec=/bin/echo",
        "Name",
        "NotShowIn=SeaDesk;",
        "X=\\",
        "\u00a0",
        "",
    ]
)
texts = st.builds(
    lambda begun, lines: begun + "".join(line + end for line, end in lines),
    st.sampled_from(["", "# vendor\n", "\ufeff", "\n\n"]).map(
        lambda first: f"{first}[Desktop Entry]\nType=Application\nExec=/bin/true %U\n"
    ),
    st.lists(
        st.tuples(odd_lines, odd_ends).filter(
            lambda line: line[0] not in lines_of_hidden or line[1] in "\r\n \n\n"
        ),
        max_size=6,
    ),
)


def generated(home):
    """The unit that the real generator makes; empty where it makes none."""
    made = home / "made"
    shutil.rmtree(made, ignore_errors=True)
    made.mkdir()
    subprocess.run(
        [*GENERATOR, *[str(made)] * 3],
        check=False,
        capture_output=True,
        env={"XDG_CONFIG_HOME": str(home), "XDG_CONFIG_DIRS": str(home / "none"), "HOME": "/"},
    )
    units = list(made.rglob("app-horn@autostart.service"))
    return units[0].read_text(errors="replace") if units else ""


@pytest.mark.parametrize("wanted", [EntryState.OFF, EntryState.LATER, EntryState.ON])
@given(text=texts)
@settings(max_examples=60)
def test_an_entry_is_for_the_real_generator_what_we_set_it_to(wanted, text):
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        file = home / "autostart" / NAME
        file.parent.mkdir()
        file.write_bytes(text.encode())
        programs = SignInPrograms((file.parent,), ("TicketDesk",))
        try:
            for write in programs.writes(NAME, wanted, 90):
                carry_out(write)
        except Refused:
            return
        assert programs.look(NAME).state is wanted, file.read_text()
        unit = generated(home)
        if wanted is EntryState.OFF:
            assert not unit, (text, file.read_bytes())
        elif wanted is EntryState.LATER:
            assert "sleep 90" in unit, (text, file.read_bytes())


@given(text=texts.filter(lambda text: "\r" not in text and "\\" not in text))
@settings(max_examples=60)
def test_what_ends_no_line_hides_nothing_from_us(text):
    """We read an entry as the generator does: off where it makes no unit, and only there."""
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        file = home / "autostart" / NAME
        file.parent.mkdir()
        file.write_bytes(text.encode())
        entry = read_desktop_entry(file)
        starts = entry.fault is None and not entry.is_true("Hidden")
        assert bool(generated(home)) is starts, (text, entry)
