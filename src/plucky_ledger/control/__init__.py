"""Changing what starts on a PC, reversibly; its journal of changes."""
