"""What a phone can say without the program at hand, as data that the program has made."""
