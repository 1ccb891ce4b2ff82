"""Boots: marks, samples, program runs, what happened over time, and the accounting of one boot."""
