"""A whole job as one file: a zip archive with the book as JSON, every recording as it is, and
checksums of both.

Described in docs/formats/job.md. What is read may come from anybody: sizes are bounded before
anything is unpacked, and nothing is unpacked onto a disk.
"""

import hashlib
import io
import zipfile
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

import msgspec

from plucky_ledger.core.job.parts import GONE, Part, canonical
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.chosen_file import read_chosen
from plucky_ledger.recording.limits import LARGEST_FILE

FORMAT, VERSION = "plucky-ledger job", 1
BOOK, SUMS, READ_ME, RECORDINGS = "job.json", "SHA256SUMS", "READ ME.txt", "recordings/"
LARGEST_JOB_FILE = 1 << 30
LARGEST_BOOK = 64 << 20
MOST_MEMBERS = 50_000
FIRST_DATE = (1980, 1, 1, 0, 0, 0)
"""The date of everything within: the same job gives the same bytes."""
_READ_ME = """\
A job of Plucky Ledger, whole: one PC's boots as they were recorded, and the book kept about it.

job.json     the book, in the format of docs/formats/job.md
recordings/  one file a boot, named by its SHA-256, in the format of docs/formats/recording.md
SHA256SUMS   what sha256sum --check takes, once this is unpacked
"""


class _Part(msgspec.Struct, frozen=True):
    identity: str
    content: dict[str, object] | None
    derived: dict[str, object] = {}
    earlier: list[str] = []


class _Book(msgspec.Struct, frozen=True):
    format: str
    version: int
    job: str
    """Its name in every ledger."""
    parts: list[_Part]


@dataclass(frozen=True)
class JobFile:
    """What is in such a file."""

    uuid: str
    """The job's name in every ledger."""
    parts: Mapping[str, Part]
    recordings: Mapping[str, bytes]
    """By the SHA-256 of their bytes."""


def job_file_bytes(job: JobFile) -> bytes:
    """The file as it is written: the same job gives the same bytes."""
    members = {READ_ME: _READ_ME.encode(), BOOK: _book(job)}
    members |= {f"{RECORDINGS}{name}": data for name, data in sorted(job.recordings.items())}
    sums = "".join(f"{_sum(data)}  {name}\n" for name, data in members.items())
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        for name, data in {**members, SUMS: sums.encode()}.items():
            # Recordings are packed already.
            how = zipfile.ZIP_STORED if name.startswith(RECORDINGS) else zipfile.ZIP_DEFLATED
            archive.writestr(zipfile.ZipInfo(name, FIRST_DATE), data, how)
    return packed.getvalue()


def read_job_file(path: Path) -> JobFile:
    """Read such a file.

    Raises:
        Refused: it cannot be read, is none, is of a later version, or was damaged.
    """
    return job_file_from(read_chosen(path, LARGEST_JOB_FILE), path.name)


def job_file_from(data: bytes, name: str) -> JobFile:
    """The same from its bytes; ``name`` is what is said of it."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            members = _members(archive)
        book = msgspec.json.decode(members[BOOK], type=_Book)
    except (
        zipfile.BadZipFile,
        zipfile.LargeZipFile,
        zlib.error,
        msgspec.MsgspecError,
        NotImplementedError,  # packed in a way that is not read here
        RuntimeError,  # encrypted
        UnicodeDecodeError,
        KeyError,
        ValueError,
        OSError,
        EOFError,
    ) as error:
        raise Refused(TroubleCode.NOT_A_JOB_FILE, name=name) from error
    if book.format != FORMAT:
        raise Refused(TroubleCode.NOT_A_JOB_FILE, name=name)
    if book.version > VERSION:
        raise Refused(TroubleCode.JOB_FILE_NEWER, name=name)
    _checked(members, name)
    recordings = {
        member.removeprefix(RECORDINGS): content
        for member, content in members.items()
        if member.startswith(RECORDINGS)
    }
    if any(_sum(content) != digest for digest, content in recordings.items()):
        raise Refused(TroubleCode.JOB_FILE_DAMAGED, name=name)
    return JobFile(book.job, {one.identity: _part(one) for one in book.parts}, recordings)


def _book(job: JobFile) -> bytes:
    parts = [
        _Part(
            identity=part.identity,
            content=msgspec.json.decode(part.content) if part.content != GONE else None,
            derived=msgspec.json.decode(part.derived or "{}"),
            earlier=sorted(part.earlier),
        )
        for part in job.parts.values()
    ]
    book = _Book(format=FORMAT, version=VERSION, job=job.uuid, parts=parts)
    encoded = msgspec.json.encode(book, order="deterministic")
    return msgspec.json.format(encoded, indent=1) + b"\n"


def _part(told: _Part) -> Part:
    return Part(
        identity=told.identity,
        content=canonical(told.content) if told.content is not None else GONE,
        derived=canonical(told.derived),
        earlier=frozenset(told.earlier),
    )


def _members(archive: zipfile.ZipFile) -> dict[str, bytes]:
    """What is within and of use. Raises ValueError where there is too much of it."""
    listed = archive.infolist()
    if len(listed) > MOST_MEMBERS or sum(one.file_size for one in listed) > LARGEST_JOB_FILE:
        raise ValueError(len(listed))
    found = {}
    for one in listed:
        is_recording = one.filename.startswith(RECORDINGS) and not one.is_dir()
        if is_recording or one.filename in {BOOK, SUMS, READ_ME}:
            most = LARGEST_FILE if is_recording else LARGEST_BOOK
            found[one.filename] = _read(archive, one, most)
    return found


def _read(archive: zipfile.ZipFile, member: zipfile.ZipInfo, most: int) -> bytes:
    """What a member holds, whatever it says of its size. Raises ValueError where it is more."""
    with archive.open(member) as content:
        data = content.read(most + 1)
    if len(data) > most:
        raise ValueError(member.filename)
    return data


def _checked(members: Mapping[str, bytes], name: str) -> None:
    """Raises Refused where what is there is not what was written."""
    lines = members.get(SUMS, b"").decode("utf-8", "replace").splitlines()
    sums = {member: told for told, _, member in (line.partition("  ") for line in lines)}
    there = {member: _sum(data) for member, data in members.items() if member != SUMS}
    if sums != there:
        raise Refused(TroubleCode.JOB_FILE_DAMAGED, name=name)


def _sum(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()
