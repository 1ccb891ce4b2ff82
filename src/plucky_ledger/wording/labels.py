"""What codes are called: one word or a few for each."""

from collections.abc import Mapping
from enum import StrEnum

from plucky_ledger.core.book.comparability import Side
from plucky_ledger.core.book.verdict import Verdict
from plucky_ledger.core.boots.boot import How, PowerSource, StartKind
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.stages import StageKind
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.hints import HintKind, Source
from plucky_ledger.core.entries.sources import StartSource
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import ChangeKind
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.core.pc.facts import DriveKind
from plucky_ledger.core.replay.grades import Grade
from plucky_ledger.core.values.measures import Measure, Unit
from plucky_ledger.wording.language import ENGLISH, N_, current_language, say

DECISION_KEYS: Mapping[Decision, str] = {
    Decision.KEEP: "K",
    Decision.OFF: "O",
    Decision.LATER: "L",
    Decision.LOOK_UP: "?",
}
"""The key that decides so; it also stands for the decision where there is no room for words."""
LABELS: Mapping[type[StrEnum], Mapping[StrEnum, str]] = {
    Measure: {
        Measure.READY: N_("Ready"),
        Measure.SETTLED: N_("Settled"),
        Measure.SYSTEM_UP: N_("System up"),
        Measure.CPU_WORK: N_("CPU work"),
        Measure.DISK_READ: N_("Disk read"),
        Measure.MEMORY_HELD: N_("Memory held"),
        Measure.PROCESSES: N_("Processes"),
        Measure.LOAD_AT_REST: N_("Load at rest"),
    },
    Mark: {
        Mark.POWER_ON: N_("power on"),
        Mark.KERNEL_STARTED: N_("kernel started"),
        Mark.PASSPHRASE_ASKED: N_("passphrase asked"),
        Mark.PASSPHRASE_GIVEN: N_("passphrase given"),
        Mark.SYSTEM_UP: N_("system up"),
        Mark.SIGN_IN_SHOWN: N_("sign-in shown"),
        Mark.SIGN_IN_IDLE: N_("waited for a person"),
        Mark.SIGNED_IN: N_("signed in"),
        Mark.DESKTOP_SHOWN: N_("desktop shown"),
        Mark.READY: N_("ready"),
        Mark.SETTLED: N_("settled"),
    },
    How: {
        How.RECORDED: N_("recorded"),
        How.AT_REST: N_("read at rest"),
        How.STOPWATCH: N_("timed by hand"),
        How.TYPED: N_("typed in"),
        How.JOURNAL: N_("read from the log"),
    },
    StartKind: {
        StartKind.COLD: N_("cold start"),
        StartKind.RESTART: N_("restart"),
        StartKind.RESUME: N_("resume"),
        StartKind.UNKNOWN: N_("unknown"),
    },
    PowerSource: {
        PowerSource.MAINS: N_("mains"),
        PowerSource.BATTERY: N_("battery"),
        PowerSource.UNKNOWN: N_("unknown"),
    },
    StageKind: {
        StageKind.FIRMWARE: N_("firmware"),
        StageKind.LOADER: N_("loader"),
        StageKind.KERNEL: N_("kernel"),
        StageKind.INITRD: N_("initrd"),
        StageKind.SERVICES: N_("services"),
        StageKind.PASSPHRASE_WAIT: N_("passphrase wait"),
        StageKind.SIGN_IN_WAIT: N_("sign-in wait"),
        StageKind.SESSION: N_("session"),
        StageKind.SETTLING: N_("settling"),
        StageKind.UNKNOWN: N_("unknown"),
    },
    ChangeKind: {
        ChangeKind.STARTUP_ENTRY: N_("startup entry"),
        ChangeKind.PROGRAM_SETTING: N_("a program's own setting"),
        ChangeKind.SERVICE_START_MODE: N_("a service's start mode"),
        ChangeKind.BOOT_OPTION: N_("boot option"),
        ChangeKind.FAST_START: N_("fast-start hibernation"),
        ChangeKind.SWAP: N_("page file or swap"),
        ChangeKind.POWER_OR_EFFECTS: N_("power or effects setting"),
        ChangeKind.DRIVER: N_("driver"),
        ChangeKind.PROGRAM_ADDED: N_("new program"),
        ChangeKind.PROGRAM_REMOVED: N_("removed program"),
        ChangeKind.UPDATE: N_("update"),
        ChangeKind.DISK_SPACE: N_("freed disk space"),
        ChangeKind.DISK_CHECK: N_("disk check"),
        ChangeKind.CACHE: N_("cache clearing"),
        ChangeKind.MALWARE_SCAN: N_("malware scan"),
        ChangeKind.MEMORY: N_("more memory"),
        ChangeKind.SOLID_STATE_DRIVE: N_("solid-state drive"),
        ChangeKind.OTHER: N_("something else"),
    },
    EntryState: {
        EntryState.ON: N_("on"),
        EntryState.OFF: N_("switched off"),
        EntryState.LATER: N_("starts later"),
        EntryState.OFF_FOR_GOOD: N_("switched off for good"),
        EntryState.WHEN_NEEDED: N_("starts when needed"),
        EntryState.OFF_HERE: N_("off in this desktop"),
        EntryState.AS_DELIVERED: N_("vendor default"),
    },
    PostingState: {
        PostingState.PENCILLED: N_("pencilled"),
        PostingState.POSTED: N_("posted"),
        PostingState.IN_FORCE: N_("in force"),
        PostingState.STRUCK_OUT: N_("struck out"),
    },
    Verdict: {
        Verdict.SAVED: N_("saved"),
        Verdict.LOST: N_("lost"),
        Verdict.EVEN: N_("even"),
        Verdict.UNPROVEN: N_("unproven"),
    },
    Decision: {
        Decision.KEEP: N_("keep"),
        Decision.OFF: N_("switch off"),
        Decision.LATER: N_("start later"),
        Decision.LOOK_UP: N_("look up"),
    },
    Grade: {
        Grade.HEAVY: N_("heavy"),
        Grade.MODERATE: N_("moderate"),
        Grade.LIGHT: N_("light"),
        Grade.NEGLIGIBLE: N_("negligible"),
        Grade.NOT_KNOWN_YET: N_("not known yet"),
        Grade.UNGRADED: N_("ungraded"),
    },
    EntryKind: {
        EntryKind.SIGN_IN_PROGRAM: N_("sign-in program"),
        EntryKind.SYSTEM_SERVICE: N_("system service"),
        EntryKind.USER_SERVICE: N_("user service"),
        EntryKind.TIMER: N_("timer"),
        EntryKind.BOOT_LINE: N_("@reboot line"),
        EntryKind.SHELL_LINE: N_("line of a shell file"),
        EntryKind.DESKTOP_LINE: N_("line of a desktop’s file"),
        EntryKind.HOOK: N_("hook"),
        EntryKind.INIT_SCRIPT: N_("init script"),
        EntryKind.BUS_PROGRAM: N_("started through the bus"),
        EntryKind.MOUNT: N_("mount"),
        EntryKind.SESSION: N_("session"),
        EntryKind.SIGN_IN: N_("sign-in"),
        EntryKind.TYPED: N_("typed in"),
        EntryKind.UNKNOWN: N_("in an unknown way"),
    },
    StartSource: {
        StartSource.TABLES: N_("tables of timed jobs"),
        StartSource.HOOKS: N_("hooks, device rules, modules"),
        StartSource.INIT_SCRIPTS: N_("init scripts"),
        StartSource.SYSTEMS_SHELL_FILES: N_("shell files of the system"),
        StartSource.SYSTEMS_DESKTOP_FILES: N_("desktops’ files of the system"),
        StartSource.SYSTEM_BUS: N_("system bus"),
        StartSource.OWN_SHELL_FILES: N_("the person’s shell files"),
        StartSource.OWN_DESKTOP_FILES: N_("the person’s desktop files"),
        StartSource.SESSION_BUS: N_("the person’s session bus"),
        StartSource.UNKNOWN: N_("another source"),
    },
    HintKind: {
        HintKind.LEFT_BEHIND: N_("program missing"),
        HintKind.DUPLICATE: N_("duplicate"),
        HintKind.UPDATER: N_("only an updater"),
        HintKind.GUARDED: N_("guarded"),
    },
    Source: {
        Source.NAME: N_("its name"),
        Source.PROGRAM: N_("its program"),
        Source.PACKAGE: N_("its package"),
        Source.DESCRIPTION: N_("its package's description"),
    },
    DriveKind: {
        DriveKind.ROTATING: N_("rotating"),
        DriveKind.SOLID_STATE: N_("solid state"),
        DriveKind.UNKNOWN: N_("unknown kind"),
    },
    Side: {Side.BEFORE: N_("before"), Side.AFTER: N_("after")},
    Level: {
        Level.USER: N_("at sign-in, with the user's services"),
        Level.AUTOSTART: N_("at sign-in, as a sign-in program"),
        Level.SYSTEM: N_("early, with the system's services (administrator)"),
    },
}
"""Every member of these enumerations has its words here; a test holds it to that."""

EXPLANATIONS: Mapping[Measure, str] = {
    Measure.READY: N_("until the desktop answers"),
    Measure.SETTLED: N_("until CPU and disk stay calm"),
    Measure.SYSTEM_UP: N_("until its own start is finished"),
    Measure.CPU_WORK: N_("spent until settled"),
    Measure.DISK_READ: N_("read until settled"),
    Measure.MEMORY_HELD: N_("at rest"),
    Measure.PROCESSES: N_("running at rest"),
    Measure.LOAD_AT_REST: N_("of all CPU cores"),
}


def label(code: StrEnum) -> str:
    """What a code is called."""
    return say(LABELS[type(code)][code])


def labels(codes: str, kind: type[StrEnum]) -> str:
    """What several codes are called, parted by commas; they come parted by bars."""
    return ", ".join(label(kind(code)) for code in codes.split("|") if code)


def capital(text: str) -> str:
    """The text with a capital first letter, the rest as it is."""
    return text[:1].upper() + text[1:]


def within(text: str) -> str:
    """A label within a sentence: in English, what is no abbreviation begins small."""
    if current_language() != ENGLISH:
        return text
    return text if text[1:2].isupper() else text[:1].lower() + text[1:]


def explanation(measure: Measure) -> str:
    """What exactly a measure reads, in a few words."""
    return say(EXPLANATIONS[measure])


def unit_word(measure: Measure) -> str:
    """The unit as it is written where there is room."""
    return say("seconds") if measure.terms.unit is Unit.SECONDS else measure.terms.unit.value
