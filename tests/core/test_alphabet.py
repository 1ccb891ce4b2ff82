"""Names in the order of an alphabet."""

from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.values.alphabet import in_alphabet


def test_marks_and_capitals_do_not_part_a_letter():
    names = [
        "Zebra",
        "Äpfel",
        "Apfel",
        "apfel",
        "Straße",
        "Strasse",
        "Öl",
        "Ol",
        "Éclair",
        "Eclair",
    ]
    assert sorted(names, key=in_alphabet) == [
        "Apfel",
        "apfel",
        "Äpfel",
        "Eclair",
        "Éclair",
        "Ol",
        "Öl",
        "Strasse",
        "Straße",
        "Zebra",
    ]


@given(st.lists(st.text()))
def test_the_order_is_the_same_however_names_come(names):
    backwards = names[::-1]
    assert sorted(backwards, key=in_alphabet) == sorted(names, key=in_alphabet)
