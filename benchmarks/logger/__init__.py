"""How a logger's file of a million rows is taken in, and drawn."""
