"""The window. It holds no arithmetic: it asks the use cases and paints what it gets."""

import PySide6.QtCore  # noqa: F401 first of all: it brings the module below
from shibokensupport import feature

# PySide6 reads every module that is imported after it again as source, to see whether it may have
# switched on a way of writing Python that we do not use: a quarter of the time until the window is
# usable, and 28 MB. It is told that none did.
feature._mod_uses_pyside = lambda _module: False
