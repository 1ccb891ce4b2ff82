"""The six lenses of the right page."""
