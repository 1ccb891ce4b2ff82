"""How a PC went over months: where it got slower, and what came then."""
