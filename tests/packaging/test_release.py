"""A release says one version everywhere, and is made of the packages that were accepted."""

import hashlib
import os
import subprocess
import tarfile

import pytest
from tools import bundle, release

from plucky_ledger import __version__


@pytest.fixture
def tagged(monkeypatch, tmp_path):
    """A project whose tag, changes and description say this version; each can be put elsewhere."""
    told = {"tag": f"v{__version__}", "uncommitted": ""}

    def git(*command):
        if command[0] == "status":
            return told["uncommitted"]
        if not told["tag"]:
            raise subprocess.CalledProcessError(128, "git")
        return f"{told['tag']}\n"

    described = tmp_path / release.METAINFO
    described.parent.mkdir(parents=True)
    described.write_text(
        f'<component><releases><release version="{__version__}"/></releases></component>'
    )
    (tmp_path / "CHANGELOG.md").write_text(f"# Changes\n\n## {__version__} (1 December 2026)\n")
    monkeypatch.setattr(release, "git", git)
    monkeypatch.setattr(release, "PROJECT", tmp_path)
    return told


def test_one_version_is_released(tagged, tmp_path):
    release.agreed()
    (tmp_path / "CHANGELOG.md").write_text("# Changes\n\n## Not yet released\n")
    with pytest.raises(release.NotReleased, match=r"CHANGELOG.md says Not"):
        release.agreed()
    tagged["uncommitted"] = " M README.md\n"
    with pytest.raises(release.NotReleased, match="not committed"):
        release.agreed()
    tagged["tag"] = ""
    with pytest.raises(release.NotReleased, match="no tag"):
        release.agreed()


def test_a_package_that_was_not_accepted_is_in_no_archive():
    accepted = bundle.CHECKSUMS.read_text("utf-8").splitlines()
    had = {name: checksum for checksum, name in map(str.split, accepted)}
    bundle.check(had)
    name = next(iter(had))
    with pytest.raises(bundle.NotThose, match=name.replace("+", r"\+")):
        bundle.check({**had, name: hashlib.sha256(b"another").hexdigest()})
    with pytest.raises(bundle.NotThose, match="new"):
        bundle.check({"new-1.0-py3-none-any.whl": had[name]})


def test_an_archive_of_the_source_does_not_depend_on_when_or_by_whom(tmp_path):
    (tmp_path / "file").write_text("content\n")
    packed = []
    for at, owner in ((1.25, "one"), (2.5, "another")):
        path = tmp_path / f"{owner}.tar.gz"
        with tarfile.open(path, "w:gz") as archive:
            os.utime(tmp_path / "file", (at, at))
            member = archive.gettarinfo(tmp_path / "file", "source/file")
            with (tmp_path / "file").open("rb") as content:
                member.uname = owner
                archive.addfile(member, content)
        packed.append(release._repacked(path))
    assert packed[0] == packed[1]
    (tmp_path / "again.tar.gz").write_bytes(packed[0])
    with tarfile.open(tmp_path / "again.tar.gz") as archive:
        assert archive.extractfile("source/file").read() == b"content\n"
