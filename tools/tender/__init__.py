"""The demo's subject, the ice tender Ninepin: 3D model, cameras and renderer (not shipped)."""
