"""The password of a server's ledger: from the desktop's secret store, or asked for; never kept in a
ledger, a log or an address.

Where neither has one, the database's own private password file is looked at by its driver
(PostgreSQL, "The Password File").
"""

import logging

from plucky_ledger.store.address import Address

SERVICE = "plucky-ledger"
log = logging.getLogger(__name__)
_asked: dict[str, str] = {}
"""What was typed in since this program was started, by address."""


def secret_of(address: Address) -> str | None:
    """The password for an address; None where none is known here."""
    if address.text in _asked:
        return _asked[address.text]
    try:
        import keyring
        from keyring.errors import KeyringError
    except ImportError:
        return None
    try:
        return keyring.get_password(SERVICE, address.text)
    except (KeyringError, RuntimeError) as error:
        log.debug("the secret store has nothing: %s", type(error).__name__)
        return None


def use_secret(address: Address, secret: str) -> None:
    """Use this password until the program ends."""
    _asked[address.text] = secret


def keep_secret(address: Address, secret: str) -> bool:
    """Keep a password in the desktop's secret store; False where there is none."""
    try:
        import keyring
        from keyring.errors import KeyringError
    except ImportError:
        return False
    try:
        keyring.set_password(SERVICE, address.text, secret)
    except (KeyringError, RuntimeError) as error:
        log.info("the secret store keeps nothing: %s", type(error).__name__)
        return False
    return True
