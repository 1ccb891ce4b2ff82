"""Completion in a shell: what is offered is inserted as one word, whatever characters are in it."""

import shlex
from typing import TYPE_CHECKING, Any

from click.shell_completion import (
    BashComplete,
    CompletionItem,
    ShellComplete,
    add_completion_class,
    get_completion_class,
)

if TYPE_CHECKING:
    Item = CompletionItem[Any]
else:
    Item = CompletionItem  # which takes no type before click 8.2


class QuotedBashComplete(BashComplete):
    """Bash inserts what it is given as it is; the other shells quote it themselves."""

    def format_completion(self, item: Item) -> str:
        """A line of the answer: kind and value, the value quoted where it has to be."""
        value = shlex.quote(item.value) if item.type == "plain" else item.value
        return f"{item.type},{value}"


add_completion_class(QuotedBashComplete)


def completion_class(shell: str) -> type[ShellComplete]:
    """What makes a shell complete."""
    kind = get_completion_class(shell)
    assert kind is not None
    return kind
