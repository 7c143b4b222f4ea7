"""What is drawn on the stages: one file for each kind of thing, with its layer on the blank and that on the form."""
