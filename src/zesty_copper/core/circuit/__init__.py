"""Systems, parts, points, switch states, measurements; ready-made circuits."""
