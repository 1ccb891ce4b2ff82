"""Samples: counters, program runs, the recorder and its pace."""
