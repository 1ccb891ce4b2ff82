"""Looking a program up at an address of the workshop's choice."""

import pytest

from plucky_ledger.store.workshop import write_setting
from plucky_ledger.usecases.reading.search import (
    ADDRESS,
    address_for,
    search_address,
    set_search_address,
)
from tests.helpers.trouble import told


@pytest.mark.parametrize(
    "address",
    [
        "http://example.org/?q={name}",
        "https://example.org/",
        "https:///{name}",
        "https://{name}/",
        "https://example.org/{name}/{name}",
        "file:///etc/{name}",
        "https://example.org/\n{name}",
        "javascript:{name}",
        "https://[::1/{name}",
    ],
)
def test_a_search_address_is_checked_when_it_is_read_as_well(ledger, address):
    """A ledger may come from anywhere."""
    set_search_address(ledger, "https://example.org/?q={name}")
    assert address_for(ledger, "a b&c") == "https://example.org/?q=a%20b%26c"
    with ledger.session() as session:
        write_setting(session, ADDRESS, address)
    assert search_address(ledger) == ""
    with told("address"):
        address_for(ledger, "horn")
    with told("address"):
        set_search_address(ledger, address)
