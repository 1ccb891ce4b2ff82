"""What all of the core shares: measures, estimates, reasons, trouble, steps, instants, axes."""
