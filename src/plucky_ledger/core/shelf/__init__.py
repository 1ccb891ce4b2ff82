"""What is kept of each job so that all of them are seen at once."""
