"""What the mouse does on a stage: one file for each tool."""
