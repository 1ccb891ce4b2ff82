"""The left page: the book."""
