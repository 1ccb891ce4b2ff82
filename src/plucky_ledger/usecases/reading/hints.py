"""The rules by which entries are known without being measured."""

import tomllib
from collections.abc import Sequence
from functools import cache
from importlib.resources import files

from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.hints import Hint, HintKind, HintRule, hints_of
from plucky_ledger.core.values.reasons import ReasonCode


@cache
def rules() -> tuple[HintRule, ...]:
    """The rules of hints.toml."""
    data = tomllib.loads(files(__package__).joinpath("hints.toml").read_text("utf-8"))
    return tuple(
        HintRule(HintKind(rule["kind"]), tuple(rule["words"]), ReasonCode(rule["because"]))
        for rule in data["rule"]
    )


def hints_about(entries: Sequence[StartupEntry]) -> dict[str, tuple[Hint, ...]]:
    """What can be pointed out about each entry, by its id."""
    return hints_of(entries, rules())
