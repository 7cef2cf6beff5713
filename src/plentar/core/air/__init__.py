"""What moves the heat away."""
