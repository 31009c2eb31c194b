"""Where an edge runs between two tones: grey values in, contours between pixels and their noise out."""
