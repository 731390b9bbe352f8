"""How a diagnosis is said: the evidence for each suspect, the procedure of a test, the lanes drawn on the strip."""
