"""What counts as calm: levels for the PC at rest, for what is recorded and while it is recorded.

They are numbers alone, because the recorder reads them at the worst moment of the machine's life.
"""

CPU_SHARE = 0.12
"""Highest share of all cores (0 to 1), within the next two bounds."""
LEAST_CORES, MOST_CORES = 0.20, 0.35
"""So much of one core is still calm on a PC with few cores, and no more on one with many."""
DISK_SHARE = 0.25
"""Highest share of the time the disk has work (0 to 1)."""
WINDOW_SECONDS = 10.0
"""How long the calm has to last."""
SPIKE_SHARE = 0.2
"""Share of that time that single spikes may take without breaking the calm."""
