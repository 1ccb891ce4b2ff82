"""What is filled in or watched in place of the lenses: no dialog stands in the way."""
