"""Statistics: location, odd boots, controls, comparison, sample size, design of experiments."""
