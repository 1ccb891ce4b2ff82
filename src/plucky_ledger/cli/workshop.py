"""Commands for a ledger that a workshop shares on a server."""

import sys
from pathlib import Path

import click

from plucky_ledger.cli.common import ledger_address, told_plainly, with_secret
from plucky_ledger.cli.output import passing_line, tell
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.wording.language import say, say_n

address_argument = click.argument("address")


@click.group()
def workshop() -> None:
    """Set up a ledger on a server (postgresql://…) for many benches."""


@workshop.command("create")
@address_argument
def create_ledger(address: str) -> None:
    """Make the ledger in the empty database ADDRESS. Whoever does it owns it."""
    from plucky_ledger.usecases.jobs.shared_ledger import create

    with told_plainly():
        where = ledger_address(address)
        groups = with_secret(where, lambda: create(where))
    tell(
        say(
            "The ledger is set up. Benches belong to the group {bench}, readers to {reader}. Let "
            "somebody in: plucky-ledger workshop add {address} NAME",
            bench=groups.bench,
            reader=groups.reader,
            address=where.text,
        )
    )


@workshop.command("add")
@address_argument
@click.argument("name")
@click.option("--reader", "reads_only", is_flag=True, help="To look at it only.")
def add_user_of(address: str, name: str, reads_only: bool) -> None:
    """Let NAME in as a bench; the password is asked for, or read from the first line of what is
    piped in.
    """
    from plucky_ledger.usecases.jobs.shared_ledger import add_user

    with told_plainly():
        where = ledger_address(address)
        password = _new_password(name)
        with_secret(where, lambda: add_user(where, name, password, reads_only=reads_only))
    tell(say("{name} is let in.", name=name))


@workshop.command("password")
@address_argument
def keep_password(address: str) -> None:
    """Keep the password for ADDRESS in the desktop's secret store."""
    from plucky_ledger.usecases.jobs.shared_ledger import keep_secret

    with told_plainly():
        where = ledger_address(address)
        if not keep_secret(where, _typed(say("Password"))):
            raise Refused(TroubleCode.NO_SECRET_STORE)
    tell(say("The password is in the desktop's secret store."))


@workshop.command("upgrade")
@address_argument
@click.option(
    "--dump",
    type=click.Path(path_type=Path),
    default=Path("workshop-before-upgrade.dump"),
    show_default=True,
    help="File into which the whole ledger is written first.",
)
def upgrade_ledger(address: str, dump: Path) -> None:
    """Bring the ledger at ADDRESS up to date, once all benches have closed it."""
    from plucky_ledger.usecases.jobs.shared_ledger import upgrade

    with told_plainly(), passing_line() as show:

        def waiting(who: tuple[str, ...]) -> bool:
            show(say("Waiting for: {names}", names=", ".join(who)))
            return True

        where = ledger_address(address)
        changed = with_secret(where, lambda: upgrade(where, dump, waiting))
    if changed:
        tell(say("The ledger is up to date. What it was before is in {path}.", path=str(dump)))
    else:
        tell(say("The ledger is up to date."))


@workshop.command("dump")
@address_argument
@click.argument("file", type=click.Path(path_type=Path))
def dump_ledger(address: str, file: Path) -> None:
    """Write the whole ledger at ADDRESS into FILE, for pg_restore."""
    from plucky_ledger.usecases.jobs.shared_ledger import save_dump

    with told_plainly():
        where = ledger_address(address)
        with_secret(where, lambda: save_dump(where, file))
    tell(say("The ledger is in {path}.", path=str(file)))


@click.command("move")
@click.argument("source", metavar="FROM")
@click.argument("target", metavar="TO")
def move_ledger(source: str, target: str) -> None:
    """Copy the whole ledger FROM into the empty one TO, and compare them row by row. Each is a file
    or postgresql://….
    """
    from plucky_ledger.usecases.jobs.shared_ledger import move

    with told_plainly(), passing_line() as show:

        def report(done: int, whole: int) -> None:
            show(say("{done} of {whole} rows", done=done, whole=whole))

        there, here = ledger_address(source), ledger_address(target)
        rows = with_secret(there, lambda: with_secret(here, lambda: move(there, here, report)))
    tell(
        say_n(
            "{n} row is in {path}, and was compared. {source} is as it was.",
            "{n} rows are in {path}, and were compared. {source} is as it was.",
            rows,
            path=here.text,
            source=there.text,
        )
    )


def _new_password(name: str) -> str:
    return _typed(say("Password for {name}", name=name), again=True)


def _typed(words: str, *, again: bool = False) -> str:
    """A password from whoever sits there, or from a pipe."""
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\n")
    return str(click.prompt(words, hide_input=True, confirmation_prompt=again))
