"""What typed changes are about, read from a PC."""

from plucky_ledger.capture.sampling.values import value_of
from plucky_ledger.core.job.changes import HAVE_A_VALUE, ChangeKind


def test_values_are_read_where_the_pc_tells(tmp_path):
    proc, sys = tmp_path / "proc", tmp_path / "sys"
    (sys / "devices/system/cpu/cpu0/cpufreq").mkdir(parents=True)
    proc.mkdir()
    (proc / "meminfo").write_text("MemTotal:  4000000 kB\nSwapTotal:  2000000 kB\nodd\n")
    (proc / "cmdline").write_text("root=/dev/sda1 quiet\n")
    governor = sys / "devices/system/cpu/cpu0/cpufreq/scaling_governor"
    governor.write_text("powersave\n")
    assert value_of(ChangeKind.SWAP, proc, sys) == "2.0 GB"
    assert value_of(ChangeKind.MEMORY, proc, sys) == "4.1 GB"
    assert value_of(ChangeKind.BOOT_OPTION, proc, sys) == "root=/dev/sda1 quiet"
    assert value_of(ChangeKind.POWER_OR_EFFECTS, proc, sys) == "powersave"
    profile = sys / "firmware/acpi/platform_profile"
    profile.parent.mkdir(parents=True)
    profile.write_text("balanced\n")
    assert value_of(ChangeKind.POWER_OR_EFFECTS, proc, sys) == "balanced"
    assert value_of(ChangeKind.DISK_SPACE).endswith(" GB")


def test_what_the_pc_does_not_tell_is_empty(tmp_path):
    (tmp_path / "meminfo").write_text("MemTotal: much\n")
    for kind in ChangeKind:
        told = value_of(kind, tmp_path, tmp_path)
        assert told == "" or kind in {ChangeKind.DISK_SPACE, ChangeKind.CACHE}
        assert not told or kind in HAVE_A_VALUE
