"""What both front ends do. Each reads and writes in one transaction and returns values."""
