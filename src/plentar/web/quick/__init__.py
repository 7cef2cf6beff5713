"""Quick numbers: kilowatts and volts in, amps, ohms and heat out. Keeps no record."""
