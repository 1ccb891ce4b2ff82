"""The arithmetic of a job: plain types and pure functions, with no files, clock, system or screen."""
