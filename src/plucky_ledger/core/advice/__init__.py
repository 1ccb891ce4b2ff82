"""Why a PC is still slow: rules of the trade, held against the figures of this PC."""
