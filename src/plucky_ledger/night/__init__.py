"""The night shift: a PC restarts itself through a planned series of states, unattended."""
