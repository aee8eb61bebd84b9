"""Colours from stills and paint mixes that meet them."""
