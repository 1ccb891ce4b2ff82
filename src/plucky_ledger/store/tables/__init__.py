"""The tables of a ledger, by subject: to read some is not to wait for all of them.

Texts that hold JSON say so; instants are ISO 8601 in UTC.
"""
