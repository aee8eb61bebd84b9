"""Sizes from marks on stills, with honest errors."""
