"""The tables of a ledger, in a module each so that only those needed are loaded.

Texts that hold JSON say so; instants are ISO 8601 in UTC.
"""
