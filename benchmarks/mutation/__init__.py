"""What the tests catch: single lines of the core changed one at a time."""
