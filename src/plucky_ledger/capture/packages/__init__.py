"""Packages: who owns a program, what was installed, what is no longer needed."""
