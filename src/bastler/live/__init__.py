"""The computation in a process of its own: what the window shows is worked out there, and comes as values to show."""
