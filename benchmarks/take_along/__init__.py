"""How far the plan goes that is taken along where there is no signal."""
