"""The language words are in, and the locale that numbers and dates are written by.

Every message stands in the code as English, given to ``say`` or ``say_n``; a catalogue of the
standard gettext kind may translate it. ``make messages`` collects them.
"""

import gettext
import locale
import os
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path

from plucky_ledger.core.values.reasons import Fact

DOMAIN = "plucky_ledger"
CATALOGUES = Path(__file__).parent / "locale"
_LOCALE_VARIABLES = ("LC_ALL", "LC_NUMERIC", "LANG")


@dataclass
class _Language:
    translations: gettext.NullTranslations = field(default_factory=gettext.NullTranslations)
    locale: str = "en"


_current = _Language()


def use(name: str, translations: gettext.NullTranslations | None = None) -> None:
    """Speak a language from now on, and write numbers and dates by its locale.

    ``name`` is a locale such as "de_DE"; where there is no catalogue for it, words stay English.
    ``translations`` replaces the catalogue.
    """
    _current.translations = translations or gettext.translation(
        DOMAIN, CATALOGUES, [name, name.split("_", maxsplit=1)[0]], fallback=True
    )
    _current.locale = name


def use_the_users() -> None:
    """Speak the language of whoever started the program."""
    named = next((os.environ[name] for name in _LOCALE_VARIABLES if os.environ.get(name)), "")
    use(locale.normalize(named).split(".")[0] or "en")


def current_locale() -> str:
    """The locale numbers and dates are written by; English where nobody knows the user's."""
    return _known(_current.locale)


@cache
def _known(name: str) -> str:
    from babel import Locale, UnknownLocaleError

    try:
        Locale.parse(name)
    except (UnknownLocaleError, ValueError, TypeError):
        return "en"
    return name


def say(message: str, **facts: Fact) -> str:
    """A message in the language in use, its facts filled in."""
    text = _current.translations.gettext(message)
    return text.format(**facts) if facts else text


def say_n(singular: str, many: str, number: int, **facts: Fact) -> str:
    """A message about a number of things, which is its fact ``n``."""
    text = _current.translations.ngettext(singular, many, number)
    return text.format(n=number, **facts)


def all_of(parts: Sequence[str]) -> str:
    """Several things in one sentence, such as "a, b and c"; empty where there is none."""
    *first, last = parts or ("",)
    return say("{some} and {last}", some=", ".join(first), last=last) if first else last


def N_(message: str) -> str:
    """Marks a message to be collected; it is translated when it is said."""
    return message
