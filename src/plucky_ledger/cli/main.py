"""The command: the window when nothing is said, otherwise one of the commands."""

import sys
from collections.abc import Sequence

import click

from plucky_ledger import __version__
from plucky_ledger.cli.book import compare, pencil, post, put_back, redo, rub_out, undo
from plucky_ledger.cli.boots import (
    arm,
    bring_back,
    disarm,
    import_files,
    past_boots,
    pick_up_armed,
    set_aside,
)
from plucky_ledger.cli.common import ledger_path, told_plainly
from plucky_ledger.cli.entries import decide_entry, entries, load
from plucky_ledger.cli.jobs import list_jobs, show_job, take_in_pc
from plucky_ledger.cli.statement import demo_ledger, statement

SHELLS = ("bash", "zsh", "fish")


@click.group(invoke_without_command=True)
@click.version_option(__version__)
@click.option("--ledger", metavar="FILE", help="The ledger to open.")
@click.option("--demo", "with_demo", is_flag=True, help="Open the demo job instead.")
@click.pass_context
def main(context: click.Context, ledger: str | None, with_demo: bool) -> None:
    """Keep the account of what a PC's startup costs. Without a command, the window opens."""
    if context.invoked_subcommand is not None:
        return
    with told_plainly():
        path = ledger_path(ledger)
        if with_demo and ledger is None:
            path = path.with_name("demo.ledger")
        sys.exit(context.obj(path, with_demo))


@main.command(
    context_settings={"ignore_unknown_options": True, "help_option_names": []},
    add_help_option=False,
)
@click.argument("arguments", nargs=-1, type=click.UNPROCESSED)
def record(arguments: Sequence[str]) -> None:
    """Record this PC without a screen: see plucky-ledger record --help."""
    from plucky_ledger.cli.record import main as record_main

    sys.exit(record_main(arguments))


@main.command()
@click.argument("shell", type=click.Choice(SHELLS))
def completion(shell: str) -> None:
    """Print what makes SHELL complete commands and labels; put it into its start-up file."""
    from click.shell_completion import get_completion_class

    kind = get_completion_class(shell)
    assert kind is not None
    maker = kind(main, {}, "plucky-ledger", "_PLUCKY_LEDGER_COMPLETE")
    click.echo(maker.source())


for _command in (
    list_jobs, take_in_pc, show_job, import_files, past_boots, arm, disarm, pick_up_armed,
    set_aside, bring_back, pencil, rub_out, post, put_back, undo, redo, compare, entries,
    decide_entry, load, statement, demo_ledger,
):  # fmt: skip
    main.add_command(_command)
