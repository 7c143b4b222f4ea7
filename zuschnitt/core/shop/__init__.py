"""What leaves for the shop floor."""
