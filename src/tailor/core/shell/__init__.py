"""The shell: leather round the object, and how it lies flat."""
