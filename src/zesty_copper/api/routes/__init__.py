"""Routes, one module for each room that a visitor asks in; each calls one function that knows no HTTP."""
