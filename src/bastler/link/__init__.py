"""The link to a machine: what is said over it, a plain end of it, and what follows from places that were touched."""
