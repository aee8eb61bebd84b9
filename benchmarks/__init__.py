"""Measurements as ratios between two things in one run."""
