"""One robust least squares over everything that was marked: cameras, landmarks, edges, circles, rulers."""
