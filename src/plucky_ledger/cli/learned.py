"""What was learned of programs: listed, handed on, taken in."""

from pathlib import Path

import click

from plucky_ledger.cli.answers import answer_json
from plucky_ledger.cli.common import json_option, ledger_option, opened, told_plainly
from plucky_ledger.cli.output import Paper, tell
from plucky_ledger.wording.language import say


@click.command()
@click.option("--out", type=click.Path(path_type=Path), help="Hand it on: write it into this file.")
@click.option(
    "--sign", "key", type=click.Path(path_type=Path), help="With --out: sign it with this key."
)
@click.option("--take", type=click.Path(path_type=Path), help="Take in another workshop's file.")
@click.option("--forget", metavar="NAME", help="Forget what the workshop NAME told.")
@click.option("--new-key", type=click.Path(path_type=Path), help="Make a key to sign with.")
@ledger_option
@json_option
def learned(
    out: Path | None,
    key: Path | None,
    take: Path | None,
    forget: str | None,
    new_key: Path | None,
    ledger: str | None,
    as_json: bool,
) -> None:
    """List what this workshop learned of programs over all its PCs, and what others told."""
    from plucky_ledger.usecases.reading.learned import (
        forget_learned,
        hand_on,
        learned_here,
        make_key,
        others,
        take_in_learned,
    )
    from plucky_ledger.wording.learned import cells, handed_on, headings, taken_in, workshop

    if key is not None and out is None:
        raise click.UsageError(say("--sign goes with --out."))
    if new_key is not None:
        with told_plainly():
            make_key(new_key)
        tell(say("The key is in {path}. Keep it to yourself.", path=str(new_key)))
        return
    with opened(ledger) as book:
        if out is not None:
            tell(handed_on(hand_on(book, out, key), str(out)))
            return
        if take is not None:
            tell(taken_in(take_in_learned(book, take)))
            return
        if forget is not None:
            forget_learned(book, forget)
            tell(say("What {name} told is forgotten.", name=forget))
            return
        here, told = learned_here(book), others(book)
    if as_json:
        answer_json("learned", {"here": here, "others": told})
        return
    paper = Paper()
    paper.table(headings(), [cells(program) for program in here])
    for file in told:
        paper.write(workshop(file))
        paper.table(headings(), [cells(program) for program in file.programs])
