"""The recorder as one file for a stick."""
