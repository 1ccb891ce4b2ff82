"""What the stick's program says, in the language of whoever uses the PC."""

import json
import os
from collections.abc import Mapping
from functools import cache
from importlib.resources import files

from plucky_ledger.core.values.trouble import Trouble, TroubleCode

ENGLISH = "en"
WORDS_BY = ("LANGUAGE", "LC_ALL", "LC_MESSAGES", "LANG")
TROUBLE, KIND = "trouble:", "kind:"
"""What the words of a trouble, and of a kind of entry, are found by."""


def N_(message: str) -> str:
    """Marks a message that is said later."""
    return message


NO_PYTHON = N_("Plucky Ledger needs Python 3.9 or later, and this PC has none: install python3.")


INSTEAD: Mapping[TroubleCode, str] = {
    TroubleCode.JOURNAL_NOT_FOR_USERS: N_(
        "This PC’s log is not for everybody’s eyes: read it as administrator."
    ),
    TroubleCode.ARMED_ALREADY: N_(
        "Boots of this PC are to be recorded already. Take that back first, or wait for the last."
    ),
    TroubleCode.BOOT_NOT_RECORDED: N_(
        "A boot was to be recorded and was not: what records it did not start. The next is tried "
        "again; if that is not recorded either, take it back and try it the other way, with the "
        "administrator’s password or without."
    ),
    TroubleCode.INTERPRETER_OF_OTHERS: N_(
        "{path} would run as administrator, and other accounts can change it. Nothing will be "
        "recorded; try again without the administrator’s password."
    ),
    TroubleCode.DISK_NEARLY_FULL: N_(
        "Hardly any room is left in {folder}, and a recording must not fill the disk. Free some "
        "space first."
    ),
}
"""What is said on a stick, where the installed program advises what only it can do."""


def say(message: str, **facts: object) -> str:
    """A message with its facts; English where it is not translated."""
    spoken = _words()
    text = spoken.get(_language(), {}).get(message) or spoken.get(ENGLISH, {}).get(message, message)
    return text.format(**facts) if facts else text


def trouble_in_words(trouble: Trouble) -> str:
    """What happened, what was kept, what to try."""
    facts = {
        name: trouble_in_words(fact) if isinstance(fact, Trouble) else str(fact)
        for name, fact in trouble.facts.items()
    }
    code = f"{TROUBLE}{trouble.code}"
    words = say(INSTEAD.get(trouble.code, code))
    if words == code:
        told = " ".join(f"{name}: {fact}" for name, fact in facts.items())
        return say("It did not work ({code}). {told}", code=trouble.code, told=told)
    return words.format(**facts)


@cache
def _words() -> Mapping[str, Mapping[str, str]]:
    """By language; the English of the source is what they are found by."""
    file = files("plucky_ledger.stick").joinpath("words.json")
    if not file.is_file():
        return {}
    words: Mapping[str, Mapping[str, str]] = json.loads(file.read_text("utf-8"))
    return words


@cache
def _language() -> str:
    named = next((os.environ[name] for name in WORDS_BY if os.environ.get(name)), "")
    return named.replace(":", "_").replace(".", "_").split("_")[0] or ENGLISH
