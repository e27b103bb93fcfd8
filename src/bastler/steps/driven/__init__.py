"""Feature cycles of driven tools that only a turned part has."""
