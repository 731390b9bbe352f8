"""The observation model: what each measurement would show under every fault and nuisance sample.

A circuit is compiled once (`compiled`: its faults, its nuisance samples, its networks). Every kind of observation has a
module of its own: volts and amps (`phasors`), ohms of what is dead (`ohms`), what is seen, heard and felt (`senses`).
`scales` and `noise` say how far a number may stray.
"""
