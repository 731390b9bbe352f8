"""What should be there: sizes for a plate, what a circuit may carry, what matches, the voltage drop part by part."""
