"""The PC itself: facts, drives, file systems, disk space."""
