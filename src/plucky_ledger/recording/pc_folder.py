"""Folders of recordings that say which PC they are of, on a stick or a share."""

import json
import platform
import re

from plucky_ledger.linux.machine_identity import machine_identity

ABOUT = "pc.json"
"""The file in such a folder that says it."""
LONGEST_NAME = 40


def about_this_pc() -> bytes:
    """What stands in that file."""
    return json.dumps({"machine": machine_identity(), "name": platform.node()}).encode()


def name_of_this_pc() -> str:
    """Tells PCs apart, in letters that any file system has."""
    name = re.sub(r"[^A-Za-z0-9-]+", "-", platform.node())[:LONGEST_NAME].strip("-") or "pc"
    return "-".join(filter(None, (name, machine_identity()[:8])))
