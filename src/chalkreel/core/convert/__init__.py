"""What the kit is, what it must become, and from which stock."""
