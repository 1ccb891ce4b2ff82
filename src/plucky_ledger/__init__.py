"""Plucky Ledger keeps the account of what a PC's startup costs."""

__version__ = "0.1.0"
