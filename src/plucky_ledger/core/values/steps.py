"""Bookkeeping steps: what each of them did, as a code with facts."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.values.reasons import Fact


class StepCode(StrEnum):
    """What a step does. ``wording/steps.py`` makes the words."""

    TAKE_IN = "take_in"
    CHANGE_CARD = "change_card"
    PENCIL = "pencil"
    RUB_OUT = "rub_out"
    POST = "post"
    PUT_BACK = "put_back"
    BEGIN_VISIT = "begin_visit"
    BEGIN_TURNS = "begin_turns"
    END_TURNS = "end_turns"
    WRITE_DOWN_OUTSIDE = "write_down_outside"
    ADD_BOOT = "add_boot"
    ADD_TABLE = "add_table"
    """Boots from a table of figures."""
    ADD_CARD = "add_card"
    """Boots that were timed by hand and written on a card."""
    CORRECT_MARKS = "correct_marks"
    SET_BOOT_ASIDE = "set_boot_aside"
    BRING_BOOT_BACK = "bring_boot_back"
    DECIDE = "decide"
    GIVE_REASON = "give_reason"
    WRITE_FINDING = "write_finding"
    TYPE_ENTRIES = "type_entries"
    SET_PROGRAM_ASIDE = "set_program_aside"
    BRING_PROGRAM_BACK = "bring_program_back"
    SAVE_PROFILE = "save_profile"
    PUT_ON_STATEMENT = "put_on_statement"
    TAKE_OFF_STATEMENT = "take_off_statement"
    INSPECT = "inspect"
    CHANGE_GRADES = "change_grades"
    SET_SEARCH_ADDRESS = "set_search_address"
    TAKE_IN_LEARNED = "take_in_learned"
    """What another workshop learned of programs."""
    FORGET_LEARNED = "forget_learned"
    MERGE = "merge"
    """The same job from another bench."""
    TOLD = "told"
    """A step of an older version, which kept its words."""


@dataclass(frozen=True)
class Step:
    """A step that was taken, undone or done again."""

    number: int
    code: StepCode
    facts: Mapping[str, Fact]
    job: int | None
    """Number of the job it belongs to; None for one of the whole workshop."""
