"""Trouble in words: what happened, what was kept, what to try."""

from collections.abc import Callable, Mapping

from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Fact
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.wording.figures import number, size
from plucky_ledger.wording.installing import install_command
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import N_, say, say_n
from plucky_ledger.wording.ledger_trouble import LEDGER_WORDS
from plucky_ledger.wording.reasons import in_one_line, reason_in_words
from plucky_ledger.wording.safe import shown


def trouble_in_words(trouble: Trouble) -> str:
    """One sentence or two for the technician, fit to be shown."""
    words = _WORDS[trouble.code]
    if callable(words):
        return words(trouble)
    facts = {name: _fact(fact) for name, fact in trouble.facts.items()}
    return say(words, **facts)


def messages_by_code() -> Mapping[TroubleCode, str]:
    """The English messages that take their facts as they are, for whoever says them elsewhere."""
    return {code: words for code, words in _WORDS.items() if isinstance(words, str)}


def _fact(fact: Fact | Trouble) -> str:
    """A fact as text, figures by the locale."""
    if isinstance(fact, Trouble):
        return trouble_in_words(fact)
    return shown(fact) if isinstance(fact, str) else number(fact)


def _sized(message: str) -> Callable[[Trouble], str]:
    """A message with a fact ``most_bytes``, which is said as a size."""

    def words(trouble: Trouble) -> str:
        facts = {name: _fact(fact) for name, fact in trouble.facts.items() if name != "most_bytes"}
        most = number(float(str(trouble.facts["most_bytes"])) / 1e6)
        return say(message, most=f"{most} MB", **facts)

    return words


def _reasons(trouble: Trouble) -> str:
    return "; ".join(map(reason_in_words, trouble.because))


def _guarded(trouble: Trouble) -> str:
    return say(
        "{name} is guarded: {why}. Choose “{decision}” once more to confirm.",
        name=_fact(trouble.facts["name"]),
        why=_reasons(trouble),
        decision=label(Decision(str(trouble.facts["decision"]))),
    )


def _not_a_figure(trouble: Trouble) -> str:
    text, perhaps = _fact(trouble.facts["text"]), _fact(trouble.facts["perhaps"])
    field = _fact(trouble.facts["field"]) if "field" in trouble.facts else ""
    sentence = say("“{text}” is not a figure.", text=text)
    sentence = f"{field}: {sentence}" if field else sentence
    if perhaps:
        return f"{sentence} {say('Is it {perhaps}?', perhaps=perhaps)}"
    such_as = number(1234.5, 1)
    return f"{sentence} {say('Type one such as {example}, or leave it empty.', example=such_as)}"


def _figure_cannot_be(trouble: Trouble) -> str:
    return say(
        "{measure}: {value} is not possible. Type a figure from 0 up.",
        measure=label(Measure(str(trouble.facts["measure"]))),
        value=str(trouble.facts["value"]),
    )


def _nearly_full(trouble: Trouble) -> str:
    facts = trouble.facts
    kept = say(" What was recorded is kept in {path}.", path=_fact(facts["path"]))
    return say(
        "Only {free} are free in {folder}; a recording must not fill the disk.{kept} Free some "
        "space or record to another drive.",
        free=size(float(str(facts["free_bytes"]))),
        folder=_fact(facts["folder"]),
        kept=kept if facts["samples"] else "",
    )


def _no_such_label(trouble: Trouble) -> str:
    sentence = say(
        "No job has the label {label}. Labels in this ledger: {known}.",
        label=_fact(trouble.facts["label"]),
        known=_fact(trouble.facts["known"]) or say("none yet"),
    )
    return sentence + _perhaps_meant(trouble)


def _no_such_entry(trouble: Trouble) -> str:
    sentence = say(
        "No startup entry of {job} is called {entry}.",
        job=_fact(trouble.facts["job"]),
        entry=_fact(trouble.facts["entry"]),
    )
    return sentence + _perhaps_meant(trouble)


def _perhaps_meant(trouble: Trouble) -> str:
    named = _fact(trouble.facts.get("nearest", ""))
    return " " + say("Perhaps {names} is meant.", names=named) if named else ""


def _recorder_ended(trouble: Trouble) -> str:
    sentence = _fact(trouble.facts["told"])
    return sentence or say("The recorder ended by itself. What was recorded until then is kept.")


def _package_missing(trouble: Trouble) -> str:
    return say(
        "The package {package} is not installed. Install it with: {command}",
        package=_fact(trouble.facts["package"]),
        command=install_command(str(trouble.facts["extra"])),
    )


_WORDS: Mapping[TroubleCode, str | Callable[[Trouble], str]] = {
    # Wishes.
    TroubleCode.NO_TITLE: N_("Give the PC a name, such as “Ticket-desk PC”: it heads the book."),
    TroubleCode.LABEL_TAKEN: N_("Label {label} is already on {title}. Choose another label."),
    TroubleCode.NO_SUCH_OWNER: N_("No PC of “{owner}” is in the ledger. Owners: {nearest}."),
    TroubleCode.NO_SUCH_LABEL: _no_such_label,
    TroubleCode.NO_SUCH_LINE: N_("The book has no line {line}: its last one is {last}."),
    TroubleCode.NO_SUCH_BOOT: N_("Line {line} of the book has no boot {boot}: it has {boots}."),
    TroubleCode.NO_SUCH_ENTRY: _no_such_entry,
    TroubleCode.NOT_SET_SO: N_("{name} cannot be set to “{how}”. What it can be: {possible}."),
    TroubleCode.NO_SUCH_PROGRAM: N_("No program called {program} was seen in that boot."),
    TroubleCode.NO_CHANGE_SAID: N_("Say what is changed, in a few words."),
    TroubleCode.TOO_MANY_CHANGES: N_(
        "More than {most} changes at once: you could not see which one helped."
    ),
    TroubleCode.NOTHING_TO_PENCIL_FOR_IT: N_(
        "There is nothing to pencil for this advice: it changes nothing on the PC."
    ),
    TroubleCode.NOTHING_PENCILLED_TO_RUB_OUT: N_(
        "Nothing is pencilled. A posting that was made is struck out instead."
    ),
    TroubleCode.NOTHING_PENCILLED_TO_POST: N_(
        "Nothing is pencilled. Write down what is changed first."
    ),
    TroubleCode.NO_OPENING: N_(
        "There is no opening balance yet. Record a boot before the first change, so that you can "
        "see what it wins."
    ),
    TroubleCode.ONLY_PENCILLED: N_("It is only pencilled: rub it out instead."),
    TroubleCode.STRUCK_OUT_ALREADY: N_("It is struck out already."),
    TroubleCode.NO_REASON_FOR_BOOT: N_("Say why the boot is set aside: the owner may ask."),
    TroubleCode.NO_REASON_FOR_PROGRAM: N_("Say why the program is left out: the owner may ask."),
    TroubleCode.ONE_MARK_ALONE: N_(
        "One mark alone is no time: mark at least the power button and one more."
    ),
    TroubleCode.MARKS_CANNOT_BE: lambda trouble: in_one_line(trouble.because),
    TroubleCode.TYPED_HAS_NO_MARKS: N_(
        "This boot was typed in as figures and has no marks. Type it again instead."
    ),
    TroubleCode.NO_FIGURE: N_("Type at least one figure; the fields left empty stay unknown."),
    TroubleCode.FIGURE_CANNOT_BE: _figure_cannot_be,
    TroubleCode.NOT_A_FIGURE: _not_a_figure,
    TroubleCode.NO_ENTRY_CHOSEN: N_("Choose an entry first."),
    TroubleCode.GUARDED_ENTRY: _guarded,
    TroubleCode.NOT_LOOKED_UP: N_("Decide “look up” about the entry first."),
    TroubleCode.LIST_TOO_LONG: N_("More than {most} lines: this is no list of startup entries."),
    TroubleCode.GRADES_NOT_IN_ORDER: N_(
        "Each grade has to begin above the one below it, and above zero."
    ),
    TroubleCode.NO_PROFILE_NAME: N_("Give the profile a name, such as the OS release it shows."),
    TroubleCode.NO_PROGRAM_WATCHED: N_(
        "No programs were recorded in this boot: record one on the fresh PC."
    ),
    TroubleCode.STEP_BUILT_UPON: N_(
        "Job {label} has been worked on since it was taken in. Undo that first, with the job open."
    ),
    TroubleCode.NOW_IS_ELSEWHERE: N_(
        "“Now” shows the PC this program runs on, and this job is about another. Record a "
        "reading at rest there and import it."
    ),
    TroubleCode.NO_SEARCH_ADDRESS: N_(
        "No search address is set. Type the workshop's own in the look-up list (Ctrl+K). Nothing "
        "is sent before that."
    ),
    TroubleCode.NOT_A_SEARCH_ADDRESS: N_(
        "A search address begins with https:// and has {name} where the program's name goes. It "
        "is as it was."
    ),
    TroubleCode.PC_IS_ELSEWHERE: N_(
        "This job is about another PC. Record it there and import the recording, or time it "
        "with the stopwatch."
    ),
    TroubleCode.PC_IS_SIMULATED: N_(
        "This job's PC is simulated: restart and record it with Ctrl+R."
    ),
    TroubleCode.RECORDER_NOT_STARTED: N_(
        "The recorder could not be started: {system}. Nothing was recorded."
    ),
    TroubleCode.RECORDER_ENDED: _recorder_ended,
    TroubleCode.PACKAGE_MISSING: _package_missing,
    TroubleCode.LIBRARY_MISSING: N_(
        "The window needs {library}, which this system does not have. Install it with: {command}"
    ),
    TroubleCode.DISPLAY_UNREACHABLE: N_(
        "No window can be opened on the display {display}. Start Plucky Ledger in a desktop "
        "session of yours, or use its commands: plucky-ledger --help."
    ),
    # Files and recordings.
    TroubleCode.FILE_UNREADABLE: N_("{path} cannot be read: {system}. Nothing was changed."),
    TroubleCode.NOT_A_FILE: N_("{path} is no file and was left as it is. Choose another name."),
    TroubleCode.ENDING_UNKNOWN: N_(
        "{path} does not say what it is to be. Give it one of these endings: {endings}."
    ),
    TroubleCode.FILE_EXISTS: N_(
        "{path} exists already and was left as it is. Choose another name."
    ),
    TroubleCode.FILE_TOO_LARGE: _sized(
        "{name} is larger than {most}: this is not one boot. Nothing was changed."
    ),
    TroubleCode.FOLDER_NOT_WRITABLE: N_(
        "{folder} cannot be written to ({system}). Choose another folder."
    ),
    TroubleCode.FILE_NOT_WRITTEN: N_(
        "{path} could not be written: {system}. Nothing was left half-written; choose another "
        "place or free some space."
    ),
    TroubleCode.PDF_LIBRARY_MISSING: N_(
        "A library that PDF needs is missing on this PC (Debian: libpango-1.0-0, "
        "libpangoft2-1.0-0). Save it as HTML instead, or install them."
    ),
    TroubleCode.NOT_A_TABLE: N_(
        "{name} is no table of figures: a row of headings, then a row for each boot, as a "
        "spreadsheet saves them as CSV. Nothing was changed."
    ),
    TroubleCode.TABLE_IS_KNOWN: N_("All boots of that table are in the book already."),
    TroubleCode.NOT_A_JOB_FILE: N_(
        "{name} is no job file of Plucky Ledger. Nothing was changed. Import recordings as "
        "recordings."
    ),
    TroubleCode.JOB_FILE_DAMAGED: N_(
        "{name} is damaged: what is in it is not what was written. Nothing was changed. Copy it "
        "again from where it was made."
    ),
    TroubleCode.JOB_FILE_NEWER: N_(
        "{name} was written by a newer Plucky Ledger. Nothing was changed. Update this one."
    ),
    TroubleCode.NOT_IMPORTED: N_("{name} was not imported. {fault}"),
    TroubleCode.NOTHING_RECORDED: N_(
        "Nothing was recorded: {path} cannot be written ({system}). Choose a folder you may write "
        "to."
    ),
    TroubleCode.RECORDING_EXISTS: N_(
        "{path} exists already and was left as it is. Choose another name."
    ),
    TroubleCode.RECORDING_STOPPED: lambda trouble: say_n(
        "Recording stopped after {n} sample: {system}. What was recorded until then is kept in "
        "{path}.",
        "Recording stopped after {n} samples: {system}. What was recorded until then is kept in "
        "{path}.",
        int(str(trouble.facts["samples"])),
        system=_fact(trouble.facts["system"]),
        path=_fact(trouble.facts["path"]),
    ),
    TroubleCode.RECORDING_TOO_LARGE: _sized(
        "Recording stopped after {samples} samples: it had grown to {most}. What was recorded "
        "until then is in {path}."
    ),
    TroubleCode.DISK_NEARLY_FULL: _nearly_full,
    TroubleCode.RECORDING_EMPTY: N_(
        "The file is empty or breaks off before its first line ends: there is nothing to keep."
    ),
    TroubleCode.RECORDING_LINE: N_("Line {line}: {fault}."),
    TroubleCode.NO_HEADER: N_("the file does not begin with the header of a recording"),
    TroubleCode.SECOND_HEADER: N_("a second header: two recordings seem to be run together"),
    TroubleCode.NEWER_RECORDING: N_(
        "the recording has version {version} and this program reads version {reads}; update "
        "Plucky Ledger on this PC"
    ),
    TroubleCode.UNKNOWN_LINE: N_("not a line of a Plucky Ledger recording"),
    TroubleCode.BAD_LINE: N_("{told}"),
    TroubleCode.TOO_MANY_LINES: N_("More than {most} lines: this is not one boot."),
    TroubleCode.TOO_MANY_SAMPLES: N_("More than {most} samples: this is not one boot."),
    TroubleCode.TOO_MANY_PROGRAMS: N_("More than {most} programs: this is not one boot."),
    TroubleCode.TOO_MANY_READINGS: N_("More than {most} readings of programs: not one boot."),
    TroubleCode.TOO_MANY_AT_ONCE: N_(
        "Programs times samples are more than {most}: this is not one boot."
    ),
    TroubleCode.TOO_MUCH_TEXT: N_("More than {most} bytes of text: this is not one boot."),
    TroubleCode.LINE_TOO_LONG: _sized("a line is longer than {most}"),
    TroubleCode.UNPACKED_TOO_LARGE: N_(
        "Unpacked it is larger than {most} bytes: this is not one boot."
    ),
    TroubleCode.SAMPLES_OUT_OF_ORDER: lambda trouble: say(
        "sample {sample} at {instant} s is not later than the one before it",
        sample=_fact(trouble.facts["sample"]),
        instant=str(trouble.facts["seconds"]),
    ),
    TroubleCode.BAD_DATE: N_(
        "“{text}” in the header is not a date and time. Nothing was taken over."
    ),
    # The ledger.
    **LEDGER_WORDS,
    TroubleCode.NO_HOME: N_(
        "You have no home folder here in which a ledger could lie. Name one with --ledger FILE."
    ),
    TroubleCode.NOT_MOVED: N_(
        "What arrived in the table {table} is not what was there. Nothing was changed: the ledger "
        "is where it was."
    ),
    TroubleCode.NO_DUMP_PROGRAM: N_(
        "The server's own dump, pg_dump, is not installed here, so nothing was changed. On Debian: "
        "sudo apt install postgresql-client"
    ),
    TroubleCode.NO_SECRET_STORE: N_(
        "This desktop has no secret store that can be used. The password was not kept; a private "
        "file ~/.pgpass (0600) is read as well."
    ),
    TroubleCode.NOT_LEARNED: N_(
        "{name} is no file of what a workshop learned, or one of a newer version. Nothing was "
        "taken in."
    ),
    TroubleCode.NOT_A_KEY: N_(
        "This is no private key to sign with (Ed25519, PEM, without a password). Make one: "
        "plucky-ledger learned --new-key FILE"
    ),
    TroubleCode.SIGNATURE_DOES_NOT_FIT: N_(
        "{name} is not as it was signed: somebody changed it on the way, or it is damaged. Nothing "
        "was taken in. Ask for it again."
    ),
    TroubleCode.NOTHING_LEARNED: N_(
        "Nothing was decided about any program that others have too, so there is nothing to hand "
        "on."
    ),
    TroubleCode.NO_SUCH_WORKSHOP: N_("{name} has told nothing here."),
    TroubleCode.STEP_OF_ANOTHER: N_(
        "{who} has changed since what this step wrote: it cannot be undone. Nothing was changed."
    ),
    TroubleCode.JOB_HELD: N_(
        "{who} has been writing in this job since {since}. Here it can be looked at until they "
        "close it."
    ),
    TroubleCode.NO_SUCH_JOB: lambda trouble: say(
        "There is no job number {number} in this ledger.", number=str(trouble.facts["number"])
    ),
    TroubleCode.ROW_GONE: N_(
        "What was to be changed is no longer in the ledger: it may have been undone. Nothing was "
        "changed."
    ),
    # This PC.
    TroubleCode.BOOTS_OUT_OF_RANGE: N_("Arm it for 1 to {most} boots."),
    TroubleCode.ARMED_ALREADY: N_(
        "This PC is armed already, for job {label}. Disarm it first, or every job with "
        "plucky-ledger disarm --all."
    ),
    TroubleCode.CARE_CANNOT_HAND_ON: N_(
        "Recordings cannot be handed to {address} from here, and nothing was armed. What was tried "
        "said: {system} – After a boot nobody is asked for a password: it has to be in the file "
        "~/.pgpass of this user."
    ),
    TroubleCode.CARE_HANDS_ON_TOO_SLOWLY: N_(
        "Handing recordings to {address} was tried and ended after {seconds} seconds, without a "
        "reason. Nothing was armed. Try it once more when the server can be reached, or name a "
        "folder."
    ),
    TroubleCode.CARE_NEEDS_THE_PROGRAM: N_(
        "From a stick recordings can be handed to a folder, not to a ledger on a server. Nothing "
        "was armed. Name a folder, or install Plucky Ledger on this PC."
    ),
    TroubleCode.PATH_NOT_FIT: N_(
        "{path} has characters in it that cannot stand in what starts a program. Nothing was "
        "armed. Install Plucky Ledger in another folder."
    ),
    TroubleCode.INTERPRETER_OF_OTHERS: N_(
        "{path} would run as administrator, and other accounts can change it. Nothing was armed. "
        "Install Plucky Ledger with the system's own Python, or choose a level that needs no "
        "administrator."
    ),
    TroubleCode.NO_ADMINISTRATOR: N_(
        "This needs the administrator, and this PC cannot ask for the password here. Nothing was "
        "changed. Try it in a terminal, or choose a level that needs no administrator."
    ),
    TroubleCode.NOT_THE_ADMINISTRATOR: N_(
        "This needs the administrator, and no password was accepted. Nothing was changed. Try "
        "again, or choose a level that needs no administrator."
    ),
    TroubleCode.NOT_ARMED: N_(
        "{path} cannot be written: {system}. Nothing was armed. Choose another level, or ask the "
        "administrator."
    ),
    TroubleCode.NOTHING_STARTS_IT: N_(
        "This PC has no service manager that would start the recorder at the level {level}. "
        "Nothing was armed. Choose the level autostart on a PC with a desktop, or record by hand."
    ),
    TroubleCode.BOOT_NOT_RECORDED: N_(
        "This boot was to be recorded and was not: what was armed did not start (level {level}). "
        "It stays armed for the next boot. If that is not recorded either, disarm and arm another "
        "level."
    ),
    TroubleCode.NOT_RESTARTED: lambda trouble: say(
        "This PC was not restarted: {why}. What was armed stays armed. Restart it from its menu.",
        why=in_one_line(trouble.because),
    ),
    TroubleCode.TRACE_STAYS: N_("{path} cannot be removed: {system}. Remove it as administrator."),
    TroubleCode.VISIT_IS_NOT_PUT_BACK: N_(
        "There is nothing to put back on this line: it says how the PC came in."
    ),
    TroubleCode.PENCILLED_BEFORE_VISIT: N_(
        "Changes are pencilled from the last visit. Post them or rub them out first, then take "
        "the PC in again."
    ),
    TroubleCode.VISIT_HAS_BEGUN: N_("The PC has been taken in again already; record its boots."),
    TroubleCode.NIGHT_SHIFT_GOES_ON: N_(
        "A night shift for job {label} is running. Stop it first, or wait until it is over."
    ),
    TroubleCode.NIGHT_SHIFT_NOT_SWITCHED: N_(
        "What is the user's own could not be switched; everything is put back."
    ),
    TroubleCode.NIGHT_NOT_PUT_BACK: N_(
        "The night shift is stopped, but not everything could be put back ({names}). It is tried "
        "again at the next start. Or try plucky-ledger put-back --everything."
    ),
    TroubleCode.NO_NIGHT_SHIFT: lambda trouble: (
        say("A night shift cannot begin: {why}.", why=_reasons(trouble))
        if trouble.because
        else say("No night shift is running for this job.")
    ),
    TroubleCode.NOTHING_FOR_THE_NIGHT: N_(
        "No entry is left that could be switched off by itself: guarded entries and parts of the "
        "system are never switched in a night shift."
    ),
    TroubleCode.NO_TURNS: lambda trouble: say(
        "Boots cannot be taken in turns here: {why}.", why=_reasons(trouble)
    ),
    TroubleCode.PENCILLED_ALREADY: N_(
        "Other changes are pencilled. Post them or rub them out first."
    ),
    TroubleCode.NOTHING_OUTSIDE: N_("Every change found on the PC is in the book."),
    TroubleCode.NOTHING_TO_PUT_BACK: N_("Nothing is in force that could be put back."),
    TroubleCode.PUT_BACK_INSTEAD: N_(
        "This PC has been changed by that step, and undoing it in the book would leave the PC as "
        "it is. Put the posting back instead."
    ),
    TroubleCode.CANNOT_BE_SET: lambda trouble: say(
        "{name} cannot be set so here: “{state}”. Nothing was changed; choose another state.",
        name=_fact(trouble.facts["name"]),
        state=label(EntryState(str(trouble.facts["state"]))),
    ),
    TroubleCode.NOT_SWITCHED: N_(
        "{path} cannot be written: {system}. Everything is as it was before. Free some space or "
        "make it writable, and try again."
    ),
    TroubleCode.NOT_PUT_BACK: N_(
        "{path} cannot be written: {system}. Everything else is put back. Free some space or "
        "make it writable, and put back again."
    ),
    TroubleCode.USER_DID_NOT_ANSWER: N_(
        "What belongs to {name} could not be read or changed: the helper running as {name} did "
        "not answer. Nothing of theirs was changed as administrator. Try it as {name}."
    ),
    TroubleCode.USER_WITHOUT_HOME: N_(
        "{name} has no home folder on this PC, so nothing of theirs can be read or changed."
    ),
    TroubleCode.CHANGED_MEANWHILE: N_(
        "{path} was changed by something else at the same moment. Everything is as it was before; "
        "try again."
    ),
    TroubleCode.CHANGED_AGAIN: N_(
        "{name} was changed again by a later posting. Put that back first."
    ),
    TroubleCode.NOT_RUNNING: N_("{name} is not running on this PC now."),
    TroubleCode.NOT_YOURS_TO_STOP: N_(
        "{name} is run by another user. Start this program as administrator to stop it."
    ),
    TroubleCode.CARRIES_THE_SESSION: N_(
        "Stopping {name} would end the session on this PC. Nothing was stopped."
    ),
    TroubleCode.GUARDED_FROM_STOPPING: N_(
        "{name} is guarded: it protects the PC or keeps it working, and is not stopped as a trial."
    ),
    TroubleCode.MANAGER_SILENT: lambda trouble: say(
        "The service manager was asked and {why}. Nothing was changed; try again.",
        why=in_one_line(trouble.because),
    ),
    TroubleCode.NO_JOURNAL: N_("This PC has no journal. Record its boots instead."),
    TroubleCode.NO_BOOT_IN_JOURNAL: N_(
        "The journal holds no finished boot: it may be kept in memory only. Record its boots "
        "instead."
    ),
    TroubleCode.JOURNAL_NOT_FOR_USERS: N_(
        "The journal shows this user no finished boot. The administrator may read it: choose Read "
        "as administrator, or past-boots --administrator in a terminal."
    ),
}
"""Every code has its words here; a test holds it to that."""
