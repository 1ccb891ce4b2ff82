"""What an entry costs: who held up whom, a boot replayed without an entry or on other hardware."""
