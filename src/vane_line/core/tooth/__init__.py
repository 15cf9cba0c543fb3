"""What is known about teeth: notation, axes, anatomy, zones."""
