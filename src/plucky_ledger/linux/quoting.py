"""Writing a word into the files that start programs, each by the rules of its format.

Unit files by systemd.service(5) and systemd.syntax(7); desktop entries by the Desktop Entry
Specification 1.5, "The Exec key" and "Possible value types".
"""

_IN_UNIT = str.maketrans({"\\": "\\\\", '"': '\\"', "%": "%%"})
_IN_EXEC = str.maketrans({char: f"\\{char}" for char in '\\"`$'} | {"%": "%%"})


class CannotBeQuoted(ValueError):
    """The word holds a character that no quoting makes fit."""


def unit_words(program: str, *arguments: str) -> str:
    """A command line for ``ExecStart=``. Raises CannotBeQuoted.

    A dollar is doubled in arguments; in the program itself it stands for itself.
    """
    words = [_fit(program).translate(_IN_UNIT)]
    words += [_fit(word).translate(_IN_UNIT).replace("$", "$$") for word in arguments]
    return " ".join(f'"{word}"' for word in words)


def exec_words(*words: str) -> str:
    """A command line for ``Exec=``. Raises CannotBeQuoted.

    Each word is quoted, and a backslash doubled once more for the value of a key.
    """
    quoted = " ".join(f'"{_fit(word).translate(_IN_EXEC)}"' for word in words)
    return quoted.replace("\\", "\\\\")


def _fit(word: str) -> str:
    try:
        word.encode()
    except UnicodeEncodeError as error:
        raise CannotBeQuoted(ascii(word)) from error
    if any(ord(char) < 0x20 or ord(char) == 0x7F for char in word):
        raise CannotBeQuoted(ascii(word))
    return word
