"""What volts and amps did over time while the equipment ran, and what that means."""
