"""The command: the window when nothing is said, otherwise one of the commands."""

import os
import subprocess
import sys
from collections.abc import Sequence
from importlib import import_module
from pathlib import Path
from typing import Any

import click

from plucky_ledger import __version__
from plucky_ledger.cli.common import (
    demo_path,
    ledger_address,
    new_option,
    preferred_language,
    refuse_missing,
    told_plainly,
)
from plucky_ledger.cli.groups import GROUPS
from plucky_ledger.cli.output import bear_any_terminal
from plucky_ledger.wording.language import ENGLISH, current_language, say, use_the_users

LOG_LEVELS = ("warning", "info", "debug")
SHELLS = ("bash", "zsh", "fish")
LEDGER = ".ledger"
COMPLETES = "_PLUCKY_LEDGER_COMPLETE"
"""Variable by which a shell asks for completions."""
if COMPLETES in os.environ:
    import_module("plucky_ledger.cli.completion")
MODULES = {
    "plucky_ledger.cli.jobs": ("jobs", "take-in", "visit", "noticed", "book"),
    "plucky_ledger.cli.boots": (
        "import",
        "past-boots",
        "arm",
        "disarm",
        "pick-up",
        "set-aside",
        "bring-back",
    ),
    "plucky_ledger.cli.book": ("pencil", "rub-out", "undo", "redo", "compare"),
    "plucky_ledger.cli.switching": ("post", "put-back", "changes", "stop-now"),
    "plucky_ledger.cli.turns": ("turns", "effects"),
    "plucky_ledger.cli.night": ("night-shift",),
    "plucky_ledger.cli.why": ("why", "trend", "room"),
    "plucky_ledger.cli.entries": ("entries", "decide", "load"),
    "plucky_ledger.cli.statement": ("statement", "demo-ledger", "demo"),
    "plucky_ledger.cli.repair": ("repair",),
    "plucky_ledger.cli.stick": ("stick",),
    "plucky_ledger.cli.job_file": ("export",),
    "plucky_ledger.cli.figures_table": ("import-table",),
    "plucky_ledger.cli.card": ("card",),
    "plucky_ledger.cli.care": ("care",),
    "plucky_ledger.cli.learned": ("learned",),
    "plucky_ledger.cli.workshop": ("workshop", "move"),
}
"""Where the commands are, by their names: only the module of the one that is wanted is loaded."""


class Commands(click.Group):
    """Loads a command when it is asked for."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """All names, also those not loaded."""
        named = [name for names in MODULES.values() for name in names]
        return sorted({*super().list_commands(ctx), *named})

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """The command of a name; None where there is none."""
        for module, names in MODULES.items():
            if cmd_name in names:
                commands = vars(import_module(module)).values()
                subcommand = next(
                    command
                    for command in commands
                    if isinstance(command, click.Command) and command.name == cmd_name
                )
                _take_plain_text(subcommand)
                return _translated(subcommand)
        command = super().get_command(ctx, cmd_name)
        return command and _translated(command)

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """Every command with a whole sentence, in the order of the work."""
        for heading, names in GROUPS.items():
            found = [(name, self.get_command(ctx, name)) for name in names]
            with formatter.section(say(heading)):
                formatter.write_dl(
                    [(name, first_sentence(command)) for name, command in found if command]
                )

    def main(self, *args: Any, **settings: Any) -> Any:  # noqa: ANN401 as click has it
        """Run the command that the arguments name, in the user's language."""
        use_the_users(preferred_language())
        if current_language() == ENGLISH:
            return super().main(*args, **settings)
        from plucky_ledger.cli.translated import packages_translated

        with packages_translated():
            _translated(self)
            return super().main(*args, **settings)

    def invoke(self, ctx: click.Context) -> object:
        """Run the command; a package that it lacks is told in one sentence."""
        with told_plainly():
            return super().invoke(ctx)


def first_sentence(command: click.Command) -> str:
    """What a command does, by the first sentence of its help."""
    text = " ".join((command.help or "").split())
    return text.partition(". ")[0].removesuffix(".")


class PlainText(click.types.StringParamType):
    """Text that can be kept: bytes that are none of the terminal's characters are replaced."""

    def convert(
        self, value: object, param: click.Parameter | None, ctx: click.Context | None
    ) -> str:
        """The text."""
        text = str(super().convert(value, param, ctx))
        return text.encode("utf-8", "replace").decode()


def _translated(command: click.Command) -> click.Command:
    if current_language() == ENGLISH:
        return command
    from plucky_ledger.cli.translated import translated

    return translated(command)


def _take_plain_text(command: click.Command) -> None:
    for parameter in command.params:
        if parameter.type is click.STRING and parameter.name != "ledger":
            parameter.type = PlainText()


@click.group(
    cls=Commands,
    invoke_without_command=True,
    context_settings={"help_option_names": ["-h", "--help"]},
)
@click.version_option(__version__)
@click.option("--ledger", metavar="ADDRESS", help="The ledger to open: a file, or postgresql://….")
@click.option("--demo", "with_demo", is_flag=True, help="Open the demo job instead.")
@click.option("--log-level", type=click.Choice(LOG_LEVELS), help="How much goes into the log.")
@new_option
@click.pass_context
def main(
    context: click.Context, ledger: str | None, with_demo: bool, log_level: str | None, new: bool
) -> None:
    """Keep the account of what a PC's startup costs. Without a command, the window opens."""
    bear_any_terminal()
    if log_level is not None:
        from plucky_ledger.usecases.jobs.logs import use_level

        use_level(log_level)
    if context.invoked_subcommand is not None:
        if ledger or with_demo:
            with told_plainly():
                wanted = ledger or str(demo_path())
            context.default_map = {context.invoked_subcommand: {"ledger": wanted}}
        return
    with told_plainly():
        address = ledger_address(ledger)
        if ledger is None:
            address = ledger_address(str(demo_path())) if with_demo else address
        elif not with_demo and not new:
            refuse_missing(address)
        if log_level is None:
            from plucky_ledger.usecases.jobs.logs import use_level
            from plucky_ledger.usecases.jobs.preferences import read_preferences

            use_level(read_preferences().log_level)
        sys.exit(context.obj(address, with_demo))


@main.command("open")
@click.argument("files", nargs=-1)
@click.pass_context
def open_files(context: click.Context, files: tuple[str, ...]) -> None:
    """Open FILES in windows: ledgers, also on servers; recordings and jobs in the workshop's."""
    named = [name for name in files if name.endswith(LEDGER) or "://" in name]
    recordings = tuple(Path(name) for name in files if name not in named)
    with told_plainly():
        ledgers = list(map(ledger_address, named))
        for address in ledgers:
            refuse_missing(address)
        for other in ledgers[1:]:  # each has a window of its own
            subprocess.Popen([sys.executable, "-m", "plucky_ledger", "open", other.text])
        first = ledgers[0] if ledgers else ledger_address(None)
        sys.exit(context.obj(first, False, recordings))


class _Record(click.Command):
    """The recorder reads its own options, so that it starts without this package: they are asked
    of it where a shell completes them.
    """

    def shell_complete(self, ctx: click.Context, incomplete: str) -> list[Any]:
        """Its options, those not given yet."""
        from click.shell_completion import CompletionItem

        from plucky_ledger.cli.record import options

        given = set(ctx.params.get("arguments") or ())
        wanted = ((name, text) for name, text in options(say) if name not in given)
        return [CompletionItem(n, help=text) for n, text in wanted if n.startswith(incomplete)]


@main.command(
    cls=_Record,
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
    from plucky_ledger.cli.completion import completion_class

    kind = completion_class(shell)
    maker = kind(main, {}, "plucky-ledger", COMPLETES)
    click.echo(maker.source())
