"""Which step in what order, when, and why."""
