"""Tools beside the diagnosis: the quick entry line, quick read of three voltages, what-if, which breaker feeds what."""
