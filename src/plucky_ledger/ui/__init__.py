"""The window. It holds no arithmetic: it asks the use cases and paints what it gets."""
