"""What code, nameplate and physics require of a circuit, each figure with its source.

`inputs` (the sheet and the published tables), `rules` (one finding each), `sizing` (what should be there), `bench`
(calculators); `worked` and `formulas` are the arithmetic they share.
"""
