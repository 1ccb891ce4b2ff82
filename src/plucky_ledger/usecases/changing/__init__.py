"""Changing a PC: decisions, postings, switching, putting back, stopping."""
