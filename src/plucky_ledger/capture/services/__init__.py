"""What the service managers and the desktop start: services, timers, sign-in programs."""
