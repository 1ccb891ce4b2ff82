"""What an init system starts, as lines of a recording: for a PC without a service manager."""

from collections.abc import Iterator
from pathlib import Path

from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.kinds import KINDS, id_of_script
from plucky_ledger.core.entries.sources import StartSource
from plucky_ledger.core.pc.arming import OWN_STARTER
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.linux.init_systems.running import ROOT, SCRIPTS_OF, InitSystem
from plucky_ledger.linux.init_systems.script import InitScript
from plucky_ledger.linux.start_files.found import Reading
from plucky_ledger.recording.lines import ActivityLine, EntryLine, SourceLine, bounded, said

MOST_REFUSED = 20
Told = EntryLine | ActivityLine | SourceLine


def lines_of_init_scripts(system: InitSystem, root: Path = ROOT) -> Iterator[Told]:
    """An entry for every script, what it waits for, and what came of looking.

    When each was run is told by its programs alone.
    """
    reading = Reading()
    found = [one for one in SCRIPTS_OF[system](reading, root) if one.name != OWN_STARTER]
    names = {name: script.name for script in found for name in (*script.provides, script.name)}
    for script in found:
        yield _entry(script)
        if script.on:
            before = dict.fromkeys(names[name] for name in script.after if name in names)
            after = tuple(id_of_script(name) for name in before if name != script.name)
            yield ActivityLine(bounded(id_of_script(script.name)), after=after[:4096])
    yield SourceLine(
        source=StartSource.INIT_SCRIPTS.value,
        files=reading.files,
        entries=len(found),
        refused=tuple(map(bounded, dict.fromkeys(reading.refused)))[:MOST_REFUSED],
    )


def _entry(script: InitScript) -> EntryLine:
    return EntryLine(
        entry=bounded(id_of_script(script.name)),
        name=bounded(script.title or script.name),
        owner="system",
        starts=KINDS[EntryKind.INIT_SCRIPT].recorded_as,
        origin=bounded(script.file),
        command=bounded(script.program or script.file),
        part_of_system=script.early,
        off=None if script.on else said(ReasonCode.SWITCHED_OFF),
    )
