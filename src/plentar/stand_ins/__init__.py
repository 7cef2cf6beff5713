"""Small simulated stand-ins for what is outside the program: a unit, a meter, a technician."""
