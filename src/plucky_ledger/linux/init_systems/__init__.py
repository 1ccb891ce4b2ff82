"""Programs that start a PC's services where no service manager does: which one, and its scripts."""
