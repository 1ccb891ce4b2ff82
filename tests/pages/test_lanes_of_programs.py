"""What lines of files start is seen in the lanes, although nobody tells of it but its programs."""

from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.replay.voices import voices_of
from plucky_ledger.pages.lanes import lanes_page
from tests.helpers.runs import real_analysis


def test_a_program_of_a_shell_file_has_a_lane_of_its_own():
    analysis = real_analysis("sysvinit")
    told = {activity.entry_id for activity in analysis.timeline.activities}
    lanes = {lane.entry_id: lane for lane in lanes_page(analysis, voices_of(analysis)).lanes}
    more = [lane for entry_id, lane in lanes.items() if entry_id not in told]
    (bell,) = [lane for lane in more if lane.name == "brassbell-notifier"]
    assert bell.entry is not None
    assert bell.entry.kind is EntryKind.SHELL_LINE
    assert bell.running is not None
    assert bell.running[0] == 6.62
    assert bell.voice is not None
    assert told <= lanes.keys()
