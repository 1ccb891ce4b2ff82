"""Catalogues: whole, their facts right, compiled; and which language is spoken."""

import gettext
import re

import pytest
from babel.messages.pofile import read_po
from click.testing import CliRunner
from tools.messages import help_messages, messages

from plucky_ledger.cli.main import main
from plucky_ledger.cli.translated import PACKAGES_SAY, packages_translated
from plucky_ledger.usecases.jobs.manual import Part, heading_in, headings, text_of
from plucky_ledger.usecases.jobs.preferences import Preferences, keep_preferences
from plucky_ledger.wording import language
from plucky_ledger.wording.language import (
    C_,
    CATALOGUES,
    CONTEXT_ENDS,
    DOMAIN,
    FIGURES_BY,
    WORDS_BY,
    current_language,
    current_locale,
    language_name,
    languages,
    say,
    say_n,
    use_the_users,
)

TRANSLATED = [code for code in languages() if code != "en"]


@pytest.fixture
def spoken(monkeypatch):
    for name in {*WORDS_BY, *FIGURES_BY}:
        monkeypatch.delenv(name, raising=False)
    yield monkeypatch.setenv
    language.use("en")


def facts(text):
    return set(re.findall(r"\{(\w+)\}", text))


@pytest.mark.parametrize("code", TRANSLATED)
def test_a_catalogue_is_whole_and_its_facts_are_right(code):
    folder = CATALOGUES / code / "LC_MESSAGES"
    with (folder / f"{DOMAIN}.po").open("rb") as file:
        catalogue = read_po(file, locale=code)
    with (folder / f"{DOMAIN}.mo").open("rb") as file:
        compiled = gettext.GNUTranslations(file)
    for message in {*messages(), *filter(None, help_messages())}:
        one, *many = (message,) if isinstance(message, str) else message
        context, _, one = one.rpartition(CONTEXT_ENDS)
        found = catalogue.get(one, context or None)
        assert found is not None, one
        assert not found.fuzzy, one
        strings = [found.string] if isinstance(found.string, str) else list(found.string)
        assert all(strings), one
        assert len(strings) == (catalogue.num_plurals if found.pluralizable else 1)
        for text in strings:
            needed, allowed = (
                facts(one).intersection(*map(facts, many)),
                facts(one).union(*map(facts, many)),
            )
            assert needed - {"n"} <= facts(text) <= allowed, text
            assert text.endswith("…") == one.endswith("…"), text
            assert text[:1].isspace() == one[:1].isspace(), text
        told = compiled.ngettext(one, many[0], 2) if many else compiled.gettext(one)
        told = compiled.pgettext(context, one) if context else told
        assert told == strings[-1], f"make messages: {one}"


@pytest.mark.parametrize(
    ("variables", "preferred", "words", "figures"),
    [
        ({}, "", "en", "en"),
        ({"LANG": "de_AT.UTF-8"}, "", "de", "de_AT"),
        ({"LANG": "fr_FR.UTF-8"}, "", "en", "fr_FR"),
        ({"LANG": "en_US.UTF-8", "LC_MESSAGES": "de_DE.UTF-8"}, "", "de", "en_US"),
        ({"LANG": "de_DE.UTF-8", "LANGUAGE": "en:de"}, "", "en", "de_DE"),
        ({"LANG": "de_DE.UTF-8", "LANGUAGE": "fr:de"}, "", "de", "de_DE"),
        ({"LANG": "de_DE.UTF-8", "LC_ALL": "C.UTF-8"}, "", "en", "en"),
        ({"LANG": "de_CH.UTF-8", "LC_NUMERIC": "en_GB.UTF-8"}, "", "de", "en_GB"),
        ({"LANG": "en_GB.UTF-8"}, "de", "de", "de"),
        ({"LANG": "de_CH.UTF-8"}, "de", "de", "de_CH"),
        ({"LANG": "de_CH.UTF-8"}, "en", "en", "en"),
    ],
)
def test_words_and_figures_go_by_what_was_asked_for(spoken, variables, preferred, words, figures):
    for name, value in variables.items():
        spoken(name, value)
    use_the_users(preferred)
    assert (current_language(), current_locale()) == (words, figures)
    assert say("Verdict") == {"en": "Verdict", "de": "Urteil"}[words]
    assert say_n("{n} boot", "{n} boots", 2) == {"en": "2 boots", "de": "2 Starts"}[words]


def test_languages_call_themselves_by_their_own_names():
    assert [language_name(code) for code in ("en", "de")] == ["English", "Deutsch"]


def test_a_command_speaks_what_is_preferred(spoken, demo_path, tmp_path):
    spoken("XDG_CONFIG_HOME", str(tmp_path))
    keep_preferences(Preferences(language="de"))
    told = CliRunner().invoke(main, ["compare", "0417", "--ledger", str(demo_path)])
    assert "Zur Ruhe kommt der PC 12,2 s früher. Gespart." in told.output


@pytest.mark.parametrize("code", TRANSLATED)
def test_a_translated_manual_has_the_same_sections(code):
    """A section is opened by its place; what nobody has translated is read in English."""
    for part in Part:
        assert len(headings(part, code)) == len(headings(part))
        for heading in headings(part):
            assert heading_in(part, heading, code) in headings(part, code)
        for piece in ("\n- ", "\n| ", "\n1. "):
            assert text_of(part, code).count(piece) == text_of(part).count(piece)
    assert heading_in(Part.MANUAL, "Verdict", code) == "Urteil"
    assert heading_in(Part.METHODS, "Grade", code) == "Stufe"
    assert heading_in(Part.METHODS, "Grade", "eo") == "Grade"


def test_what_the_packages_say_is_looked_up_in_our_catalogue():
    language.use("de_DE")
    try:
        with packages_translated():
            for words in PACKAGES_SAY:
                one, many = (words, "") if isinstance(words, str) else words
                told = gettext.ngettext(one, many, 1) if many else gettext.gettext(one)
                assert told != one or "{" in one, one
    finally:
        language.use("en")
    assert gettext.gettext("Usage:") == "Usage:"


def test_a_word_of_two_meanings_is_said_by_its_context():
    language.use("de_DE")
    try:
        assert say(C_("whose PC it is", "by owner")) == "nach Besitzer"
        assert say(C_("whose program it is", "by owner")) == "nach Eigentümer"
    finally:
        language.use("en")
    assert say(C_("whose PC it is", "by owner")) == "by owner"
