"""From what was read and seen to the posterior over faults and nuisance samples.

`two_state` lays out what each reading should be, with the two states of what comes and goes; `slips` is the likelihood
of a mistyped number; `looks` what eyes say; `posterior` joins them; `pairs` looks for two faults where no single one
fits.
"""
