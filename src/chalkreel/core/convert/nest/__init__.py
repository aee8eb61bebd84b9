"""Pieces laid out on sheets and bars: with outlines, kerf, grain and good faces."""
