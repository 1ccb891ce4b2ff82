"""Meaning apart from words: every code is told, no page carries words, all of them translate."""

import ast
import re
from collections.abc import Iterator
from pathlib import Path
from string import Formatter

import pytest

import plucky_ledger
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.wording import entries, lanes, load, reasons, steps, trouble
from plucky_ledger.wording.figures import number, read_number
from plucky_ledger.wording.labels import LABELS
from plucky_ledger.wording.language import current_locale, use, use_the_users
from plucky_ledger.wording.safe import as_cell

SOURCE = Path(plucky_ledger.__file__).parent
CODES = {TroubleCode: trouble._WORDS, ReasonCode: reasons._WORDS, StepCode: steps._WORDS}
DEVELOPERS_ONLY = {"pages", "core"}


@pytest.fixture
def speak():
    yield use
    use("en")


@pytest.mark.parametrize("codes", CODES)
def test_every_code_has_its_words(codes):
    assert set(CODES[codes]) == set(codes)


@pytest.mark.parametrize(
    ("code", "words"),
    [
        pair
        for listed in (LABELS, entries.CHOICES, load.CHOICES, {lanes.StripKind: lanes.STRIPS})
        for pair in listed.items()
    ],
)
def test_every_member_of_a_vocabulary_is_called_something(code, words):
    assert set(words) == set(code)
    assert all(words.values())


def calls(tree: ast.AST) -> Iterator[tuple[str, str, set[str], bool]]:
    """Where a code is given facts: kind of code, its name, the facts' names, whether all are."""
    for node in ast.walk(tree):
        if not isinstance(node, ast.Call) or not node.args:
            continue
        first = node.args[0]
        if isinstance(first, ast.Attribute) and isinstance(first.value, ast.Name):
            given = {keyword.arg for keyword in node.keywords if keyword.arg}
            whole = all(keyword.arg for keyword in node.keywords) and len(node.args) == 1
            yield first.value.id, first.attr, given, whole


def test_every_sentence_gets_the_facts_it_names():
    """At each place that refuses something or gives a reason."""
    checked = 0
    for path in SOURCE.rglob("*.py"):
        for kind, name, given, whole in calls(ast.parse(path.read_text())):
            words = {"TroubleCode": trouble._WORDS, "ReasonCode": reasons._WORDS}.get(kind)
            if words is None or not whole:
                continue
            text = words[{"TroubleCode": TroubleCode, "ReasonCode": ReasonCode}[kind][name]]
            if isinstance(text, str):
                named = {field for _, field, _, _ in Formatter().parse(text) if field}
                assert named <= given, f"{path.name}: {name} needs {named - given}"
                checked += 1
    assert checked > 40


def test_every_message_gets_the_facts_it_names():
    """At each place that says something outright."""
    checked = 0
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if not isinstance(node, ast.Call) or not isinstance(node.func, ast.Name):
                continue
            if node.func.id not in {"say", "say_n"} or any(not k.arg for k in node.keywords):
                continue
            given = {keyword.arg for keyword in node.keywords} | (
                {"n"} if node.func.id == "say_n" else set()
            )
            texts = [part.value for part in node.args if isinstance(part, ast.Constant)]
            for text in texts:
                named = {field for _, field, _, _ in Formatter().parse(str(text)) if field}
                assert named <= given, f"{path.name}: {text!r} needs {named - given}"
                checked += bool(named)
    assert checked > 100


def test_pages_and_core_carry_no_sentences():
    """What a technician reads comes from the wording, or it could be said in one language only."""
    sentence = re.compile(r"[a-z]{2,} [a-z]{2,}.* [a-z]{2,}")
    for part in sorted(DEVELOPERS_ONLY):
        for path in (SOURCE / part).rglob("*.py"):
            tree = ast.parse(path.read_text())
            docstrings = {
                id(node.value)
                for node in ast.walk(tree)
                if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
            }
            for node in ast.walk(tree):
                said = isinstance(node, ast.Constant) and isinstance(node.value, str)
                if said and id(node) not in docstrings:
                    assert not sentence.search(node.value), f"{path}: {node.value!r}"


def test_templates_carry_no_words():
    """Between the tags stand only what the wording gave."""
    tags = re.compile(r"<style>.*?</style>|\{[%{].*?[%}]\}|<[^>]*>", re.DOTALL)
    for path in (SOURCE / "exchange" / "templates").iterdir():
        text = tags.sub(" ", path.read_text())
        words = re.findall(r"[A-Za-z]{2,}", text.replace("&nbsp;", " "))
        assert not words, f"{path.name}: {words}"


def test_a_reason_from_outside_is_shown_as_it_was_said():
    said = Reason(ReasonCode.TOLD, {"text": "the \x1b[31mlog\nwas full"})
    assert "\x1b" not in reasons.reason_in_words(said)
    assert "log" in reasons.reason_in_words(said)


@pytest.mark.parametrize(
    ("locale", "shown"), [("en_US", "1,000.6"), ("de_DE", "1.000,6"), ("fr_FR", "1\u202f000,6")]
)
def test_figures_are_shown_and_typed_by_one_locale(speak, locale, shown):
    speak(locale)
    assert number(1000.6, 1) == shown
    assert read_number(shown) == 1000.6


def test_a_locale_nobody_knows_is_english(speak, monkeypatch):
    for name in ("LC_ALL", "LC_NUMERIC", "LANG"):
        monkeypatch.delenv(name, raising=False)
    use_the_users()
    assert current_locale() == "en"
    monkeypatch.setenv("LC_ALL", "xx_QQ.UTF-8")
    use_the_users()
    assert current_locale() == "en"
    assert number(1.5, 1) == "1.5"


@pytest.mark.parametrize("part", ["manual.md", "methods.md", "de/manual.md"])
def test_the_manual_in_docs_is_the_one_that_opens_in_the_window(part):
    packaged = SOURCE / "manual" / part
    assert (Path(__file__).parents[2] / "docs" / part).read_text() == packaged.read_text()


@pytest.mark.parametrize(
    ("text", "cell"),
    [
        ("=2+2", "'=2+2"),
        ("@sum", "'@sum"),
        ("-rm", "'-rm"),
        ("-12.5", "-12.5"),
        ("+4", "+4"),
        ("Foghorn\tNotify", "Foghorn Notify"),
    ],
)
def test_no_cell_is_worked_out_by_a_spreadsheet(text, cell):
    assert as_cell(text) == cell
