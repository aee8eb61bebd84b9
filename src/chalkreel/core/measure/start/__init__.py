"""Finding where to start: poses and landmarks from nothing but marks, edges, side tags and rulers."""
