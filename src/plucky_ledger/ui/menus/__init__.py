"""The menus: every action of the window, once, with its key, and when it is possible."""
