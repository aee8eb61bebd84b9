"""Circuits that light, and for how long."""
