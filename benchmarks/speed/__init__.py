"""How fast: the core, the API, the page, and the low-rank route against fresh solves and ngspice."""
