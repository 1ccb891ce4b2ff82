"""Jobs and the workshop: the shelf, opening a ledger, visits, undo, the demo."""
