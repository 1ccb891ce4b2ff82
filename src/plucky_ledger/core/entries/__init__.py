"""Startup entries: what starts them, what they run, what is decided about them."""
