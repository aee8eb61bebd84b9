"""Chalk Reel: from reference stills to a finished replica."""

__version__ = "0.1.0"
