"""The commands' help, and what the packages that read arguments say, in the user's language."""

import gettext
import os
from collections.abc import Iterator
from contextlib import contextmanager
from inspect import cleandoc

import click

from plucky_ledger.wording.language import (
    CATALOGUES,
    DOMAIN,
    ENGLISH,
    N_,
    current_language,
    say,
)


def _one_or_many(one: str, many: str) -> tuple[str, str]:
    """Marks a message about a number of things to be collected."""
    return one, many


PACKAGES_SAY = (
    _one_or_many("Did you mean {possibility}?", "(Did you mean one of: {possibilities}?)"),
    _one_or_many(
        "Got unexpected extra argument ({args})", "Got unexpected extra arguments ({args})"
    ),
    N_("Usage:"),
    N_("Options"),
    N_("Commands"),
    N_("{usage_title}: {message}"),
    N_("Show this message and exit."),
    N_("Show the version and exit."),
    N_("%(prog)s, version %(version)s"),
    N_("[default: {default}]"),
    N_("default: {default}"),
    N_("required"),
    N_("Error: {message}"),
    N_("Try '{command} {option}' for help."),
    N_("Missing command."),
    N_("No such command {name!r}."),
    N_("No such option {name!r}."),
    N_("No such option: {name}"),  # before click 8.4
    N_("Missing argument"),
    N_("Missing option"),
    N_("Invalid value: {message}"),
    N_("Invalid value for {param_hint}: {message}"),
    N_("{value!r} is not a valid {number_type}."),
    N_("{value!r} is not one of {choices}."),
    N_("{value} is not in the range {range}."),
    N_("Option {name!r} requires an argument."),
    N_("Option {name!r} does not take a value."),
    N_("Aborted!"),
    N_("usage: "),
    N_("options"),
    N_("positional arguments"),
    N_("show this help message and exit"),
    N_("unrecognized arguments: %s"),
    N_("expected one argument"),
    N_("argument %(argument_name)s: %(message)s"),
    N_("%(prog)s: error: %(message)s\n"),
)
"""What click and argparse say of themselves; they look it up under the same words."""


@contextmanager
def packages_translated() -> Iterator[None]:
    """What the packages say is looked up in our catalogue, as long as this lasts."""
    language = current_language()
    if language == ENGLISH:
        yield
        return
    wanted, domain = os.environ.get("LANGUAGE"), gettext.textdomain()
    os.environ["LANGUAGE"] = language
    gettext.bindtextdomain(DOMAIN, str(CATALOGUES))
    gettext.textdomain(DOMAIN)
    try:
        yield
    finally:
        gettext.textdomain(domain)
        if wanted is None:
            del os.environ["LANGUAGE"]
        else:
            os.environ["LANGUAGE"] = wanted


def translated(command: click.Command) -> click.Command:
    """A command whose help is in the language in use, with those that belong to it."""
    if current_language() != ENGLISH:
        if command.help:
            command.help = say(cleandoc(command.help))
        for parameter in command.params:
            if isinstance(parameter, click.Option) and parameter.help:
                parameter.help = say(parameter.help)
        if isinstance(command, click.Group):
            for inner in command.commands.values():
                translated(inner)
    return command
