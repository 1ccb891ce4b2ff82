"""Catalogues: whole, their facts right, compiled; and which language is spoken."""

import gettext
import re

import pytest
from babel.messages.pofile import read_po
from click.testing import CliRunner
from tools.messages import messages

from plucky_ledger.cli.main import main
from plucky_ledger.usecases.jobs.manual import Part, heading_in, headings, text_of
from plucky_ledger.usecases.jobs.preferences import Preferences, keep_preferences
from plucky_ledger.wording import language
from plucky_ledger.wording.language import (
    CATALOGUES,
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
    for message in set(messages()):
        one, *many = (message,) if isinstance(message, str) else message
        found = catalogue.get(one)
        assert found is not None, one
        strings = [found.string] if isinstance(found.string, str) else list(found.string)
        assert all(strings), one
        assert len(strings) == (catalogue.num_plurals if found.pluralizable else 1)
        for text in strings:
            allowed = facts(one).union(*map(facts, many))
            assert allowed - {"n"} <= facts(text) <= allowed, text
            assert text.endswith("…") == one.endswith("…"), text
            assert text[:1].isspace() == one[:1].isspace(), text
        told = compiled.ngettext(one, many[0], 2) if many else compiled.gettext(one)
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
        ({"LANG": "de_DE.UTF-8", "LC_ALL": "C.UTF-8"}, "", "en", "en_US"),
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
    assert len(headings(Part.MANUAL, code)) == len(headings(Part.MANUAL))
    for heading in headings(Part.MANUAL):
        assert heading_in(Part.MANUAL, heading, code) in headings(Part.MANUAL, code)
    assert heading_in(Part.MANUAL, "Verdict", code) == "Urteil"
    assert heading_in(Part.METHODS, headings(Part.METHODS)[2], code) == headings(Part.METHODS)[2]
    assert text_of(Part.MANUAL, code).count("\n- ") == text_of(Part.MANUAL).count("\n- ")
