"""Simulated devices that ship with the product, each reached as a real one would be."""
