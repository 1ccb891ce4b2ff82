"""The window. It holds no arithmetic: it asks the use cases and paints what it gets."""

import builtins

_import = builtins.__import__

import PySide6.QtCore  # noqa: E402, F401 first of all, and only to take back what it does

# PySide6 has every module that is imported after it read again as source, to look for a way of
# writing Python that we do not use: a quarter of the time until the window is usable, and 28 MB.
builtins.__import__ = _import
