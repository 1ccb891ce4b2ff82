"""What assistive programs are told of our own widgets, where the toolkit could not know."""
