"""The five lenses of the right page."""
