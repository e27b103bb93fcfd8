"""What hands a part from one spindle to another."""
