"""The stand-in PC: an event-driven simulation that can be recorded, switched and restarted."""
