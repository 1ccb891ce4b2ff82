"""The ledger file: one SQLite database per workshop."""
