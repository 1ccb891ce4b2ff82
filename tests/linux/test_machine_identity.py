"""What tells a PC from others, where the usual file is there, and where it is not."""

import pytest

from plucky_ledger.linux.machine_identity import machine_identity

OWN, BUSES = "0123456789abcdef" * 2, "fedcba9876543210" * 2


def write(root, path, text):
    file = root / path
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_text(text)


def device(root, kind, name, bus, **files):
    real = root / f"sys/devices/{bus}/{name}"
    real.mkdir(parents=True)
    shown = root / f"sys/class/{kind}/{name}" if kind == "net" else root / f"sys/block/{name}"
    shown.mkdir(parents=True)
    (shown / "device").symlink_to(real)
    for file, text in files.items():
        (shown / file).write_text(text)


@pytest.fixture
def pc(tmp_path):
    device(tmp_path, "net", "enp3s0", "pci0", address="00:1b:44:11:3a:b7\n")
    device(tmp_path, "net", "enx1", "pci0/usb1", address="00:1b:44:99:99:99\n")
    write(tmp_path, "sys/class/net/lo/address", "00:00:00:00:00:00")
    device(tmp_path, "block", "nvme0n1", "pci1", wwid="eui.0025385b71b0a1c2\n")
    write(tmp_path, "var/lib/dbus/machine-id", f"{BUSES}\n")
    write(tmp_path, "etc/machine-id", f"{OWN}\n")
    return tmp_path


def named(pc):
    machine_identity.cache_clear()
    return machine_identity(pc)


def test_each_is_told_by_the_best_that_is_there(pc):
    seen = [named(pc)]
    (pc / "etc/machine-id").write_text("uninitialized\n")
    seen.append(named(pc))
    (pc / "var/lib/dbus/machine-id").unlink()
    seen.append(named(pc))
    (pc / "sys/class/net/enp3s0/address").write_text("02:1b:44:11:3a:b7\n")  # made up
    seen.append(named(pc))
    (pc / "sys/block/nvme0n1/wwid").unlink()
    assert named(pc) == ""
    assert all(len(name) == 32 for name in seen)
    assert len(set(seen)) == 4
    assert not any(OWN in name or BUSES in name for name in seen)


def test_what_is_plugged_in_from_outside_changes_nothing(pc):
    for path in ("etc/machine-id", "var/lib/dbus/machine-id"):
        (pc / path).unlink()
    before = named(pc)
    (pc / "sys/class/net/enx1/address").write_text("00:1b:44:77:77:77\n")
    device(pc, "block", "sdb", "pci0/usb2", wwid="naa.5000c500\n")
    assert named(pc) == before
    (pc / "sys/class/net/enp3s0/address").write_text("00:1b:44:11:3a:b8\n")
    assert named(pc) != before


def test_a_pc_is_the_same_once_it_has_the_file_that_its_bus_had(pc):
    (pc / "etc/machine-id").unlink()
    before = named(pc)
    (pc / "etc/machine-id").write_text(f"{BUSES}\n")
    assert named(pc) == before
