"""Whether the equipment is proven after the repair: what is asked of it, judged by numbers."""
