"""What the rules work on: the sheet of a circuit, sizes as they are written, and the published tables."""
