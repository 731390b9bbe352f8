"""Rules about conductors: what they carry, lose, run in and end on."""
