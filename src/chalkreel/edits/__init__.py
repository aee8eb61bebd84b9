"""What one gesture changes: marks, paint, squared-up stills, frames, removals."""
