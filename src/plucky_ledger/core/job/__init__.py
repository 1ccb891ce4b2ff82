"""A job: changes, postings, rounds; states of the PC and of entries; what was noticed, advised."""
