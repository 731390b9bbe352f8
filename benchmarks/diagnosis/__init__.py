"""How good the diagnosis is, on circuits whose fault is known."""
