"""Files whose lines start programs: tables of timed jobs, shells, desktops, hooks, the bus."""
