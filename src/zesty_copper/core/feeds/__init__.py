"""Which breaker, disconnect and thermostat belong to which piece of equipment."""
