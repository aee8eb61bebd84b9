"""What happened, and what it teaches for the steps ahead."""
