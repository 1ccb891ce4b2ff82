"""Recording boots: of this PC, armed, read back, typed, in turns, through a night."""
