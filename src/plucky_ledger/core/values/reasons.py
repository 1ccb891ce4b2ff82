"""Reasons: what the core, a recording or a PC has to say, as a code with facts and no sentence."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

Fact = str | int | float
"""What goes with a code."""


class ReasonCode(StrEnum):
    """What is to be said. ``wording/reasons.py`` makes the sentence."""

    TOLD = "told"
    """A text that came from outside as it is, such as from a recording of an older version."""
    # Why an entry has no grade.
    NEVER_SEEN = "never_seen"
    BEING_WORKED_OUT = "being_worked_out"
    NUMERICS_MISSING = "numerics_missing"
    PROGRAM_GONE = "program_gone"
    DOES_NOT_START = "does_not_start"
    CARRIES_SIGN_IN = "carries_sign_in"
    STARTS_TOO_LATE = "starts_too_late"
    NOT_WATCHED = "not_watched"
    NO_BOOT = "no_boot"
    NO_ENTRIES = "no_entries"
    SLEPT = "slept"
    NEVER_SETTLED = "never_settled"
    ONLY_AT_REST = "only_at_rest"
    # Why an entry does not start.
    HIDDEN = "hidden"
    NO_APPLICATION = "no_application"
    NOBODY_SIGNED_IN = "nobody_signed_in"
    NOT_KNOWN_YET = "not_known_yet"
    PC_IS_ELSEWHERE = "pc_is_elsewhere"
    NO_BOOT_OF_IT = "no_boot_of_it"
    RESTART_IS_DUE = "restart_is_due"
    NOTHING_IS_COMPARED = "nothing_is_compared"
    CANNOT_GO_BACK = "cannot_go_back"
    MAY_BE_ANOTHERS = "may_be_anothers"
    WORKED_BEFORE_ALONE = "worked_before_alone"
    WORKED_AFTER_ALONE = "worked_after_alone"
    LINE_OR_STEP = "line_or_step"
    CONTROL_TOO_SHORT = "control_too_short"
    CONTROL_SCATTERS = "control_scatters"
    SWITCHED_OFF = "switched_off"
    MASKED = "masked"
    ONLY_FOR_DESKTOPS = "only_for_desktops"
    NOT_FOR_DESKTOPS = "not_for_desktops"
    PROGRAM_NOT_THERE = "program_not_there"
    NOTHING_TO_START = "nothing_to_start"
    CONDITIONS_NOT_MET = "conditions_not_met"
    NOT_A_PLAIN_FILE = "not_a_plain_file"
    UNREADABLE = "unreadable"
    TOO_LARGE = "too_large"
    NOT_A_TEXT = "not_a_text"
    NO_DESKTOP_ENTRY = "no_desktop_entry"
    # Why an entry cannot be switched, and what starts it besides the PC's start.
    NOT_FOUND_HERE = "not_found_here"
    UNKNOWN_SPECIFIER = "unknown_specifier"
    WANTED_BY = "wanted_by"
    TRIGGERED_BY = "triggered_by"
    SWITCHED_WITH = "switched_with"
    STARTED_BY_BUS = "started_by_bus"
    # What a restart would end.
    OTHERS_SIGNED_IN = "others_signed_in"
    HOLDS_UP_RESTART = "holds_up_restart"
    # What changed without being posted.
    NEW_ENTRY = "new_entry"
    GONE_ENTRY = "gone_entry"
    SET_ON = "set_on"
    SET_OFF = "set_off"
    UPDATED = "updated"
    MEMORY_CHANGED = "memory_changed"
    DRIVES_CHANGED = "drives_changed"
    KERNEL_CHANGED = "kernel_changed"
    PACKAGES_CHANGED = "packages_changed"
    CAME_BACK = "came_back"
    UPDATE_PUT_BACK = "update_put_back"
    # When a timer starts an entry.
    ON_CALENDAR = "on_calendar"
    AFTER_KERNEL = "after_kernel"
    AFTER_MANAGER = "after_manager"
    AFTER_TIMER = "after_timer"
    AFTER_LAST_RUN = "after_last_run"
    AFTER_LAST_END = "after_last_end"
    AFTER_SERVICES = "after_services"
    # What can be pointed out about an entry.
    GONE = "gone"
    ALSO_STARTED_BY = "also_started_by"
    MARKED_BY_PC = "marked_by_pc"
    ONLY_LOOKS_FOR_UPDATES = "only_looks_for_updates"
    PROTECTS = "protects"
    NEEDED_TO_SIGN_IN = "needed_to_sign_in"
    KEEPS_REACHABLE = "keeps_reachable"
    PART_OF_SYSTEM = "part_of_system"
    # What went wrong with an activity.
    FAILED = "failed"
    # What cannot be right about marks.
    MARKS_REVERSED = "marks_reversed"
    MARK_NO_TIME = "mark_no_time"
    # What a recorder has to say.
    READS_NOT_PERMITTED = "reads_not_permitted"
    CLOCK_SET = "clock_set"
    COUNTERS_OLDER = "counters_older"
    NO_SERVICE_MANAGER = "no_service_manager"
    NO_USER_SERVICES = "no_user_services"
    SERVICES_MISSING = "services_missing"
    USER_SERVICES_MISSING = "user_services_missing"
    NO_LOG = "no_log"
    NO_PACKAGES = "no_packages"
    NO_SWITCHED_OFF = "no_switched_off"
    NO_SIGN_IN_TIME = "no_sign_in_time"
    OTHER_PEOPLE = "other_people"
    # What a person does to switch an entry.
    LINE_OF_A_FILE = "line_of_a_file"
    LINE_OF_OWN_TABLE = "line_of_own_table"
    SCRIPT_OF_A_FOLDER = "script_of_a_folder"
    FILE_OF_THE_BUS = "file_of_the_bus"
    OF_ANOTHER_PERSON = "of_another_person"
    LINE_OF_FSTAB = "line_of_fstab"
    LINE_NOT_THERE = "line_not_there"
    # Why nothing came of asking a message bus.
    NO_BUS_PACKAGE = "no_bus_package"
    NO_BUS = "no_bus"
    TIME_UP = "time_up"
    BROKEN_CONNECTION = "broken_connection"
    ERROR_REPLY = "error_reply"
    ONLY_ERRORS = "only_errors"
    ANSWER_TOO_LARGE = "answer_too_large"
    ASKING_STOPPED = "asking_stopped"
    UNREADABLE_ANSWER = "unreadable_answer"
    # What a comparison rests on, or why it is unproven.
    NO_SPREAD = "no_spread"
    FEW_BOOTS = "few_boots"
    NOT_SURE_ENOUGH = "not_sure_enough"
    ONE_OF_MANY = "one_of_many"
    AT_LEAST_BEFORE = "at_least_before"
    AT_LEAST_AFTER = "at_least_after"
    NOT_SETTLED_IN_RECORDING = "not_settled_in_recording"
    BOTH_SIDES_OF_ZERO = "both_sides_of_zero"
    PARTLY_NOTICEABLE = "partly_noticeable"
    MACHINE_MOVED = "machine_moved"
    MACHINE_DECIDES = "machine_decides"
    # What makes a comparison unfair.
    KERNEL_DIFFERS = "kernel_differs"
    START_DIFFERS = "start_differs"
    POWER_DIFFERS = "power_differs"
    USER_DIFFERS = "user_differs"
    HARDWARE_DIFFERS = "hardware_differs"
    HOW_DIFFERS = "how_differs"
    # Why a file of the journal of changes is not believed.
    LEFT_OUT_OF_JOURNAL = "left_out_of_journal"
    OTHERS_MAY_WRITE_IT = "others_may_write_it"
    OF_A_NEWER_VERSION = "of_a_newer_version"
    NO_JOURNAL_OF_CHANGES = "no_journal_of_changes"
    WRITES_ELSEWHERE = "writes_elsewhere"
    # Why a night shift ended.
    NIGHT_THROUGH = "night_through"
    NIGHT_EXACT_ENOUGH = "night_exact_enough"
    NIGHT_IS_OVER = "night_is_over"
    NIGHT_STOPPED = "night_stopped"
    NIGHT_ON_BATTERY = "night_on_battery"
    NIGHT_TOO_HOT = "night_too_hot"
    NIGHT_BOOT_NEVER_CAME = "night_boot_never_came"
    NIGHT_SOMEBODY_CAME = "night_somebody_came"
    NIGHT_HELD_UP = "night_held_up"
    NIGHT_NOT_RECORDED = "night_not_recorded"
    NIGHT_DISARMED = "night_disarmed"
    NIGHT_FAILED = "night_failed"
    NIGHT_NOT_SWITCHED = "night_not_switched"
    NIGHT_NOT_RESTARTED = "night_not_restarted"
    MACHINE_DRIFTED = "machine_drifted"
    ODD_CONTROL = "odd_control"
    BUSY_BOOTS = "busy_boots"
    BOOT_SET_ASIDE = "boot_set_aside"
    CUT_SHORT = "cut_short"
    UPDATES_RUNNING = "updates_running"
    DISK_CHECKED = "disk_checked"
    SLEPT_MEANWHILE = "slept_meanwhile"
    RESUMED = "resumed"
    # What became of a recording.
    HELD_LATER = "held_later"
    LOOKED_ON = "looked_on"
    KNOWN_BOOT = "known_boot"
    IN_THE_BOOK = "in_the_book"
    CLOCK_WAS_AHEAD = "clock_was_ahead"
    BEFORE_POSTING = "before_posting"
    KEPT_CUT_SHORT = "kept_cut_short"
    KEPT_DAMAGED = "kept_damaged"
    NOT_BEFORE = "not_before"
    CALM_WHEN_FIRST_SEEN = "calm_when_first_seen"
    READ_AT_REST = "read_at_rest"
    # Why a recording ended.
    WAS_AT_REST = "was_at_rest"
    TIME_WAS_UP = "time_was_up"
    RECORDING_FULL = "recording_full"
    STOPPED_BY_HAND = "stopped_by_hand"
    READ_FROM_JOURNAL = "read_from_journal"


@dataclass(frozen=True)
class Reason:
    """Something to be said."""

    code: ReasonCode
    facts: Mapping[str, Fact] = field(default_factory=dict)

    @classmethod
    def of(cls, code: ReasonCode, **facts: Fact) -> "Reason":
        """The same, with the facts by name."""
        return cls(code, facts)


def quoted(text: str) -> Reason:
    """A text from outside that no code is known for."""
    return Reason(ReasonCode.TOLD, {"text": text})
