"""What stands in the way of a ledger, in words: its file, its server, and who has it."""

from collections.abc import Callable, Mapping

from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.wording.language import N_, say, say_n
from plucky_ledger.wording.safe import shown

LEDGER_WORDS: Mapping[TroubleCode, str | Callable[[Trouble], str]] = {
    TroubleCode.LEDGER_OUT_OF_REACH: N_(
        "{path} is out of reach: {system}. Nothing was changed. Choose a folder you may write to."
    ),
    TroubleCode.LEDGER_NOT_BEGUN: N_(
        "No ledger can be begun in {folder}: {system}. Choose a folder you may write to."
    ),
    TroubleCode.LEDGER_NOT_THERE: N_(
        "There is no ledger {path}. Name another file, or begin a new one there with --new."
    ),
    TroubleCode.LEDGER_FOREIGN: N_(
        "{path} is a database of some other program, not a ledger. It was left untouched. Choose "
        "another file."
    ),
    TroubleCode.LEDGER_FOREIGN_PART: N_(
        "{path} holds “{name}”, which no ledger of Plucky Ledger holds: another program added it. "
        "It can be looked at, and nothing is written in it. Export its jobs into a new ledger, or "
        "have it removed."
    ),
    TroubleCode.LEDGER_WITHOUT_LOCKS: N_(
        "The disk with {path} has no file locks, so another PC might be writing in it. It can be "
        "looked at, and nothing is written in it. Copy it to a disk of this PC."
    ),
    TroubleCode.LEDGER_CUT_SHORT_READ_ONLY: N_(
        "A save in {path} was interrupted, and it cannot be repaired where nothing may be "
        "written. Nothing was changed. Copy the ledger and its -journal file to a folder you may "
        "write to, and open it there."
    ),
    TroubleCode.LEDGER_NEWER: N_(
        "{path} was written by a newer Plucky Ledger. It was left untouched. Update this program "
        "to open it."
    ),
    TroubleCode.LEDGER_OLD_READ_ONLY: N_(
        "{path} is of an older version and cannot be brought up to date while it may not be "
        "written to. It was left untouched."
    ),
    TroubleCode.LEDGER_KIND_UNKNOWN: N_(
        "{address} names a kind of database in which no ledger is kept. Give the path of a file."
    ),
    TroubleCode.LEDGER_DISK_FULL: N_(
        "The disk with {path} is full. The last step was not saved; everything before it is kept. "
        "Free some space and do it again."
    ),
    TroubleCode.LEDGER_READ_ONLY: N_(
        "{path} may not be written to. Nothing was changed; it can be looked at. Open it from a "
        "folder you may write to, or ask for the right to."
    ),
    TroubleCode.LEDGER_BUSY: N_(
        "{path} is busy in another window or program. The step was not saved; try it again in a "
        "moment."
    ),
    TroubleCode.LEDGER_DAMAGED: N_(
        "{path} is not a ledger, or it is damaged. It was left untouched. Choose another file, or "
        "take the newest backup beside it."
    ),
    TroubleCode.LEDGER_NOT_OPENED: N_(
        "{path} cannot be opened or read. Nothing was changed. Check that its folder exists and "
        "the disk is in order."
    ),
    TroubleCode.LEDGER_SALVAGED: lambda trouble: say(
        "{path} is damaged. What can be read of it is shown and cannot be written in; {lost}. Save "
        "a repaired copy of it from the Job menu, or with plucky-ledger repair.",
        path=shown(str(trouble.facts["path"])),
        lost=say_n(
            "{n} damaged row is lost", "{n} damaged rows are lost", int(str(trouble.facts["rows"]))
        ),
    ),
    TroubleCode.LEDGER_CLOSED: N_(
        "{path} has been closed. The step was not saved; open the ledger and do it again."
    ),
    TroubleCode.LEDGER_REPLACED: N_(
        "{path} is no longer the file that was opened: it was moved, removed or replaced. Nothing "
        "was written. Put it back, or open the ledger again."
    ),
    TroubleCode.LEDGER_OF_ANOTHER: N_(
        "{path} belongs to {owner}; as administrator it is not opened, and nothing was changed. "
        "Open it as {owner}: you are asked for the administrator's password when it is needed."
    ),
    TroubleCode.LEDGER_PASSWORD_SHOWN: N_(
        "There is a password in the address {address}, where others can read it. Leave it out: it "
        "is asked for, or taken from the desktop's secret store."
    ),
    TroubleCode.LEDGER_PASSWORD_WANTED: N_("{path} wants a password."),
    TroubleCode.LEDGER_SERVER_GONE: N_(
        "The server of {path} cannot be reached: {system}. What was saved is kept there. Try again "
        "when it is back."
    ),
    TroubleCode.LEDGER_SERVER_REFUSED: N_(
        "The server does not let you into {path}: {system}. Check the address, the name and the "
        "password."
    ),
    TroubleCode.LEDGER_SERVER_NOT_PROVEN: N_(
        "What answers for {path} does not prove that it is that server: {system}. Nothing was sent "
        "to it. Ask whoever runs the server for its certificate, and check the address: "
        "sslrootcert=FILE names the certificate in it."
    ),
    TroubleCode.LEDGER_NOT_ALLOWED: N_(
        "You have no right to do this in {path}: {system}. Nothing was changed. Whoever set the "
        "ledger up can grant it."
    ),
    TroubleCode.LEDGER_NOT_TAKEN: N_(
        "The database did not take what was to be written: {system}. Nothing was changed."
    ),
    TroubleCode.LEDGER_NOT_SET_UP: N_(
        "There is no ledger in {path} yet. Set it up once: plucky-ledger workshop create {path}"
    ),
    TroubleCode.LEDGER_IS_SET_UP: N_("There is a ledger in {path} already. It was left as it is."),
    TroubleCode.LEDGER_OLD_ON_SERVER: N_(
        "{path} is of an older version. Whoever set it up brings it up to date: plucky-ledger "
        "workshop upgrade {path}"
    ),
    TroubleCode.LEDGER_BEING_UPGRADED: N_(
        "This ledger is being brought up to date just now. Try again in a minute."
    ),
    TroubleCode.LEDGER_FOR_READERS: N_(
        "You may look at this ledger, not write in it. Whoever set it up can grant that."
    ),
    TroubleCode.LEDGER_IS_OPEN: N_(
        "Others have the ledger open: {who}. Nothing was changed. Try again when they have closed "
        "it."
    ),
    TroubleCode.LEDGER_NOT_EMPTY: N_(
        "There are jobs in {path} already. A ledger is moved into an empty one; nothing was "
        "changed. To bring jobs together, export and import them."
    ),
    TroubleCode.LEDGER_ONLY_A_FILE: N_(
        "This works on a ledger in a file; {path} is on a server. Nothing was done."
    ),
    TroubleCode.LEDGER_IN_OTHER_WINDOW: N_(
        "This ledger is open in another window. Here it can be looked at, not written in."
    ),
}
