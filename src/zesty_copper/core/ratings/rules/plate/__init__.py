"""Rules about the equipment and what its plate asks."""
