"""Parts of the window that every stage shares."""
