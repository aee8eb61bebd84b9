"""Decoding stills and keeping them quick to show."""
