"""Deciding what is done about what failed: the repair, what else to inspect, what to match, the order, the proof."""
