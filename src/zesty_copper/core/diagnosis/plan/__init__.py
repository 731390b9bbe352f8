"""Which test to do next: most expected information gain for the effort, within scope and stop.

`candidates` lists what may be measured, `effort` prices it, `rough` and `screening` rank it, `information` scores the
best few by `particles`; `inspection` does the same for looks; `owed` asks what must be read whatever it tells.
"""
