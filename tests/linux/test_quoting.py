"""Words come back from what starts a program as they were put in, by the rules of each format."""

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from plucky_ledger.linux.quoting import CannotBeQuoted, exec_words, unit_words

words = st.text(st.characters(exclude_categories=["Cc", "Cs"]), min_size=1)
NASTY = "/home/a b/%h\"x'`id`$HOME\\n/100%/$$;#=[Unit]"


def read(line, specials):
    """Quoted words of a line, a backslash standing for the character after it."""
    out, word, quoted = [], "", False
    chars = iter(line)
    for char in chars:
        if char == "\\":
            word += next(chars)
        elif char == '"':
            if quoted:
                out.append(word)
            word, quoted = "", not quoted
        elif quoted:
            assert char not in specials
            word += char
        else:
            assert char == " "
    return out


@given(program=words, argument=words)
@example(program=NASTY, argument=NASTY)
def test_a_unit_file_gives_them_back(program, argument):
    line = unit_words(program, argument)
    assert "\n" not in line
    # Specifiers first, then quotes, then variables in arguments only: systemd.service(5).
    plain, given_back = read(line, "")
    assert plain.replace("%%", "%") == program
    assert given_back.replace("%%", "%").replace("$$", "$") == argument
    assert "$" not in given_back.replace("$$", "")
    assert "%" not in plain.replace("%%", "")


@given(words=st.lists(words, min_size=1, max_size=4))
@example(words=[NASTY, NASTY])
def test_a_desktop_entry_gives_them_back(words):
    value = exec_words(*words).replace("\\\\", "\\")  # the value of a key, unescaped
    assert [word.replace("%%", "%") for word in read(value, "`$")] == words


@pytest.mark.parametrize("word", ["a\nb", "a\0", "\x1b[2J", "\udcff"])
def test_what_no_quoting_makes_fit_is_refused(word):
    for quoted in (unit_words, exec_words):
        with pytest.raises(CannotBeQuoted):
            quoted(word)
