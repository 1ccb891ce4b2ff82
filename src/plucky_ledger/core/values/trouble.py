"""Errors with a cause outside the program: a bad file, a full disk, an impossible request.

Every such trouble is a code with facts; ``wording`` makes a sentence of it that says what happened,
what was kept and what to try. Anything else that is raised is a bug and goes to the exception hook.
"""

from collections.abc import Sequence
from enum import StrEnum
from typing import Self

from plucky_ledger.core.values.reasons import Fact, Reason


class TroubleCode(StrEnum):
    """What happened. The facts that go with each are named in ``wording/trouble.py``."""

    # Wishes.
    NO_TITLE = "no_title"
    LABEL_TAKEN = "label_taken"
    NO_SUCH_OWNER = "no_such_owner"
    NO_SUCH_LABEL = "no_such_label"
    NO_SUCH_LINE = "no_such_line"
    NO_SUCH_BOOT = "no_such_boot"
    NO_SUCH_ENTRY = "no_such_entry"
    NOT_SET_SO = "not_set_so"
    NO_SUCH_PROGRAM = "no_such_program"
    NO_CHANGE_SAID = "no_change_said"
    TOO_MANY_CHANGES = "too_many_changes"
    NOTHING_PENCILLED_TO_RUB_OUT = "nothing_pencilled_to_rub_out"
    NOTHING_TO_PENCIL_FOR_IT = "nothing_to_pencil_for_it"
    NOTHING_PENCILLED_TO_POST = "nothing_pencilled_to_post"
    NO_OPENING = "no_opening"
    ONLY_PENCILLED = "only_pencilled"
    STRUCK_OUT_ALREADY = "struck_out_already"
    NOTHING_TO_PUT_BACK = "nothing_to_put_back"
    VISIT_IS_NOT_PUT_BACK = "visit_is_not_put_back"
    PENCILLED_BEFORE_VISIT = "pencilled_before_visit"
    VISIT_HAS_BEGUN = "visit_has_begun"
    NIGHT_SHIFT_GOES_ON = "night_shift_goes_on"
    NIGHT_SHIFT_NOT_SWITCHED = "night_shift_not_switched"
    NIGHT_NOT_PUT_BACK = "night_not_put_back"
    NO_NIGHT_SHIFT = "no_night_shift"
    NOTHING_FOR_THE_NIGHT = "nothing_for_the_night"
    NO_TURNS = "no_turns"
    PENCILLED_ALREADY = "pencilled_already"
    NOTHING_OUTSIDE = "nothing_outside"
    PUT_BACK_INSTEAD = "put_back_instead"
    NO_REASON_FOR_BOOT = "no_reason_for_boot"
    NO_REASON_FOR_PROGRAM = "no_reason_for_program"
    ONE_MARK_ALONE = "one_mark_alone"
    MARKS_CANNOT_BE = "marks_cannot_be"
    TYPED_HAS_NO_MARKS = "typed_has_no_marks"
    NO_FIGURE = "no_figure"
    FIGURE_CANNOT_BE = "figure_cannot_be"
    NOT_A_FIGURE = "not_a_figure"
    NO_ENTRY_CHOSEN = "no_entry_chosen"
    GUARDED_ENTRY = "guarded_entry"
    NOT_LOOKED_UP = "not_looked_up"
    LIST_TOO_LONG = "list_too_long"
    GRADES_NOT_IN_ORDER = "grades_not_in_order"
    NO_PROFILE_NAME = "no_profile_name"
    NO_PROGRAM_WATCHED = "no_program_watched"
    STEP_BUILT_UPON = "step_built_upon"
    PC_IS_ELSEWHERE = "pc_is_elsewhere"
    NOW_IS_ELSEWHERE = "now_is_elsewhere"
    NO_SEARCH_ADDRESS = "no_search_address"
    NOT_A_SEARCH_ADDRESS = "not_a_search_address"
    PC_IS_SIMULATED = "pc_is_simulated"
    RECORDER_NOT_STARTED = "recorder_not_started"
    RECORDER_ENDED = "recorder_ended"
    PACKAGE_MISSING = "package_missing"
    LIBRARY_MISSING = "library_missing"
    DISPLAY_UNREACHABLE = "display_unreachable"
    # Files and recordings.
    FILE_UNREADABLE = "file_unreadable"
    NOT_A_FILE = "not_a_file"
    ENDING_UNKNOWN = "ending_unknown"
    FILE_EXISTS = "file_exists"
    FILE_TOO_LARGE = "file_too_large"
    FOLDER_NOT_WRITABLE = "folder_not_writable"
    FILE_NOT_WRITTEN = "file_not_written"
    PDF_LIBRARY_MISSING = "pdf_library_missing"
    NOT_IMPORTED = "not_imported"
    NOT_A_TABLE = "not_a_table"
    TABLE_IS_KNOWN = "table_is_known"
    NOT_A_JOB_FILE = "not_a_job_file"
    JOB_FILE_DAMAGED = "job_file_damaged"
    JOB_FILE_NEWER = "job_file_newer"
    NOTHING_RECORDED = "nothing_recorded"
    RECORDING_EXISTS = "recording_exists"
    RECORDING_STOPPED = "recording_stopped"
    RECORDING_TOO_LARGE = "recording_too_large"
    DISK_NEARLY_FULL = "disk_nearly_full"
    RECORDING_EMPTY = "recording_empty"
    RECORDING_LINE = "recording_line"
    NO_HEADER = "no_header"
    SECOND_HEADER = "second_header"
    NEWER_RECORDING = "newer_recording"
    UNKNOWN_LINE = "unknown_line"
    BAD_LINE = "bad_line"
    TOO_MANY_LINES = "too_many_lines"
    TOO_MANY_SAMPLES = "too_many_samples"
    TOO_MANY_PROGRAMS = "too_many_programs"
    TOO_MANY_READINGS = "too_many_readings"
    TOO_MANY_AT_ONCE = "too_many_at_once"
    TOO_MUCH_TEXT = "too_much_text"
    LINE_TOO_LONG = "line_too_long"
    UNPACKED_TOO_LARGE = "unpacked_too_large"
    SAMPLES_OUT_OF_ORDER = "samples_out_of_order"
    BAD_DATE = "bad_date"
    # The ledger.
    LEDGER_OUT_OF_REACH = "ledger_out_of_reach"
    LEDGER_NOT_BEGUN = "ledger_not_begun"
    NO_HOME = "no_home"
    LEDGER_NOT_THERE = "ledger_not_there"
    LEDGER_FOREIGN = "ledger_foreign"
    LEDGER_FOREIGN_PART = "ledger_foreign_part"
    LEDGER_WITHOUT_LOCKS = "ledger_without_locks"
    LEDGER_CUT_SHORT_READ_ONLY = "ledger_cut_short_read_only"
    LEDGER_NEWER = "ledger_newer"
    LEDGER_OLD_READ_ONLY = "ledger_old_read_only"
    LEDGER_KIND_UNKNOWN = "ledger_kind_unknown"
    LEDGER_DISK_FULL = "ledger_disk_full"
    LEDGER_READ_ONLY = "ledger_read_only"
    LEDGER_BUSY = "ledger_busy"
    LEDGER_DAMAGED = "ledger_damaged"
    LEDGER_NOT_OPENED = "ledger_not_opened"
    LEDGER_SALVAGED = "ledger_salvaged"
    LEDGER_CLOSED = "ledger_closed"
    LEDGER_REPLACED = "ledger_replaced"
    LEDGER_OF_ANOTHER = "ledger_of_another"
    LEDGER_IN_OTHER_WINDOW = "ledger_in_other_window"
    NO_SUCH_JOB = "no_such_job"
    ROW_GONE = "row_gone"
    # This PC.
    BOOTS_OUT_OF_RANGE = "boots_out_of_range"
    ARMED_ALREADY = "armed_already"
    PATH_NOT_FIT = "path_not_fit"
    INTERPRETER_OF_OTHERS = "interpreter_of_others"
    NO_ADMINISTRATOR = "no_administrator"
    NOT_THE_ADMINISTRATOR = "not_the_administrator"
    NOT_ARMED = "not_armed"
    NOTHING_STARTS_IT = "nothing_starts_it"
    BOOT_NOT_RECORDED = "boot_not_recorded"
    NOT_RESTARTED = "not_restarted"
    TRACE_STAYS = "trace_stays"
    CANNOT_BE_SET = "cannot_be_set"
    NOT_SWITCHED = "not_switched"
    NOT_PUT_BACK = "not_put_back"
    USER_DID_NOT_ANSWER = "user_did_not_answer"
    USER_WITHOUT_HOME = "user_without_home"
    CHANGED_MEANWHILE = "changed_meanwhile"
    CHANGED_AGAIN = "changed_again"
    NOT_RUNNING = "not_running"
    NOT_YOURS_TO_STOP = "not_yours_to_stop"
    CARRIES_THE_SESSION = "carries_the_session"
    GUARDED_FROM_STOPPING = "guarded_from_stopping"
    MANAGER_SILENT = "manager_silent"
    NO_JOURNAL = "no_journal"
    NO_BOOT_IN_JOURNAL = "no_boot_in_journal"
    JOURNAL_NOT_FOR_USERS = "journal_not_for_users"


class Trouble(Exception):
    """Trouble from outside, as a code with facts."""

    def __init__(
        self, code: TroubleCode, because: Sequence[Reason] = (), **facts: "Fact | Trouble"
    ) -> None:
        super().__init__(code, facts)
        self.code = code
        self.facts = facts
        self.because = tuple(because)
        """Reasons that say what is wrong, where a sentence is made of several."""

    def with_facts(self, **facts: Fact) -> Self:
        """The same with more facts."""
        return type(self)(self.code, self.because, **{**self.facts, **facts})

    def __str__(self) -> str:
        """For the log; what the technician reads is made by ``wording``."""
        facts = ", ".join(f"{name}={value}" for name, value in self.facts.items())
        return f"{self.code}({facts})"


class Refused(Trouble):
    """A wish that cannot be granted as it is; nothing was changed."""
