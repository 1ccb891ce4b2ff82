"""Codes and facts as sentences: labels, plurals, dates and numbers, by language."""
