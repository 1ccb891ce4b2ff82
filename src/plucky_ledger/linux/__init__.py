"""Access to the operating system: D-Bus, users, files."""
