"""What each view shows, as values: positions, codes and numbers; no words."""
