"""Showing stills: loading, panning, zooming, chalk over the picture."""
