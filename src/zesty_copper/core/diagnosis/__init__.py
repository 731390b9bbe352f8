"""From readings and looks to suspects, verdict and next test.

Rooms, each importing only from those before it: `model` (what goes in and comes out), `predict` (what every fault would
make the meter show), `infer` (from readings to the posterior), `safety` (readings and suspects that stop the work),
`plan` (which test next), `tell` (how it is said), and `diagnose`, which joins them.
"""
