"""A monkey, a fuzzer and a hand that pulls the plug: seeded, a sample in every test run, for long by `make hostile`."""
