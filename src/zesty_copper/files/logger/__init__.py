"""Files of loggers: volts and amps over time as CSV, read and written."""
