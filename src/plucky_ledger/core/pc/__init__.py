"""What a PC has, and what it has beyond a fresh one."""
