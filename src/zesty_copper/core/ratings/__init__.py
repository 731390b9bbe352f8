"""What circuit and equipment require, against what is there and what was measured."""
