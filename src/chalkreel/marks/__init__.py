"""Small drawings for controls: our own chalk ticks."""
