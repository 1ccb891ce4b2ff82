"""Names in the order of an alphabet."""

import unicodedata


def in_alphabet(name: str) -> tuple[str, str]:
    """What to sort a name by: "Ärmel" stands beside "Arm", capitals beside small letters.

    Letters count without their marks, as in German and French dictionaries (DIN 5007-1); names
    that differ in nothing else come in the order of their characters.
    """
    apart = unicodedata.normalize("NFKD", name)
    plain = "".join(letter for letter in apart if not unicodedata.combining(letter))
    return plain.casefold(), name
