"""The unit as a network: volts and amps in every state, under every fault."""
