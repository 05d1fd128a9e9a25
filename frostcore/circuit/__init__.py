"""The unit as a circuit: netlist, solver, meter, trace, pictures, SPICE."""
