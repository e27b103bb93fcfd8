"""What is not a feature: stops, waits, and lines of the machinist's own."""
