"""Errors and resets of drives in the kernel's log of this boot."""

import re
from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path

import msgspec

from plucky_ledger.capture.log.journal_stream import journal_lines

MOST_LINES = 20_000
FIELDS = "MESSAGE,_TRANSPORT"
_BLOCK = re.compile(r"(?:I/O|medium|target) error, dev (\w+)|EXT4-fs error \(device (\w+)\)")
_LINK = re.compile(
    r"(ata\d+)(?:\.\d+)?: (?:failed command|hard resetting link|exception Emask|"
    r"qc timeout|revalidation failed)|(nvme\d+): .*(?:timeout|controller is down|Abort)"
)
"""What the kernel's drivers say of a drive that did not answer as it should (libata, nvme)."""


def drive_errors(going_on: Callable[[], bool], blocks: Path = Path("/sys/block")) -> dict[str, int]:
    """How many of each drive; drives without any are missing.

    Raises:
        NoJournal: there is no journal, or it may not be read.
    """
    with journal_lines(
        going_on, "--boot", "--dmesg", "--priority=warning", f"--output-fields={FIELDS}"
    ) as lines:
        return errors_in(lines, drives_by_link(blocks))


def drives_by_link(blocks: Path) -> dict[str, str]:
    """Drives by the names the kernel has for what they hang on, such as "ata1" or "nvme0"."""
    links = {}
    for block in blocks.glob("*") if blocks.is_dir() else ():
        for part in block.resolve().parts:
            if re.fullmatch(r"ata\d+|nvme\d+", part):
                links[part] = block.name
    return links


def errors_in(lines: Iterable[bytes], links: Mapping[str, str]) -> dict[str, int]:
    """Errors by drive in lines of the journal; what the kernel did not write is passed over."""
    decoder = msgspec.json.Decoder(dict[str, object])
    found: Counter[str] = Counter()
    for count, raw in enumerate(lines):
        if count >= MOST_LINES:
            break
        try:
            entry = decoder.decode(raw)
        except (msgspec.DecodeError, UnicodeDecodeError):
            continue
        message = entry.get("MESSAGE")
        if entry.get("_TRANSPORT") != "kernel" or not isinstance(message, str):
            continue
        if (block := _BLOCK.search(message[:1000])) is not None:
            found[_whole(block[1] or block[2])] += 1
        elif (link := _LINK.search(message[:1000])) is not None:
            found[links.get(link[1] or link[2], link[1] or link[2])] += 1
    return dict(found)


def _whole(name: str) -> str:
    """The drive that a partition lies on."""
    lettered = name.startswith(("sd", "vd", "hd"))
    return re.sub(r"\d+$" if lettered else r"p\d+$", "", name)
