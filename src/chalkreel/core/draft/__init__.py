"""Line drawings in millimetres: views of the solved model and templates to cut from."""
