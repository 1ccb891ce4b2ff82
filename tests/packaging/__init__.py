"""What a desktop and a shell want to know of the installed program."""
