"""Boots: marks, samples, program runs, what happened over time, and the figures made of it."""
