"""Stand-ins: simulated devices that speak the same protocol as the real ones, for the demo and for tests."""
