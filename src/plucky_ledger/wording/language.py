"""The language words are in, and the locale that numbers and dates are written by.

Every message stands in the code as English, given to ``say`` or ``say_n``; a catalogue of the
standard gettext kind may translate it. ``make messages`` collects them.
"""

import gettext
import locale
import os
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path

from plucky_ledger.core.values.reasons import Fact

DOMAIN = "plucky_ledger"
CATALOGUES = Path(__file__).parent / "locale"
ENGLISH = "en"
CONTEXT_ENDS = "\x04"
"""Between the context of a message and its words, as gettext has it."""
WORDS_BY = ("LANGUAGE", "LC_ALL", "LC_MESSAGES", "LANG")
"""Variables that say in which language a user wants words; the first that is set decides."""
FIGURES_BY = ("LC_ALL", "LC_NUMERIC", "LANG")
"""The same of how figures and dates are written."""


@dataclass
class _Language:
    translations: gettext.NullTranslations = field(default_factory=gettext.NullTranslations)
    locale: str = ENGLISH


_current = _Language()
_within: ContextVar[_Language | None] = ContextVar("_within", default=None)
"""What is spoken within ``speaking``, in one thread alone."""


def languages() -> tuple[str, ...]:
    """Codes of the languages that words can be in, such as "de"."""
    translated = (path.parent.parent.name for path in CATALOGUES.glob(f"*/LC_MESSAGES/{DOMAIN}.mo"))
    return (ENGLISH, *sorted(translated))


def use(
    name: str, translations: gettext.NullTranslations | None = None, words_in: Sequence[str] = ()
) -> None:
    """Write numbers and dates by a locale from now on, and speak its language.

    ``name`` is a locale such as "de_DE"; where there is no catalogue for it, words stay English.
    ``words_in`` are the languages that words are wanted in instead, the best first;
    ``translations`` replaces the catalogue.
    """
    wanted = [one for each in words_in or (name,) for one in (each, _language(each))]
    if ENGLISH in wanted:  # it needs no catalogue, and whoever prefers it wants none after it
        wanted = wanted[: wanted.index(ENGLISH)]
    _current.translations = translations or _catalogue(wanted)
    _current.locale = name


@contextmanager
def speaking(code: str) -> Iterator[None]:
    """Speak another language within, in this thread alone; the one in use where ``code`` is empty.

    Figures and dates are written by its locale as well.
    """
    if not code or code == current_language():
        yield
        return
    before = _within.set(_Language(_catalogue([code] if code != ENGLISH else []), code))
    try:
        yield
    finally:
        _within.reset(before)


def _spoken() -> _Language:
    return _within.get() or _current


def _catalogue(wanted: Sequence[str]) -> gettext.NullTranslations:
    return gettext.translation(DOMAIN, CATALOGUES, wanted, fallback=True)


def use_the_users(preferred: str = "") -> None:
    """Speak the language that is preferred, or else that of whoever started the program.

    Figures go by the user's own locale, unless that is of another language than is preferred.
    """
    words = [_normal(name) for name in _first_set(WORDS_BY).split(":") if name]
    figures = _normal(_first_set(FIGURES_BY)) or ENGLISH
    if preferred:
        words = [preferred]
        figures = figures if _language(figures) == preferred else preferred
    use(figures, words_in=words or [ENGLISH])


def _first_set(variables: Sequence[str]) -> str:
    return next((os.environ[name] for name in variables if os.environ.get(name)), "")


def _normal(name: str) -> str:
    if name.split(".", maxsplit=1)[0] in {"C", "POSIX"}:
        return ENGLISH
    return locale.normalize(name).split(".")[0]


def _language(name: str) -> str:
    return name.split("_", maxsplit=1)[0]


def current_language() -> str:
    """Code of the language that words are in."""
    return str(_spoken().translations.info().get("language") or ENGLISH)


def language_name(code: str) -> str:
    """A language as it calls itself, such as "Deutsch"."""
    from babel import Locale

    name = Locale.parse(code).get_language_name(code) or code
    return name[:1].upper() + name[1:]


def current_locale() -> str:
    """The locale numbers and dates are written by; English where nobody knows the user's."""
    return _known(_spoken().locale)


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
    context, _, words = message.rpartition(CONTEXT_ENDS)
    look_up = _spoken().translations
    text = look_up.pgettext(context, words) if context else look_up.gettext(words)
    return text.format(**facts) if facts else text


def say_n(singular: str, many: str, number: int, **facts: Fact) -> str:
    """A message about a number of things, which is its fact ``n``."""
    text = _spoken().translations.ngettext(singular, many, number)
    return text.format(n=number, **facts)


def all_of(parts: Sequence[str]) -> str:
    """Several things in one sentence, such as "a, b and c"; empty where there is none."""
    *first, last = parts or ("",)
    return say("{some} and {last}", some=", ".join(first), last=last) if first else last


def C_(context: str, message: str) -> str:
    """Marks a message of several meanings, with which of them is meant; said like any other."""
    return f"{context}{CONTEXT_ENDS}{message}"


def N_(message: str) -> str:
    """Marks a message to be collected; it is translated when it is said."""
    return message
