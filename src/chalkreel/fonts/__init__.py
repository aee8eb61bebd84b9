"""The shipped font family."""
