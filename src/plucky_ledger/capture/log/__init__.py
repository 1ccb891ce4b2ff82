"""The system's log: past boots, starts and wakes, what was installed."""
