"""What the operating system is asked and told with: bus, users, files."""
