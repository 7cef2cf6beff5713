"""What a unit is made of, and how its parts must fit."""
