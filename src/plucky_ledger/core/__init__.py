"""The arithmetic of a job: plain types and pure functions; no files, clock, system, screen."""
