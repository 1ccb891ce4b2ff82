"""Made-up PCs with a known truth: what tests and benchmarks judge the estimates by."""
