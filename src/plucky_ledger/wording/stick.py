"""The words that a stick carries, and the guide beside its program."""

import gettext
from collections.abc import Mapping
from pathlib import Path

from plucky_ledger.core.entries.kinds import KINDS
from plucky_ledger.stick.words import KIND, TROUBLE
from plucky_ledger.wording.figures import number
from plucky_ledger.wording.labels import LABELS
from plucky_ledger.wording.language import CATALOGUES, DOMAIN, ENGLISH, languages, say
from plucky_ledger.wording.trouble import messages_by_code


def words_of_the_stick(messages: tuple[str, ...]) -> Mapping[str, Mapping[str, str]]:
    """By language, what is said for each message of the stick's program, for each trouble and for
    each kind of entry.
    """
    english = {message: message for message in messages}
    english |= {f"{TROUBLE}{code}": words for code, words in messages_by_code().items()}
    for kind, row in KINDS.items():
        if row.recorded_as:
            english[f"{KIND}{row.recorded_as}"] = LABELS[type(kind)][kind]
    words: dict[str, Mapping[str, str]] = {}
    for language in languages():
        spoken = gettext.translation(DOMAIN, CATALOGUES, [language], fallback=language == ENGLISH)
        words[language] = {by: spoken.gettext(message) for by, message in english.items()}
    return words


def written(file: Path) -> str:
    """The recorder is on the stick."""
    return say(
        "{file} is written ({size} kB). At the PC, with the stick in it: sh {name}",
        file=str(file),
        size=number(file.stat().st_size / 1000),
        name=file.name,
    )


def guide(file: str) -> str:
    """Two steps for somebody who has never seen the program; ``file`` is its name."""
    return "\n".join(
        (
            say("Plucky Ledger: how this PC starts"),
            "",
            say("1. Open a terminal in this folder (right click, then “Open in terminal”)."),
            say("2. Type:  sh {file}  and press Enter. Then choose by a number.", file=file),
            "",
            say(
                "It records what starts with this PC and how long that takes. It switches nothing "
                "off, installs nothing that stays, and sends nothing anywhere. Recordings come "
                "into the folder plucky-ledger-recordings on this stick."
            ),
            "",
        )
    ).replace("\n", "\r\n")
