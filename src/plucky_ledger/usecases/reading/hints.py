"""The rules by which entries are known without being measured."""

import tomllib
from collections.abc import Sequence
from functools import cache
from importlib.resources import files

from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.hints import Hint, HintKind, Rule, hints_of
from plucky_ledger.core.values.reasons import ReasonCode


@cache
def rules() -> tuple[Rule, ...]:
    """The rules of hints.toml."""
    data = tomllib.loads(files(__package__).joinpath("hints.toml").read_text("utf-8"))
    return tuple(
        Rule(HintKind(rule["kind"]), tuple(rule["words"]), ReasonCode(rule["because"]))
        for rule in data["rule"]
    )


def hints_about(entries: Sequence[StartupEntry]) -> dict[str, tuple[Hint, ...]]:
    """What can be pointed out about each entry, by its id."""
    return hints_of(entries, rules())
