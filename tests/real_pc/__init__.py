"""A real PC for the tests: its own service manager, bus, journal, sign-in and startup entries."""
