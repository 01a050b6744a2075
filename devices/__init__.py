"""Small interfaces to the shop's devices, and the simulated ones that ship."""
