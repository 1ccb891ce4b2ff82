"""Whose work it was, and what an entry costs: attribution, contention, workload, replay, cost."""
